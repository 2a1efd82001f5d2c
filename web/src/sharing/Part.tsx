import type { ReactNode } from 'react';

/** A part of the page under its heading. */
export function Part({ title, hint, children }: { title: string; hint?: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="text-lg">{title}</h2>
      {hint && <p className="text-sm text-muted">{hint}</p>}
      <div className="mt-1.5">{children}</div>
    </section>
  );
}

/** Its lines, or what it says when there are none. */
export function Lines({ empty, children }: { empty: string; children: ReactNode[] }) {
  return (
    <ul className="divide-y divide-line border-y border-line">
      {children.length === 0 ? <li className="px-1 py-2 text-muted">{empty}</li> : children}
    </ul>
  );
}
