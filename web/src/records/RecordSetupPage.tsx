import type { DealStage, Input, OwnField, RecordKind, RecordSetup } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answerKey } from '../api/asked';
import { ArrowDown, ArrowUp, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import { Link, NavLink, useParams } from 'react-router';
import { call } from '../api/call';
import { useRecordSetup, useRefreshAll } from '../api/queries';
import { Button, Page, TextInput, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { useNotice } from '../parts/Notices';
import { KIND_LABELS } from '../parts/people';
import { Option, Select } from '../parts/Select';
import { isKind } from '../parts/people';

const TYPES: [OwnField['type'], string][] = [
  ['text', 'Text'],
  ['number', 'Number'],
  ['date', 'Date'],
  ['choice', 'One of several'],
  ['yesNo', 'Yes or no'],
];
/** A field as it is edited; a new one has no key yet, and is told from others by its number. */
type Draft = Omit<OwnField, 'key'> & { key?: string; added?: number };

let lastAdded = 0;
const newField = (): Draft => ({ label: '', type: 'text', choices: [], added: (lastAdded += 1) });

/** The fields that the workspace adds to its records, and the stages of its deals. */
export default function RecordSetupPage() {
  const params = useParams();
  const kind: RecordKind = isKind(params.kind) ? params.kind : 'account';
  const setup = useRecordSetup();
  return (
    <Page
      purpose="Fields of your own for each kind of record, and the stages of deals."
      title="Fields and stages"
      aside={
        <Link to={`/records/${kind}`} className="text-sm text-spruce hover:underline">
          Back to {KIND_LABELS[kind].many.toLowerCase()}
        </Link>
      }
    >
      <nav aria-label="Kinds of records" className="mb-4 flex gap-1">
        {(['account', 'contact', 'lead', 'deal'] as const).map((value) => (
          <NavLink
            key={value}
            to={`/record-setup/${value}`}
            className={({ isActive }) =>
              clsx(
                'rounded px-2.5 py-1',
                isActive ? 'bg-raised font-semibold shadow-[inset_0_-2px_0_var(--spruce)]' : 'text-muted hover:bg-sunk',
              )
            }
          >
            {KIND_LABELS[value].many}
          </NavLink>
        ))}
      </nav>
      {setup.isPending && <Waiting what="Fetching" />}
      <Trouble error={setup.error} />
      {setup.data && <Fields key={kind} kind={kind} fields={setup.data.ownFields[kind] ?? []} />}
      {setup.data && kind === 'deal' && <Stages stages={setup.data.stages} />}
    </Page>
  );
}

function useSave<T>(save: (rows: T) => Promise<RecordSetup>, said: string) {
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  return useMutation({
    mutationFn: save,
    onSuccess: async (setup) => {
      client.setQueryData(answerKey('getRecordSetup'), setup);
      await refresh();
      notice(said);
    },
  });
}

function Fields({ kind, fields }: { kind: RecordKind; fields: readonly OwnField[] }) {
  const [rows, setRows] = useState<Draft[]>([...fields]);
  useEffect(() => setRows([...fields]), [fields]);
  const save = useSave((body: Input<'setOwnFields'>['body']) => call('setOwnFields', { kind, body }), 'The fields are saved.');
  const change = (at: number, part: Partial<Draft>): void =>
    setRows((all) => all.map((draft, position) => (position === at ? { ...draft, ...part } : draft)));
  const gone = fields.filter((field) => !rows.some((row) => row.key === field.key));
  return (
    <section aria-label="Own fields">
      <h2 className="mb-1 text-lg">Own fields of {KIND_LABELS[kind].many.toLowerCase()}</h2>
      <p className="mb-3 max-w-prose text-muted">They appear on every record, in tables and in exports, and rules can use them.</p>
      <ul className="space-y-2">
        {rows.map((row, at) => (
          <li key={row.key ?? `new ${row.added}`} className="grid items-center gap-2 sm:grid-cols-[12rem_9rem_1fr_auto]">
            <TextInput
              aria-label="Name of the field"
              placeholder="Name"
              value={row.label}
              onChange={(event) => change(at, { label: event.target.value })}
            />
            <Select
              aria-label={`Type of ${row.label}`}
              value={row.type}
              onValue={(value) => change(at, { type: value as OwnField['type'] })}
            >
              {TYPES.map(([value, label]) => (
                <Option key={value} value={value}>
                  {label}
                </Option>
              ))}
            </Select>
            {row.type === 'choice' ? (
              <TextInput
                aria-label={`Choices of ${row.label}`}
                placeholder="Choices, with ; between them"
                defaultValue={row.choices.join('; ')}
                onChange={(event) =>
                  change(at, {
                    choices: event.target.value
                      .split(';')
                      .map((part) => part.trim())
                      .filter(Boolean),
                  })
                }
              />
            ) : (
              <span />
            )}
            <Button
              kind="quiet"
              aria-label={`Remove ${row.label || 'the field'}`}
              onClick={() => setRows((all) => all.filter((_, position) => position !== at))}
            >
              <X size={14} />
            </Button>
          </li>
        ))}
      </ul>
      {gone.length > 0 && (
        <p className="mt-2 text-brick">Saving removes {gone.map((item) => item.label).join(', ')} from every record, with all values.</p>
      )}
      <Trouble error={save.error} />
      <div className="mt-3 flex gap-2">
        <Button onClick={() => setRows((all) => [...all, newField()])}>Add a field</Button>
        <Button
          kind="main"
          disabled={save.isPending || rows.some((row) => !row.label.trim())}
          onClick={() => save.mutate({ fields: rows.map(({ added: _, ...field }) => field) })}
        >
          Save the fields
        </Button>
      </div>
    </section>
  );
}

function Stages({ stages }: { stages: readonly DealStage[] }) {
  const [rows, setRows] = useState<DealStage[]>([...stages]);
  useEffect(() => setRows([...stages]), [stages]);
  const save = useSave((body: Input<'setDealStages'>['body']) => call('setDealStages', { body }), 'The stages are saved.');
  const move = (at: number, step: number): void =>
    setRows((all) => {
      const next = [...all];
      const [item] = next.splice(at, 1);
      if (item) next.splice(Math.max(0, at + step), 0, item);
      return next;
    });
  return (
    <section aria-label="Stages" className="mt-8 border-t border-line pt-4">
      <h2 className="mb-1 text-lg">Stages</h2>
      <p className="mb-3 max-w-prose text-muted">In this order on the board. Deals follow a stage that is renamed.</p>
      <ol className="space-y-1.5">
        {rows.map((row, at) => (
          <li key={row.id ?? `new${at}`} className="flex items-center gap-2">
            <TextInput
              aria-label={`Name of stage ${at + 1}`}
              className="w-52!"
              value={row.name}
              onChange={(event) =>
                setRows((all) => all.map((item, position) => (position === at ? { ...item, name: event.target.value } : item)))
              }
            />
            <label className="flex items-center gap-1 text-sm">
              <input
                type="checkbox"
                checked={row.open}
                onChange={(event) =>
                  setRows((all) => all.map((item, position) => (position === at ? { ...item, open: event.target.checked } : item)))
                }
              />{' '}
              open
            </label>
            <Button kind="quiet" aria-label={`Move ${row.name} up`} disabled={at === 0} onClick={() => move(at, -1)}>
              <ArrowUp size={14} />
            </Button>
            <Button kind="quiet" aria-label={`Move ${row.name} down`} disabled={at === rows.length - 1} onClick={() => move(at, 1)}>
              <ArrowDown size={14} />
            </Button>
            <Button
              kind="quiet"
              aria-label={`Remove ${row.name || 'the stage'}`}
              onClick={() => setRows((all) => all.filter((_, position) => position !== at))}
            >
              <X size={14} />
            </Button>
          </li>
        ))}
      </ol>
      <Trouble error={save.error} />
      <div className="mt-3 flex gap-2">
        <Button onClick={() => setRows((all) => [...all, { id: null, name: '', open: true }])}>Add a stage</Button>
        <Button kind="main" disabled={save.isPending || rows.some((row) => !row.name.trim())} onClick={() => save.mutate({ stages: rows })}>
          Save the stages
        </Button>
      </div>
    </section>
  );
}
