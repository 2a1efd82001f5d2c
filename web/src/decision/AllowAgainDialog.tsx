import { useMutation, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Address, Button, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { count, counted } from '../parts/numbers';

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
      notice(`${entry.value} is allowed again. ${counted(result.changed, 'email')} changed.`);
    },
  });
  const p = preview.data;
  return (
    <Modal open onClose={onClose} title="Allow again">
      <p>
        <Address className="font-medium">{entry.value}</Address> is no longer kept out, for new and past mail.
      </p>
      <div role="status" className="mt-3 rounded bg-sunk px-3 py-2">
        {p ? (
          <>
            <strong className="tabular">{counted(p.concerned, 'email')}</strong> with {p.value}.{' '}
            {p.tried < p.concerned && <>Counted over the newest {count(p.tried)}: </>}
            <strong className="tabular">{counted(p.wouldReturn, 'email')}</strong> would no longer be kept out;{' '}
            {counted(p.wouldBeFiled, 'email')} would be filed under more records.
          </>
        ) : (
          'Counting the affected emails …'
        )}
      </div>
      <Trouble error={allow.error ?? preview.error} />
      <div className="mt-4 flex gap-2">
        <Button kind="main" disabled={!p || allow.isPending} onClick={() => allow.mutate()}>
          {allow.isPending ? 'Deciding again …' : `Allow ${entry.value} again`}
        </Button>
        <Button onClick={onClose}>Cancel</Button>
      </div>
    </Modal>
  );
}
