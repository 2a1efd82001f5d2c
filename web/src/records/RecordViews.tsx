import type { RecordKind, RecordView } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked } from '../api/asked';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { call } from '../api/call';
import { Button, Trouble } from '../parts/basics';
import { Form, FormEnd, TextField, TickField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { useNotice } from '../parts/Notices';
import { common } from '../parts/words';
import { recordViews as words } from './words';

/** Filters that were saved under a name, and a way to save those in use. */
export function RecordViews({ kind, of }: { kind: RecordKind; of: string | undefined }) {
  const client = useQueryClient();
  const notice = useNotice();
  const { search } = useLocation();
  const go = useNavigate();
  const [open, setOpen] = useState(false);
  const views = useQuery(asked('listViews'));
  const used = new URLSearchParams(search);
  if (of !== undefined) used.set('of', of);
  const query = used.toString();
  const refresh = (): Promise<void> => client.invalidateQueries(answersOf('listViews'));
  const form = useBodyForm('keepView', {
    values: { name: '', shared: false },
    input: (values) => ({ body: { kind, query, ...values } }),
    onDone: async (view) => {
      form.fields.reset();
      setOpen(false);
      await refresh();
      notice(words.savedAs(view.name));
    },
  });
  const forget = useMutation({ mutationFn: (view: RecordView) => call('forgetView', { id: view.id }), onSuccess: refresh });
  const own =
    views.data?.views.filter((view) => view.kind === kind && (of === undefined || new URLSearchParams(view.query).get('of') === of)) ?? [];
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button>{own.find((item) => item.query === query && query !== '')?.name ?? words.savedFilters} ▾</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={6} className="z-40 w-80 max-w-[92vw] rounded border border-line bg-raised p-3 shadow-xl">
          {own.length === 0 && <p className="text-sm text-muted">{words.noSavedFiltersYet}</p>}
          <ul>
            {own.map((item) => (
              <li key={item.id} className="flex items-baseline gap-2">
                <button
                  type="button"
                  className="min-w-0 grow truncate rounded py-0.5 text-left text-spruce hover:underline"
                  onClick={() => {
                    setOpen(false);
                    void go(`/records/${kind}?${item.query}`);
                  }}
                >
                  {item.name}
                </button>
                <span className="text-sm text-muted">{item.mine ? (item.shared ? words.shared : '') : item.by}</span>
                {item.mine && (
                  <button
                    type="button"
                    aria-label={words.delete(item.name)}
                    className="text-muted hover:text-brick"
                    onClick={() => forget.mutate(item)}
                  >
                    ×
                  </button>
                )}
              </li>
            ))}
          </ul>
          <Form form={form} className="mt-2 space-y-2 border-t border-line pt-2">
            <TextField form={form} name="name" label={words.saveTheseFiltersAs} />
            <div className="flex items-center justify-between">
              <TickField form={form} name="shared" label={words.forEveryone} />
              <FormEnd form={form} label={common.save} />
            </div>
            <Trouble error={forget.error} />
          </Form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
