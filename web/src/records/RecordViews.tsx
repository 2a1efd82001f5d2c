import type { RecordKind, RecordView } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { call } from '../api/call';
import { Button, TextInput, Trouble } from '../parts/basics';
import { useNotice } from '../parts/Notices';

/** Lists that were kept under a name, and a way to keep the one at hand. */
export function RecordViews({ kind }: { kind: RecordKind }) {
  const client = useQueryClient();
  const notice = useNotice();
  const { search } = useLocation();
  const go = useNavigate();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState('');
  const [shared, setShared] = useState(false);
  const views = useQuery({
    queryKey: ['record-views'],
    queryFn: ({ signal }) => call('listViews', {}, signal),
  });
  const query = search.replace(/^\?/, '');
  const refresh = (): Promise<void> => client.invalidateQueries({ queryKey: ['record-views'] });
  const keep = useMutation({
    mutationFn: () => call('keepView', { body: { kind, name, query, shared } }),
    onSuccess: async (view) => {
      setName('');
      setOpen(false);
      await refresh();
      notice(`Kept as “${view.name}”.`);
    },
  });
  const forget = useMutation({ mutationFn: (view: RecordView) => call('forgetView', { id: view.id }), onSuccess: refresh });
  const own = views.data?.views.filter((view) => view.kind === kind) ?? [];
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button>{own.find((item) => item.query === query && query !== '')?.name ?? 'Lists'} ▾</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={6} className="z-40 w-80 max-w-[92vw] rounded border border-line bg-raised p-3 shadow-xl">
          {own.length === 0 && <p className="text-sm text-muted">No list is kept yet. Filter and sort, then give it a name.</p>}
          <ul>
            {own.map((item) => (
              <li key={item.id} className="flex items-baseline gap-2">
                <button
                  type="button"
                  className="min-w-0 grow truncate rounded py-0.5 text-left text-spruce hover:underline"
                  onClick={() => {
                    setOpen(false);
                    void go(`/histories/${kind}?${item.query}`);
                  }}
                >
                  {item.name}
                </button>
                <span className="text-sm text-muted">{item.mine ? (item.shared ? 'shared' : '') : item.by}</span>
                {item.mine && (
                  <button
                    type="button"
                    aria-label={`Forget ${item.name}`}
                    className="text-muted hover:text-brick"
                    onClick={() => forget.mutate(item)}
                  >
                    ×
                  </button>
                )}
              </li>
            ))}
          </ul>
          <form
            className="mt-2 space-y-2 border-t border-line pt-2"
            onSubmit={(event) => {
              event.preventDefault();
              keep.mutate();
            }}
          >
            <TextInput
              aria-label="Name of the list"
              placeholder="Keep this list as …"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <div className="flex items-center justify-between">
              <label className="flex items-center gap-1.5 text-sm">
                <input type="checkbox" checked={shared} onChange={(event) => setShared(event.target.checked)} /> for everyone
              </label>
              <Button kind="main" type="submit" disabled={name.trim() === '' || keep.isPending}>
                Keep
              </Button>
            </div>
            <Trouble error={keep.error ?? forget.error} />
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
