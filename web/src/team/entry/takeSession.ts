import type { Session } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { ALL_BUT_SESSION, answerKey } from '../../api/asked';
import { setCsrf } from '../../api/client';

/** Takes up a session that a sign-in gave. */
export function useTakeSession(): (session: Session) => void {
  const client = useQueryClient();
  return (session) => {
    setCsrf(session.csrf);
    client.removeQueries(ALL_BUT_SESSION);
    client.setQueryData(answerKey('getSession'), session);
  };
}
