import { useState } from 'react';
import type { ReactNode } from 'react';
import { Button } from './basics';
import { clsx } from './clsx';
import { filterBar as texts } from './words';

/** The filters of a list, beside each other; on a phone behind a button that says how many are in use. The search by words is always there. */
export function FilterBar({ label, used, search, children }: { label: string; used: number; search: ReactNode; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <div className="flex flex-wrap items-center gap-2 px-3 pb-2" role="search" aria-label={label}>
      {search}
      <Button className="sm:hidden" aria-expanded={open} onClick={() => setOpen(!open)}>
        {texts.filters(used > 0 ? ` (${used})` : '', open)}
      </Button>
      <div className={clsx('contents', !open && 'max-sm:hidden')}>{children}</div>
    </div>
  );
}
