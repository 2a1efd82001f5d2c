import type { OwnField, RecordKind, User } from '@fulvet/contract';
import { useState } from 'react';
import { Link, NavLink, useParams } from 'react-router';
import { queryOf } from '../api/client';
import type { RecordFilter } from '../api/queries';
import { useRecordSetup, useRecords, useTeam } from '../api/queries';
import { Button, Empty, TextInput, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { count } from '../parts/numbers';
import { KINDS, KIND_LABELS, isKind } from '../parts/people';
import { useAddressBar } from '../parts/useAddressBar';
import { DealBoard } from './DealBoard';
import { HandOver } from './HandOver';
import { NewRecord } from './NewRecord';
import { RecordTable } from './RecordTable';
import { RecordViews } from './RecordViews';

const FILTERS = ['text', 'origin', 'open', 'stage', 'owner', 'unanswered', 'quiet', 'own'] as const;

const NO_FIELDS: readonly OwnField[] = [];

/** Accounts, contacts, leads or deals, with the mail that stands under them; deals also by stage. */
export default function RecordsPage({ user }: { user: User }) {
  const params = useParams();
  const kind: RecordKind = isKind(params.kind) ? params.kind : 'account';
  const [search, set] = useAddressBar();
  const [creating, setCreating] = useState(false);
  const setup = useRecordSetup();
  const filter: RecordFilter = Object.fromEntries(FILTERS.flatMap((name) => (search.get(name) ? [[name, search.get(name) ?? '']] : [])));
  const isBoard = kind === 'deal' && search.get('as') === 'board';
  const editable = user.role !== 'viewer';
  return (
    <div className="flex h-screen flex-col max-md:h-[calc(100vh-3rem)]">
      <header className="flex flex-wrap items-center gap-x-1.5 gap-y-2 px-3 pt-4 pb-2">
        <h1 className="sr-only">{KIND_LABELS[kind].many}</h1>
        <nav aria-label="Kinds of records" className="mr-auto flex gap-1">
          {KINDS.map((value) => (
            <NavLink
              key={value}
              to={`/histories/${value}`}
              className={({ isActive }) =>
                clsx(
                  'rounded px-2.5 py-1 font-head text-lg',
                  isActive ? 'bg-raised font-semibold shadow-[inset_0_-2px_0_var(--spruce)]' : 'text-muted hover:bg-sunk',
                )
              }
            >
              {KIND_LABELS[value].many}
            </NavLink>
          ))}
        </nav>
        {kind === 'deal' && (
          <div role="group" aria-label="Show as" className="flex gap-0.5">
            <Button kind={isBoard ? 'quiet' : 'plain'} aria-pressed={!isBoard} onClick={() => set({ as: '' })}>
              Table
            </Button>
            <Button kind={isBoard ? 'plain' : 'quiet'} aria-pressed={isBoard} onClick={() => set({ as: 'board' })}>
              Board
            </Button>
          </div>
        )}
        <RecordViews kind={kind} />
        {editable && <Button onClick={() => setCreating(true)}>New …</Button>}
        {editable && (
          <More kind={kind} user={user} filter={filter} sort={search.get('sort') ?? 'name'} descending={search.get('descending') ?? 'no'} />
        )}
      </header>
      <Filters kind={kind} filter={filter} set={set} own={setup.data?.ownFields[kind] ?? NO_FIELDS} editable={editable} />
      {isBoard ? (
        <DealBoard filter={filter} editable={editable} />
      ) : (
        <Table kind={kind} filter={filter} own={setup.data?.ownFields[kind] ?? NO_FIELDS} />
      )}
      {creating && <NewRecord kind={kind} onClose={() => setCreating(false)} />}
    </div>
  );
}

function Table({ kind, filter, own }: { kind: RecordKind; filter: RecordFilter; own: readonly OwnField[] }) {
  const [search, set] = useAddressBar();
  const sort = search.get('sort') ?? 'name';
  const descending = search.get('descending') ?? 'no';
  const records = useRecords(kind, { ...filter, sort, descending });
  const rows = records.data?.pages.flatMap((page) => page.records) ?? [];
  const filtered = Object.keys(filter).length > 0;
  if (records.isError) return <Trouble error={records.error} />;
  if (records.isPending) return <Waiting what="Fetching" />;
  if (rows.length === 0)
    return (
      <Empty title={filtered ? `No ${KIND_LABELS[kind].one.toLowerCase()} fits` : `No ${KIND_LABELS[kind].many.toLowerCase()} yet`}>
        {filtered ? 'Take away a filter to see more.' : 'Import them from CSV, or let the Create stop make them from mail.'}
      </Empty>
    );
  return (
    <>
      <p className="tabular px-3 pb-1 text-sm text-muted" role="status">
        {count(records.data.pages[0]?.total ?? 0)} {KIND_LABELS[kind].many.toLowerCase()}
      </p>
      <RecordTable
        kind={kind}
        rows={rows}
        own={own}
        sort={sort}
        descending={descending === 'yes'}
        onSort={(column, down) => set({ sort: column, descending: down ? 'yes' : 'no' })}
        more={() => void (records.hasNextPage && !records.isFetchingNextPage && records.fetchNextPage())}
      />
    </>
  );
}

function Filters({
  kind,
  filter,
  set,
  own,
  editable,
}: {
  editable: boolean;
  kind: RecordKind;
  filter: RecordFilter;
  set: (values: Record<string, string>) => void;
  own: readonly OwnField[];
}) {
  const team = useTeam();
  const setup = useRecordSetup();
  const select = 'min-h-8 max-w-44 rounded border border-line bg-raised px-1.5 text-sm';
  const choices = own.filter((field) => field.type === 'choice' || field.type === 'yesNo');
  return (
    <div
      className="flex flex-wrap items-center gap-1.5 px-3 pb-2"
      role="search"
      aria-label={`Filter ${KIND_LABELS[kind].many.toLowerCase()}`}
    >
      <TextInput
        aria-label={`Find ${KIND_LABELS[kind].many.toLowerCase()}`}
        placeholder="Name, address, domain, code"
        className="w-52!"
        value={filter.text ?? ''}
        onChange={(event) => set({ text: event.target.value })}
      />
      <select aria-label="Owner" className={select} value={filter.owner ?? ''} onChange={(event) => set({ owner: event.target.value })}>
        <option value="">Any owner</option>
        <option value="nobody">No owner</option>
        {team.data?.members.map((member) => (
          <option key={member.id} value={member.id}>
            {member.name}
          </option>
        ))}
      </select>
      {kind === 'deal' ? (
        <>
          <select
            aria-label="Open or closed"
            className={select}
            value={filter.open ?? ''}
            onChange={(event) => set({ open: event.target.value })}
          >
            <option value="">Open and closed</option>
            <option value="yes">Open</option>
            <option value="no">Closed</option>
          </select>
          <select aria-label="Stage" className={select} value={filter.stage ?? ''} onChange={(event) => set({ stage: event.target.value })}>
            <option value="">Any stage</option>
            {setup.data?.stages.map((stage) => (
              <option key={stage.name}>{stage.name}</option>
            ))}
          </select>
        </>
      ) : (
        <select
          aria-label="Made by"
          className={select}
          value={filter.origin ?? ''}
          onChange={(event) => set({ origin: event.target.value })}
        >
          <option value="">Created by anyone</option>
          <option value="fulvet">Created from mail</option>
          <option value="people">Entered by people</option>
        </select>
      )}
      <select aria-label="Quiet for" className={select} value={filter.quiet ?? ''} onChange={(event) => set({ quiet: event.target.value })}>
        <option value="">Quiet or not</option>
        {['7', '14', '30', '90'].map((days) => (
          <option key={days} value={days}>
            {days} days quiet
          </option>
        ))}
      </select>
      <label className="flex items-center gap-1 text-sm">
        <input
          type="checkbox"
          checked={filter.unanswered === 'yes'}
          onChange={(event) => set({ unanswered: event.target.checked ? 'yes' : '' })}
        />{' '}
        unanswered
      </label>
      {choices.map((field) => (
        <select
          key={field.key}
          aria-label={field.label}
          className={select}
          value={filter.own?.startsWith(`${field.key}:`) ? filter.own : ''}
          onChange={(event) => set({ own: event.target.value })}
        >
          <option value="">{field.label}: any</option>
          {(field.type === 'yesNo' ? ['yes', 'no'] : field.choices).map((choice) => (
            <option key={choice} value={`${field.key}:${choice}`}>
              {field.label}: {choice}
            </option>
          ))}
        </select>
      ))}
      {editable && /^\d+$/.test(filter.owner ?? '') && team.data && (
        <HandOver kind={kind} from={Number(filter.owner)} members={team.data.members} />
      )}
      {Object.keys(filter).length > 0 && (
        <Button kind="quiet" onClick={() => set(Object.fromEntries(FILTERS.map((name) => [name, ''])))}>
          Clear filters
        </Button>
      )}
    </div>
  );
}

/** What is done less often: bring records, take them along, tidy them up. */
function More({
  kind,
  user,
  filter,
  sort,
  descending,
}: {
  kind: RecordKind;
  user: User;
  filter: RecordFilter;
  sort: string;
  descending: string;
}) {
  const link = 'rounded border border-line bg-raised px-2.5 py-1.5 text-sm hover:border-muted';
  return (
    <>
      {kind !== 'deal' && (
        <Link to={`/duplicates/${kind}`} className={link}>
          Duplicates
        </Link>
      )}
      <Link to={`/histories/${kind}/import`} className={link}>
        Import
      </Link>
      <a href={`/api/v1/records/${kind}/export${queryOf({ ...filter, sort, descending, columns: 'list' })}`} download className={link}>
        Export
      </a>
      {user.role === 'admin' && (
        <Link to={`/record-setup/${kind}`} className={link}>
          Fields
        </Link>
      )}
    </>
  );
}
