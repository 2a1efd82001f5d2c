import type { Workspace } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { ApiFailure } from '../api/client';
import { useRefreshAll } from '../api/queries';
import { Button, Trouble } from '../parts/basics';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { useNotice } from '../parts/Notices';
import { linkAddress as words } from './words';

/** With what links to documents begin. It is kept once it is seen to lead here. */
export function LinkAddress({ workspace }: { workspace: Workspace }) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const done = async ({ address, answers }: { address: string | null; answers: boolean }): Promise<void> => {
    await refresh();
    notice(address === null ? words.noLinks : answers ? words.leadsHere(address) : words.keptUnchecked(address));
  };
  const form = useBodyForm('setLinkAddress', {
    values: { address: workspace.linkAddress ?? window.location.origin },
    input: ({ address }) => ({ body: { address } }),
    onDone: done,
  });
  const keep = useMutation({
    mutationFn: (address: string | null) => call('setLinkAddress', { body: { address, unchecked: true } }),
    onSuccess: done,
  });
  const { errors } = form.fields.formState;
  const mayKeep = errors.address?.type === 'server' || (form.error instanceof ApiFailure && form.error.code === 'does-not-answer');
  return (
    <section aria-label={words.title}>
      <h2 className="text-lg">{words.title}</h2>
      <p className="mb-2 text-sm text-muted">{words.what}</p>
      <Form form={form}>
        <TextField form={form} name="address" label={words.address} type="url" className="font-mono" />
        <div className="flex flex-wrap items-start gap-2">
          <FormEnd form={form} kind="plain" label={words.checkAndKeep} pending={words.checking} />
          {mayKeep && (
            <Button kind="quiet" disabled={keep.isPending} onClick={() => keep.mutate(form.fields.getValues('address'))}>
              {words.keepAllTheSame}
            </Button>
          )}
          {workspace.linkAddress !== null && (
            <Button kind="quiet" disabled={keep.isPending} onClick={() => keep.mutate(null)}>
              {words.makeNone}
            </Button>
          )}
        </div>
        <Trouble error={keep.error} />
      </Form>
      {workspace.linkAddress === null && <p className="mt-1 text-sm text-muted">{words.noneYet}</p>}
    </section>
  );
}
