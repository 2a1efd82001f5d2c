import type { RecordKind } from '@fulvet/contract';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { recordPath } from '../../parts/people';

/** A line that leads on. */
export function Door({ to, children }: { to: string; children: ReactNode }) {
  return (
    <li>
      <Link to={to} className="flex min-h-7 items-center gap-3 px-1 py-1.5 hover:bg-sunk">
        {children}
        <span aria-hidden className="ml-auto text-muted">
          →
        </span>
      </Link>
    </li>
  );
}

/** An email in two lines that opens its decision. */
export function EmailDoor({ title, aside, line, onOpen }: { title: string; aside: ReactNode; line: string; onOpen: () => void }) {
  return (
    <button type="button" className="block w-full min-w-0 grow px-1 py-1.5 text-left hover:bg-sunk" onClick={onOpen}>
      <span className="flex flex-wrap gap-x-2">
        <span className="truncate font-medium">{title}</span>
        <span className="tabular ml-auto text-sm whitespace-nowrap text-muted">{aside}</span>
      </span>
      {line !== '' && <span className="block truncate text-muted">{line}</span>}
    </button>
  );
}

/** The record of an email, below it. */
export function RecordLine({ record: { kind, id, name } }: { record: { kind: RecordKind; id: number; name: string } }) {
  return (
    <Link to={recordPath(kind, id)} className="block truncate px-1 pb-1.5 text-sm text-spruce hover:underline">
      {name}
    </Link>
  );
}

/** A part of the home page, with a list below its heading. */
export function HomeList({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <section className="min-w-0">
      <div className="mb-2 flex items-baseline justify-between gap-3">
        <h2 className="text-lg">{title}</h2>
        {aside}
      </div>
      <ul className="divide-y divide-line border-y border-line">{children}</ul>
    </section>
  );
}
