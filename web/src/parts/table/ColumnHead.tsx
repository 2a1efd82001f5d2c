import { ArrowDown, ArrowUp } from 'lucide-react';
import { flushSync } from 'react-dom';
import { clsx } from '../clsx';
import type { Column, ColumnTable } from './useColumns';
import { columnHead as words } from './words';

const STEP_PX = 16;

/** The head of a column: a click sorts, its right edge is dragged, or moved by the arrow keys, to another width. */
export function ColumnHead<Row extends object>({
  table,
  column: { key, label, sort, end },
  sorted,
  isFirst,
  onSort,
}: {
  table: ColumnTable<Row>;
  column: Column<Row>;
  sorted: 'ascending' | 'descending' | null;
  isFirst: boolean;
  onSort: (sort: string) => void;
}) {
  const header = table.getFlatHeaders().find(({ id }) => id === key);
  /** Begins with the width that the column has on the screen. */
  const begin = (handle: HTMLElement): number => {
    const known = table.state.columnSizing[key];
    if (known !== undefined) return known;
    const width = handle.parentElement?.offsetWidth ?? 0;
    flushSync(() => table.setColumnSizing((sizes) => ({ ...sizes, [key]: width })));
    return width;
  };
  return (
    <div
      role="columnheader"
      aria-sort={sorted ?? undefined}
      className={clsx('group relative min-w-0 py-1 pr-3', end && 'text-right', isFirst && 'sticky left-0 z-10 bg-paper pl-3')}
    >
      {sort ? (
        <button type="button" className="inline-flex min-h-6 max-w-full items-center gap-1 hover:text-ink" onClick={() => onSort(sort)}>
          <span className="truncate">{label}</span>
          {sorted === 'descending' && <ArrowDown size={11} aria-hidden />}
          {sorted === 'ascending' && <ArrowUp size={11} aria-hidden />}
        </button>
      ) : (
        label
      )}
      <span
        role="slider"
        tabIndex={0}
        aria-orientation="horizontal"
        aria-label={words.widthOf(label)}
        aria-valuenow={Math.round(table.state.columnSizing[key] ?? 0)}
        aria-valuemin={header?.column.columnDef.minSize}
        aria-valuemax={header?.column.columnDef.maxSize}
        className="absolute inset-y-0 right-0 w-2 cursor-col-resize touch-none border-r-2 border-transparent group-hover:border-line focus-visible:border-focus"
        onMouseDown={(event) => {
          begin(event.currentTarget);
          header?.getResizeHandler()(event);
        }}
        onTouchStart={(event) => {
          begin(event.currentTarget);
          header?.getResizeHandler()(event);
        }}
        onKeyDown={(event) => {
          if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return;
          const width = begin(event.currentTarget) + (event.key === 'ArrowLeft' ? -STEP_PX : STEP_PX);
          const { minSize = 0, maxSize = Infinity } = header?.column.columnDef ?? {};
          table.setColumnSizing((sizes) => ({ ...sizes, [key]: Math.min(maxSize, Math.max(minSize, width)) }));
          event.preventDefault();
          event.stopPropagation();
        }}
        onDoubleClick={() => header?.column.resetSize()}
      />
    </div>
  );
}
