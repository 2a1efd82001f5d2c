import { useMutation } from '@tanstack/react-query';
import { Button, Trouble } from './basics';
import { Modal } from './Modal';
import { useUndo } from './useUndo';
import { common, confirmUndo as words } from './words';

/** Asks before a step is undone that takes much away, and undoes it. */
export function ConfirmUndo({ step, title, effect, onClose }: { step: number; title: string; effect: string; onClose: () => void }) {
  const undo = useUndo();
  const run = useMutation({ mutationFn: () => undo(step)?.run() ?? Promise.resolve(), onSuccess: onClose });
  return (
    <Modal open onClose={onClose} title={title}>
      <p className="max-w-prose">{effect}</p>
      <Trouble error={run.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>{common.cancel}</Button>
        <Button kind="danger" disabled={run.isPending} onClick={() => run.mutate()}>
          {run.isPending ? words.undoing : common.undo}
        </Button>
      </div>
    </Modal>
  );
}
