import type { ReactNode } from 'react';
import { Link } from 'react-router';

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
