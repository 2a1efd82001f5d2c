import type { DomainRow } from '@fulvet/contract';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useDeferredValue, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { Address, Button, Empty, TextInput, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { count, counted, percent } from '../parts/numbers';
import { useAddressBar } from '../parts/useAddressBar';
import { ruleThatFits } from './ruleThatFits';

const SHOWS = [
  ['unmatched', 'Unfiled or waiting'],
  ['junk', 'Kept out and machine mail'],
  ['all', 'Everything'],
] as const;

/** Domains by volume, with the outcomes of their mail and the rule that would fit. */
export function DomainUse() {
  const [params, set] = useAddressBar();
  const show = SHOWS.find(([value]) => value === params.get('show'))?.[0] ?? 'unmatched';
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
        <div className="overflow-x-auto">
          <table className="tabular w-full min-w-[52rem] text-sm">
            <thead className="text-left text-muted">
              <tr>
                <th className="py-1 pr-3 font-normal">domain</th>
                <th className="pr-3 text-right font-normal">emails</th>
                <th className="pr-3 text-right font-normal">received</th>
                <th className="pr-3 text-right font-normal">sent</th>
                <th className="pr-3 text-right font-normal">automatic</th>
                <th className="w-40 pr-3 font-normal">outcome</th>
                <th className="pr-3 font-normal">by the rule</th>
                <th className="pr-3 text-right font-normal">last</th>
                <td />
              </tr>
            </thead>
            <tbody className="divide-y divide-line border-y border-line">
              {rows.map((row) => (
                <DomainLine key={row.domain} row={row} />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function DomainLine({ row }: { row: DomainRow }) {
  const go = useNavigate();
  const fits = ruleThatFits(row);
  return (
    <tr>
      <td className="max-w-60 py-1.5 pr-3">
        <Link className="hover:underline" to={`/all-mail?domain=${encodeURIComponent(row.domain)}`}>
          <Address>{row.domain}</Address>
        </Link>
        {row.accounts.length > 0 && <span className="block text-muted">{row.accounts.join(', ')}</span>}
      </td>
      <td className="pr-3 text-right">{count(row.emails)}</td>
      <td className="pr-3 text-right">{count(row.received)}</td>
      <td className="pr-3 text-right">{count(row.sent)}</td>
      <td className="pr-3 text-right">{percent(row.machine, row.emails)}</td>
      <td className="pr-3">
        <OutcomeBar row={row} />
      </td>
      <td className="max-w-52 truncate pr-3 text-muted" title={row.rule ?? ''}>
        {row.rule ?? '–'}
      </td>
      <td className="pr-3 text-right text-muted">
        <Moment at={row.last} />
      </td>
      <td className="text-right whitespace-nowrap">
        <Button
          kind="quiet"
          title={fits.why}
          onClick={() => void go(`${fits.path}?rule=${encodeURIComponent(row.domain)}&does=${fits.does}`)}
        >
          {fits.label} …
        </Button>
      </td>
    </tr>
  );
}

/** Outcomes as lengths of one bar, said in words for those who do not see it. */
function OutcomeBar({ row }: { row: DomainRow }) {
  const parts = [
    ['filed', row.filed, 'bg-spruce'],
    ['waiting', row.waiting, 'bg-focus'],
    ['unfiled', row.loose, 'bg-muted/50'],
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
