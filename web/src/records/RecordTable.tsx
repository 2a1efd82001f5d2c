import type { OwnField, RecordKind, RecordRow } from '@fulvet/contract';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { clsx } from '../parts/clsx';
import { KIND_LABELS, recordPath } from '../parts/people';
import { columnsFor } from './recordColumns';

const ROW = 34;

/** Records as a table: arrows move, Enter opens, a head sorts. */
export function RecordTable({
  kind,
  rows,
  own,
  sort,
  descending,
  onSort,
  more,
}: {
  kind: RecordKind;
  rows: RecordRow[];
  own: readonly OwnField[];
  sort: string;
  descending: boolean;
  onSort: (sort: string, descending: boolean) => void;
  more: () => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  const go = useNavigate();
  const columns = useMemo(() => columnsFor(kind, own), [kind, own]);
  const template = columns.map((column) => column.width).join(' ');
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
      <div style={{ minWidth: `${columns.length * 6.2}rem` }}>
        <div
          role="row"
          className="sticky top-0 z-10 grid gap-x-3 border-b border-line bg-paper px-3 py-1 text-sm text-muted"
          style={{ gridTemplateColumns: template }}
        >
          {columns.map((column) => (
            <div
              key={column.key}
              role="columnheader"
              aria-sort={sort === column.sort ? (descending ? 'descending' : 'ascending') : undefined}
              className={clsx('truncate', column.end && 'text-right')}
            >
              {column.sort ? (
                <button
                  type="button"
                  className="inline-flex max-w-full items-center gap-1 hover:text-ink"
                  onClick={() => onSort(column.sort ?? 'name', sort === column.sort ? !descending : column.sort !== 'name')}
                >
                  <span className="truncate">{column.label}</span>
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
                  <span key={column.key} role="gridcell" className={clsx('truncate', column.end && 'tabular text-right')}>
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
