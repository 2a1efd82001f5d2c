import type { OwnField, RecordKind, RecordRow } from '@fulvet/contract';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { CSSProperties } from 'react';
import { Link, useNavigate } from 'react-router';
import { clsx } from '../parts/clsx';
import { rowHeight } from '../parts/display';
import { recordPath } from '../parts/people';
import { ColumnHead } from '../parts/table/ColumnHead';
import { ColumnMenu } from '../parts/table/ColumnMenu';
import { useColumns } from '../parts/table/useColumns';
import type { Column } from '../parts/table/useColumns';
import { columnsFor } from './recordColumns';

/** Height of a row in pixels, where rows are compact. */
const ROW = 34;

/** Records as a table: arrows move, Enter opens, a head sorts; columns are given widths, hidden and remembered. */
export function RecordTable({
  kind,
  rows,
  own,
  sort,
  descending,
  onSort,
  more,
  said,
  label,
}: {
  kind: RecordKind;
  rows: RecordRow[];
  own: readonly OwnField[];
  sort: string;
  descending: boolean;
  onSort: (sort: string, descending: boolean) => void;
  more: () => void;
  /** How many there are. */
  said: string;
  /** What they are called. */
  label: string;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [position, setAt] = useState(0);
  // Filters may leave fewer rows than there were.
  const at = Math.min(position, Math.max(0, rows.length - 1));
  const go = useNavigate();
  const columns = useMemo(() => columnsFor(kind, own), [kind, own]);
  const { table, tracks, shown: visible } = useColumns(kind, columns, rows);
  const height = rowHeight(ROW);
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => height, overscan: 12 });
  const shown = virtual.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last >= rows.length - 20) more();
  }, [last, rows.length, more]);
  return (
    <>
      <div className="flex items-center gap-3 px-3 pb-1 text-sm text-muted">
        <p className="tabular mr-auto" role="status">
          {said}
        </p>
        <ColumnMenu table={table} />
      </div>
      <div
        ref={box}
        className="min-h-0 grow overflow-auto border-t border-line"
        role="grid"
        aria-label={label}
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
        <div className="w-max min-w-full" style={{ minWidth: `max(100%, ${visible.length * 6.2}rem)` }}>
          <div
            role="row"
            className="sticky top-0 z-20 grid border-b border-line bg-paper text-sm text-muted"
            style={{ gridTemplateColumns: tracks }}
          >
            {visible.map((column, position) => (
              <ColumnHead
                key={column.key}
                table={table}
                column={column}
                isFirst={position === 0}
                sorted={sort !== column.sort ? null : descending ? 'descending' : 'ascending'}
                onSort={(by) => onSort(by, sort === by ? !descending : by !== 'name')}
              />
            ))}
          </div>
          <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {shown.map((item) => {
              const record = rows[item.index];
              return (
                record && (
                  <Line
                    key={record.id}
                    record={record}
                    path={recordPath(kind, record.id)}
                    columns={visible}
                    isAt={item.index === at}
                    style={{ gridTemplateColumns: tracks, height, transform: `translateY(${item.start}px)` }}
                  />
                )
              );
            })}
          </div>
        </div>
      </div>
    </>
  );
}

/** One record; its first cell stays in sight while the others move sideways. */
function Line({
  record,
  path,
  columns,
  isAt,
  style,
}: {
  record: RecordRow;
  path: string;
  columns: readonly Column<RecordRow>[];
  isAt: boolean;
  style: CSSProperties;
}) {
  const go = useNavigate();
  const ground = isAt ? 'bg-raised' : 'bg-paper';
  return (
    <div
      role="row"
      onClick={(event) => {
        // A link in the row goes its own way, to another tab as well.
        if (!(event.target as HTMLElement).closest('a')) void go(path);
      }}
      aria-selected={isAt}
      className={clsx('group absolute inset-x-0 top-0 grid cursor-pointer border-b border-line hover:bg-sunk', ground)}
      style={style}
    >
      {columns.map((column, position) => (
        <span
          key={column.key}
          role="gridcell"
          className={clsx(
            'flex min-w-0 items-center pr-3',
            column.end && 'tabular justify-end',
            position === 0 && clsx('sticky left-0 z-10 pl-3 group-hover:bg-sunk', ground),
          )}
        >
          <span className="min-w-0 truncate">
            {position === 0 ? (
              <Link to={path} tabIndex={-1}>
                {column.cell(record)}
              </Link>
            ) : (
              column.cell(record)
            )}
          </span>
        </span>
      ))}
    </div>
  );
}
