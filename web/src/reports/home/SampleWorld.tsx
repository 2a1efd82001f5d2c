import type { Sample } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { asked, answerKey } from '../../api/asked';
import { call } from '../../api/call';
import { useRefreshAll } from '../../api/queries';
import { Button, Trouble } from '../../parts/basics';
import { useNotice } from '../../parts/Notices';
import { sampleWorld as words } from './words';

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
      notice(kept.length === 0 ? words.theSampleWorldIs : words.theSampleWorldIsRemoved(kept.map(({ name }) => name).join(', ')));
    },
  });
  if (!sample || sample.state === 'impossible') return null;
  const { step } = sample;
  return (
    <section
      aria-label={words.sampleWorld}
      className="mb-6 flex flex-wrap items-center gap-x-4 gap-y-2 rounded border border-line px-3 py-2"
    >
      {sample.state === 'possible' && (
        <>
          <span className="min-w-0 grow">
            <strong className="font-semibold">{words.seeItWithMail}</strong>{' '}
            <span className="text-muted">{words.threeMadeUpCustomers}</span>
          </span>
          <Button disabled={load.isPending} onClick={() => load.mutate()}>
            {words.loadASampleWorld}
          </Button>
        </>
      )}
      {sample.state === 'loading' && <span role="status">{words.theSampleWorldIsBeing}</span>}
      {sample.state === 'loaded' && step !== null && (
        <>
          <span className="min-w-0 grow">
            <strong className="font-semibold">{words.theSampleWorldIsLoaded}</strong>{' '}
            <span className="text-muted">{words.removeItBeforeYou}</span>
          </span>
          <Button disabled={remove.isPending} onClick={() => remove.mutate(step)}>
            {words.removeTheSampleWorld}
          </Button>
        </>
      )}
      <Trouble error={load.error ?? remove.error} />
    </section>
  );
}
