import type { DomainRow } from '@fulvet/contract';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useDeferredValue, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { Address, Button, Empty, TextInput, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { count, counted, percent } from '../parts/numbers';
import { DataTable } from '../parts/table/DataTable';
import type { Column } from '../parts/table/useColumns';
import { useAddressBar } from '../parts/useAddressBar';
import { ruleThatFits } from './ruleThatFits';

const SHOWS = [
  ['unfiled', 'Unfiled or waiting'],
  ['junk', 'Kept out and machine mail'],
  ['all', 'Everything'],
] as const;

/** Domains by volume, with the outcomes of their mail and the rule that would fit. */
export function DomainUse() {
  const [params, set] = useAddressBar();
  const show = SHOWS.find(([value]) => value === params.get('show'))?.[0] ?? 'unfiled';
  const [text, setText] = useState('');
  const wanted = useDeferredValue(text.trim());
  const found = useQuery({
    ...asked('listDomainUse', { show, text: wanted, limit: 100 }),
    placeholderData: keepPreviousData,
  });
  const rows = found.data?.rows ?? [];
  return (
    <section aria-label="Domains by volume">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="mr-3 text-lg">Who it is from and to</h2>
        <div role="group" aria-label="Show" className="flex flex-wrap gap-1">
          {SHOWS.map(([value, label]) => (
            <Button
              key={value}
              kind={show === value ? 'plain' : 'quiet'}
              aria-pressed={show === value}
              onClick={() => set({ show: value })}
            >
              {label}
            </Button>
          ))}
        </div>
        <TextInput
          aria-label="Find a domain"
          placeholder="Find a domain"
          className="w-48!"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <span className="tabular text-sm text-muted">
          {found.data &&
            (rows.length < found.data.total
              ? `the first ${rows.length} of ${count(found.data.total)}`
              : counted(found.data.total, 'domain'))}{' '}
          in 90 days
        </span>
      </div>
      <Trouble error={found.error} />
      {found.data?.total === 0 && <Empty title="Nothing here">No domain fits what you chose.</Empty>}
      {rows.length > 0 && (
        <DataTable name="domains" label="Domains by volume" columns={COLUMNS} rows={rows} rowKey={(row) => row.domain} least="60rem" />
      )}
    </section>
  );
}

const COLUMNS: readonly Column<DomainRow>[] = [
  {
    key: 'domain',
    label: 'domain',
    width: 'minmax(13.5rem, 1.5fr)',
    isFixed: true,
    cell: ({ domain, accounts }) => (
      <>
        <Link className="block truncate hover:underline" title={domain} to={`/all-mail?domain=${encodeURIComponent(domain)}`}>
          <Address>{domain}</Address>
        </Link>
        {accounts.length > 0 && <span className="block truncate text-muted">{accounts.join(', ')}</span>}
      </>
    ),
  },
  { key: 'emails', label: 'emails', width: '4.25rem', end: true, cell: ({ emails }) => count(emails) },
  { key: 'received', label: 'received', width: '4.75rem', end: true, cell: ({ received }) => count(received) },
  { key: 'sent', label: 'sent', width: '3.75rem', end: true, cell: ({ sent }) => count(sent) },
  { key: 'machine', label: 'automatic', width: '5.25rem', end: true, cell: ({ machine, emails }) => percent(machine, emails) },
  { key: 'outcome', label: 'outcome', width: 'minmax(8rem, 1fr)', cell: (row) => <OutcomeBar row={row} /> },
  {
    key: 'rule',
    label: 'by the rule',
    width: 'minmax(8rem, 1.2fr)',
    cell: ({ rule }) => (
      <span className="block truncate text-muted" title={rule ?? ''}>
        {rule ?? '–'}
      </span>
    ),
  },
  {
    key: 'last',
    label: 'last',
    width: '5rem',
    end: true,
    cell: ({ last }) => (
      <span className="text-muted">
        <Moment at={last} />
      </span>
    ),
  },
  { key: 'fits', label: 'rule that fits', width: '7.25rem', end: true, cell: (row) => <RuleButton row={row} /> },
];

function RuleButton({ row }: { row: DomainRow }) {
  const go = useNavigate();
  const fits = ruleThatFits(row);
  return (
    <Button
      kind="quiet"
      className="-my-1"
      title={fits.why}
      onClick={() => void go(`${fits.path}?rule=${encodeURIComponent(row.domain)}&does=${fits.does}`)}
    >
      {fits.label} …
    </Button>
  );
}

/** Outcomes as lengths of one bar, said in words for those who do not see it. */
function OutcomeBar({ row }: { row: DomainRow }) {
  const parts = [
    ['filed', row.filed, 'bg-spruce'],
    ['waiting', row.waiting, 'bg-focus'],
    ['unfiled', row.unfiled, 'bg-muted/50'],
    ['kept out', row.keptOut, 'bg-brick/70'],
  ] as const;
  const words = parts.filter(([, number]) => number > 0).map(([name, number]) => `${count(number)} ${name}`);
  return (
    <span title={words.join(', ')}>
      <span aria-hidden className="flex h-1.5 w-full overflow-hidden rounded-full bg-sunk">
        {parts.map(([name, number, colour]) => (
          <span key={name} className={clsx('h-full', colour)} style={{ width: `${(number / row.emails) * 100}%` }} />
        ))}
      </span>
      <span className="text-xs text-muted">{words.join(', ')}</span>
    </span>
  );
}
