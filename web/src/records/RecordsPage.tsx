import type { RecordKind, RecordRow, User } from '@fulvet/contract';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { Link, NavLink, useNavigate, useParams } from 'react-router';
import { useRecords } from '../api/queries';
import { Empty, TextInput, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { count } from '../parts/numbers';
import { KIND_LABELS, recordPath } from '../parts/people';
import { useAddressBar } from '../parts/useAddressBar';

const KINDS: RecordKind[] = ['account', 'contact', 'lead', 'deal'];
const ROW = 34;

export function isKind(text: string | undefined): text is RecordKind {
  return KINDS.includes(text as RecordKind);
}

/** Accounts, contacts, leads or deals, with the mail that stands under them. */
export default function RecordsPage({ user }: { user: User }) {
  const params = useParams();
  const kind: RecordKind = isKind(params.kind) ? params.kind : 'account';
  const [search, set] = useAddressBar();
  const filter = {
    text: search.get('text') ?? '',
    sort: search.get('sort') ?? 'name',
    descending: search.get('descending') ?? 'no',
    origin: search.get('origin') ?? '',
    open: search.get('open') ?? '',
  };
  const records = useRecords(kind, filter);
  const rows = records.data?.pages.flatMap((page) => page.records) ?? [];
  const total = records.data?.pages[0]?.total ?? 0;
  return (
    <div className="flex h-screen flex-col max-md:h-[calc(100vh-3rem)]">
      <header className="flex flex-wrap items-center gap-x-1 gap-y-2 px-3 pt-4 pb-2">
        <h1 className="sr-only">{KIND_LABELS[kind].many}</h1>
        <nav aria-label="Kinds of records" className="mr-4 flex gap-1">
          {KINDS.map((one) => (
            <NavLink
              key={one}
              to={`/histories/${one}`}
              className={({ isActive }) =>
                clsx(
                  'rounded px-2.5 py-1 font-head text-lg',
                  isActive ? 'bg-raised font-semibold shadow-[inset_0_-2px_0_var(--spruce)]' : 'text-muted hover:bg-sunk',
                )
              }
            >
              {KIND_LABELS[one].many}
            </NavLink>
          ))}
        </nav>
        <span className="tabular mr-auto text-muted" role="status">
          {records.isPending ? '' : count(total)}
        </span>
        <TextInput
          aria-label={`Find ${KIND_LABELS[kind].many.toLowerCase()}`}
          placeholder="Name, address, domain, code"
          className="w-56!"
          value={filter.text}
          onChange={(event) => set({ text: event.target.value })}
        />
        {kind === 'deal' && (
          <select
            aria-label="Open or closed"
            className="min-h-8 rounded border border-line bg-raised px-1.5 text-sm"
            value={filter.open}
            onChange={(event) => set({ open: event.target.value })}
          >
            <option value="">Open and closed</option>
            <option value="yes">Open</option>
            <option value="no">Closed</option>
          </select>
        )}
        {kind !== 'deal' && (
          <select
            aria-label="Made by"
            className="min-h-8 rounded border border-line bg-raised px-1.5 text-sm"
            value={filter.origin}
            onChange={(event) => set({ origin: event.target.value })}
          >
            <option value="">Made by anybody</option>
            <option value="fulvet">Created from mail</option>
            <option value="people">Entered by people</option>
          </select>
        )}
        {user.role !== 'viewer' && (
          <>
            <Link
              to={`/histories/${kind}/import`}
              className="rounded border border-line bg-raised px-2.5 py-1.5 text-sm hover:border-muted"
            >
              Import
            </Link>
            <a
              href={`/api/v1/records/${kind}/export`}
              download
              className="rounded border border-line bg-raised px-2.5 py-1.5 text-sm hover:border-muted"
            >
              Export
            </a>
          </>
        )}
      </header>
      {records.isError && <Trouble error={records.error} />}
      {records.isPending && <Waiting what="Fetching" />}
      {!records.isPending && rows.length === 0 && (
        <Empty
          title={
            filter.text || filter.origin || filter.open
              ? `No ${KIND_LABELS[kind].one.toLowerCase()} fits`
              : `No ${KIND_LABELS[kind].many.toLowerCase()} yet`
          }
        >
          {filter.text || filter.origin || filter.open
            ? 'Take away a filter to see more.'
            : 'Import them from CSV, or let the Create stop make them from mail.'}
        </Empty>
      )}
      {rows.length > 0 && (
        <Table
          kind={kind}
          rows={rows}
          sort={filter.sort}
          descending={filter.descending === 'yes'}
          onSort={(sort, descending) => set({ sort, descending: descending ? 'yes' : 'no' })}
          more={() => void (records.hasNextPage && !records.isFetchingNextPage && records.fetchNextPage())}
        />
      )}
    </div>
  );
}

interface Column {
  label: string;
  sort?: string;
  width: string;
  cell: (row: RecordRow) => React.ReactNode;
  end?: boolean;
}

function columnsFor(kind: RecordKind): Column[] {
  const name: Column = {
    label: 'Name',
    sort: 'name',
    width: 'minmax(10rem,2fr)',
    cell: (row) => <span className="font-medium">{row.name}</span>,
  };
  const owner: Column = { label: 'Owner', width: 'minmax(6rem,1fr)', cell: (row) => row.owner };
  const emails: Column = { label: 'Emails', sort: 'emails', width: '5rem', cell: (row) => count(row.emails), end: true };
  const last: Column = {
    label: 'Last email',
    sort: 'lastEmail',
    width: '7rem',
    cell: (row) => row.lastEmailAt && <Moment at={row.lastEmailAt} />,
    end: true,
  };
  const mono = (label: string): Column => ({
    label,
    width: 'minmax(8rem,1.5fr)',
    cell: (row) => <span className="font-mono text-sm text-muted">{row.addresses.join(', ')}</span>,
  });
  if (kind === 'account')
    return [name, mono('Domains'), { label: 'Type', width: 'minmax(6rem,1fr)', cell: (row) => row.detail }, owner, emails, last];
  if (kind === 'contact')
    return [
      name,
      { label: 'Account', width: 'minmax(8rem,1.3fr)', cell: (row) => row.account?.name },
      mono('Addresses'),
      { label: 'Title', width: 'minmax(6rem,1fr)', cell: (row) => row.detail },
      emails,
      last,
    ];
  if (kind === 'lead')
    return [
      name,
      { label: 'Company and status', width: 'minmax(8rem,1.3fr)', cell: (row) => row.detail },
      mono('Addresses'),
      owner,
      emails,
      last,
    ];
  return [
    { label: 'Code', width: '6rem', cell: (row) => <span className="font-mono text-sm">{row.code}</span> },
    name,
    { label: 'Account', width: 'minmax(8rem,1.3fr)', cell: (row) => row.account?.name },
    { label: 'Stage', width: 'minmax(6rem,1fr)', cell: (row) => <span className={row.open ? '' : 'text-muted'}>{row.stage}</span> },
    {
      label: 'Amount',
      sort: 'amount',
      width: '7rem',
      cell: (row) => row.amount !== null && `${count(row.amount)} ${row.currency ?? ''}`,
      end: true,
    },
    emails,
    last,
  ];
}

function Table({
  kind,
  rows,
  sort,
  descending,
  onSort,
  more,
}: {
  kind: RecordKind;
  rows: RecordRow[];
  sort: string;
  descending: boolean;
  onSort: (sort: string, descending: boolean) => void;
  more: () => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  const go = useNavigate();
  const columns = columnsFor(kind);
  const template = columns.map((one) => one.width).join(' ');
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => ROW, overscan: 12 });
  const shown = virtual.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last >= rows.length - 20) more();
  }, [last, rows.length, more]);
  return (
    <div
      ref={box}
      className="min-h-0 grow overflow-auto border-t border-line"
      role="grid"
      aria-label={KIND_LABELS[kind].many}
      aria-rowcount={rows.length}
      tabIndex={0}
      onKeyDown={(event) => {
        if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
          const next = Math.max(0, Math.min(rows.length - 1, at + (event.key === 'ArrowDown' ? 1 : -1)));
          setAt(next);
          virtual.scrollToIndex(next);
          event.preventDefault();
        } else if (event.key === 'Enter' && event.target === event.currentTarget && rows[at]) void go(recordPath(kind, rows[at].id));
      }}
    >
      <div className="min-w-[46rem]">
        <div
          role="row"
          className="sticky top-0 z-10 grid gap-x-3 border-b border-line bg-paper px-3 py-1 text-sm text-muted"
          style={{ gridTemplateColumns: template }}
        >
          {columns.map((column) => (
            <div
              key={column.label}
              role="columnheader"
              aria-sort={sort === column.sort ? (descending ? 'descending' : 'ascending') : undefined}
              className={clsx(column.end && 'text-right')}
            >
              {column.sort ? (
                <button
                  type="button"
                  className="inline-flex items-center gap-1 hover:text-ink"
                  onClick={() => onSort(column.sort ?? 'name', sort === column.sort ? !descending : column.sort !== 'name')}
                >
                  {column.label}
                  {sort === column.sort && (descending ? <ArrowDown size={11} aria-hidden /> : <ArrowUp size={11} aria-hidden />)}
                </button>
              ) : (
                column.label
              )}
            </div>
          ))}
        </div>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {shown.map((item) => {
            const row = rows[item.index];
            if (!row) return null;
            return (
              <Link
                key={row.id}
                to={recordPath(kind, row.id)}
                role="row"
                tabIndex={-1}
                aria-selected={item.index === at}
                className={clsx(
                  'absolute inset-x-0 top-0 grid items-center gap-x-3 border-b border-line px-3 hover:bg-sunk',
                  item.index === at && 'bg-raised',
                )}
                style={{ gridTemplateColumns: template, height: ROW, transform: `translateY(${item.start}px)` }}
              >
                {columns.map((column) => (
                  <span key={column.label} role="gridcell" className={clsx('truncate', column.end && 'tabular text-right')}>
                    {column.cell(row)}
                  </span>
                ))}
              </Link>
            );
          })}
        </div>
      </div>
    </div>
  );
}
