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
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { domainUse as texts } from './words';

const SHOWS = [
  ['unfiled', texts.unfiledOrWaiting],
  ['junk', texts.keptOutAndMachine],
  ['all', texts.everything],
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
    <section aria-label={texts.domainsByVolume}>
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="mr-3 text-lg">{texts.whoItIsFrom}</h2>
        <div role="group" aria-label={texts.show} className="flex flex-wrap gap-1">
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
          aria-label={texts.findADomain}
          placeholder={texts.findADomain}
          className="w-48!"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <span className="tabular text-sm text-muted">
          {filled(texts.in90Days, {
            manyRows:
              found.data &&
              (rows.length < found.data.total ? texts.theFirstOf(rows.length, found.data.total) : counted(found.data.total, 'domain')),
          })}
        </span>
      </div>
      <Trouble error={found.error} />
      {found.data?.total === 0 && <Empty title={texts.nothingHere}>{texts.noDomainFitsWhat}</Empty>}
      {rows.length > 0 && (
        <DataTable name="domains" label={texts.domainsByVolume} columns={COLUMNS} rows={rows} rowKey={(row) => row.domain} least="60rem" />
      )}
    </section>
  );
}

const COLUMNS: readonly Column<DomainRow>[] = [
  {
    key: 'domain',
    label: texts.domain,
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
  { key: 'emails', label: common.emailsSmall, width: '4.25rem', end: true, cell: ({ emails }) => count(emails) },
  { key: 'received', label: texts.received, width: '4.75rem', end: true, cell: ({ received }) => count(received) },
  { key: 'sent', label: texts.sent, width: '3.75rem', end: true, cell: ({ sent }) => count(sent) },
  { key: 'machine', label: texts.automatic, width: '5.25rem', end: true, cell: ({ machine, emails }) => percent(machine, emails) },
  { key: 'outcome', label: texts.outcome, width: 'minmax(8rem, 1fr)', cell: (row) => <OutcomeBar row={row} /> },
  {
    key: 'rule',
    label: texts.byTheRule,
    width: 'minmax(8rem, 1.2fr)',
    cell: ({ rule }) => (
      <span className="block truncate text-muted" title={rule ?? ''}>
        {rule ?? '–'}
      </span>
    ),
  },
  {
    key: 'last',
    label: texts.last,
    width: '5rem',
    end: true,
    cell: ({ last }) => (
      <span className="text-muted">
        <Moment at={last} />
      </span>
    ),
  },
  { key: 'fits', label: texts.ruleThatFits, width: '7.25rem', end: true, cell: (row) => <RuleButton row={row} /> },
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
