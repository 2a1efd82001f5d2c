import type { Sample } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { asked, answerKey } from '../../api/asked';
import { call } from '../../api/call';
import { useRefreshAll } from '../../api/queries';
import { Button, Trouble } from '../../parts/basics';
import { useNotice } from '../../parts/Notices';

const LOOK_MS = 700;

/** How it stands with the sample world; followed while it is loaded. */
export const useSample = () =>
  useQuery({
    ...asked('getSample'),
    refetchInterval: ({ state }) => (state.data?.state === 'loading' ? LOOK_MS : false),
  });

/** Loads a small made-up world into an empty workspace, and removes it again. */
export function SampleWorld() {
  const sample = useSample().data;
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const load = useMutation({
    mutationFn: () => call('loadSample', {}),
    onSuccess: async (loaded) => {
      client.setQueryData<Sample>(answerKey('getSample'), loaded);
      await refresh();
    },
  });
  const remove = useMutation({
    mutationFn: (id: number) => call('undo', { id }),
    onSuccess: async ({ kept }) => {
      await refresh();
      notice(
        kept.length === 0
          ? 'The sample world is removed.'
          : `The sample world is removed, but for what was changed since: ${kept.map(({ name }) => name).join(', ')}.`,
      );
    },
  });
  if (!sample || sample.state === 'impossible') return null;
  const { step } = sample;
  return (
    <section aria-label="Sample world" className="mb-6 flex flex-wrap items-center gap-x-4 gap-y-2 rounded border border-line px-3 py-2">
      {sample.state === 'possible' && (
        <>
          <span className="min-w-0 grow">
            <strong className="font-semibold">See it with mail first.</strong>{' '}
            <span className="text-muted">
              Three made-up customers, their deals and 23 emails with you. Only you see the mail, and one click removes all of it.
            </span>
          </span>
          <Button disabled={load.isPending} onClick={() => load.mutate()}>
            Load a sample world
          </Button>
        </>
      )}
      {sample.state === 'loading' && <span role="status">The sample world is being loaded …</span>}
      {sample.state === 'loaded' && step !== null && (
        <>
          <span className="min-w-0 grow">
            <strong className="font-semibold">The sample world is loaded.</strong>{' '}
            <span className="text-muted">Remove it before you add your own records and mail.</span>
          </span>
          <Button disabled={remove.isPending} onClick={() => remove.mutate(step)}>
            Remove the sample world
          </Button>
        </>
      )}
      <Trouble error={load.error ?? remove.error} />
    </section>
  );
}
