import { useState } from 'react';
import type { ReactNode } from 'react';
import { clsx } from '../parts/clsx';

/** What stands beside a history; where there is no room beside it, folded above it until it is asked for. */
export function Aside({ children }: { children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <div className="max-lg:order-first">
      <button
        type="button"
        aria-expanded={open}
        className="w-full rounded border border-line bg-raised px-3 py-1.5 text-left text-sm text-spruce lg:hidden"
        onClick={() => setOpen(!open)}
      >
        {open ? 'Fold what stands beside it' : 'At a glance: last contact, colleagues in touch, facts'}
      </button>
      <aside aria-label="Beside it" className={clsx('text-sm max-lg:mt-3', !open && 'max-lg:hidden')}>
        {children}
      </aside>
    </div>
  );
}
