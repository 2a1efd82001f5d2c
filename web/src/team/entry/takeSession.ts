import type { Session } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { setCsrf } from '../../api/client';

/** Takes up a session that a sign-in gave. */
export function useTakeSession(): (session: Session) => void {
  const client = useQueryClient();
  return (session) => {
    setCsrf(session.csrf);
    client.removeQueries({ predicate: (query) => query.queryKey[0] !== 'session' });
    client.setQueryData(['session'], session);
  };
}
