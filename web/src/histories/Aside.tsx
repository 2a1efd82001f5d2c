import { useState } from 'react';
import type { ReactNode } from 'react';
import { clsx } from '../parts/clsx';
import { aside as words } from './words';

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
        {open ? words.foldWhatStandsBeside : words.atAGlanceLast}
      </button>
      <aside aria-label={words.besideIt} className={clsx('text-sm max-lg:mt-3', !open && 'max-lg:hidden')}>
        {children}
      </aside>
    </div>
  );
}
