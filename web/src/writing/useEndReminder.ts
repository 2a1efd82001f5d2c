import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';

/** Ends a reminder: of the email with this number under _Outgoing_ the reader is reminded no more. */
export function useEndReminder() {
  const refresh = useRefreshAll();
  const notice = useNotice();
  return useMutation({
    mutationFn: (id: number) => call('endReminder', { id }),
    onSuccess: () => refresh(),
    onError: (error) => notice(error.message),
  });
}
