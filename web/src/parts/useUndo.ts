import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from './Notices';
import { counted } from './numbers';
import { common, useUndo as words } from './words';

/** What a notice offers to take back a step that the server has noted; null where nothing was changed. */
export function useUndo(): (step: number | null) => { label: string; run: () => Promise<void> } | undefined {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = async (step: number): Promise<void> => {
    const { kept } = await call('undo', { id: step });
    await refresh();
    const stays = kept.map(({ name, because }) => `${name} (${because})`);
    notice(
      kept.length === 0
        ? words.undone
        : words.undoneExcept(
            counted(kept.length, kept.every(({ kind }) => kind === 'email') ? 'email' : 'record'),
            stays.slice(0, 3).join(', '),
            kept.length,
          ),
    );
  };
  return (step) => (step === null ? undefined : { label: common.undo, run: () => undo(step) });
}
