import { useMutation } from '@tanstack/react-query';
import { Button, Trouble } from '../parts/basics';
import { useNotice } from '../parts/Notices';

/** Removes something that is kept; the notice of it brings it back. */
export function RemoveKept({
  remove,
  restore,
  refresh,
  onGone,
  words,
}: {
  remove: () => Promise<unknown>;
  restore: () => Promise<unknown>;
  refresh: () => Promise<void>;
  onGone: () => void;
  words: { remove: string; removed: string; restored: string; undo: string };
}) {
  const notice = useNotice();
  const removing = useMutation({
    mutationFn: remove,
    onSuccess: async () => {
      onGone();
      await refresh();
      const run = async (): Promise<void> => {
        await restore();
        await refresh();
        notice(words.restored);
      };
      notice(words.removed, { label: words.undo, run });
    },
  });
  return (
    <>
      <Button kind="quiet" disabled={removing.isPending} onClick={() => removing.mutate()}>
        {words.remove}
      </Button>
      <Trouble error={removing.error} />
    </>
  );
}
