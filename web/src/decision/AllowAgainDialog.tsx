import { useMutation, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Address, Button, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { allowAgainDialog as words } from './words';

/** Allows a kept-out domain or address again: its effect in numbers first. */
export function AllowAgainDialog({ entry, onClose }: { entry: { id: string; value: string }; onClose: () => void }) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const preview = useQuery(asked('previewAllowAgain', { entry: entry.id }));
  const allow = useMutation({
    mutationFn: () => call('removeKeepOut', { entry: entry.id }),
    onSuccess: async (result) => {
      await refresh();
      onClose();
      notice(words.isAllowedAgainEmail(entry.value, result.changed));
    },
  });
  const p = preview.data;
  return (
    <Modal open onClose={onClose} title={words.allowAgain}>
      <p>{filled(words.isNoLongerKept, { entry: <Address className="font-medium">{entry.value}</Address> })}</p>
      <div role="status" className="mt-3 rounded bg-sunk px-3 py-2">
        {p
          ? filled(words.withWouldNoLonger, {
              concerned: <strong className="tabular">{counted(p.concerned, 'email')}</strong>,
              p: p.value,
              tried: p.tried < p.concerned && <>{words.countedOverTheNewest(p.tried)} </>,
              wouldReturn: <strong className="tabular">{counted(p.wouldReturn, 'email')}</strong>,
              wouldBeFiled: counted(p.wouldBeFiled, 'email'),
            })
          : words.countingTheAffectedEmails}
      </div>
      <Trouble error={allow.error ?? preview.error} />
      <div className="mt-4 flex gap-2">
        <Button kind="main" disabled={!p || allow.isPending} onClick={() => allow.mutate()}>
          {allow.isPending ? words.decidingAgain : words.allowAgainForEntry(entry.value)}
        </Button>
        <Button onClick={onClose}>{common.cancel}</Button>
      </div>
    </Modal>
  );
}
