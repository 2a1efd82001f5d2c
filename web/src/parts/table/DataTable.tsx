import type { ReactNode } from 'react';
import { clsx } from '../clsx';
import { ColumnHead } from './ColumnHead';
import { ColumnMenu } from './ColumnMenu';
import type { Column } from './useColumns';
import { useColumns } from './useColumns';

/** Rows in the order in which they come, all of them drawn: for tables of a page, not for lists without end. Columns are given widths, hidden and remembered. */
export function DataTable<Row extends object>({
  name,
  label,
  columns,
  rows,
  rowKey,
  least,
  heading,
}: {
  /** Under which the columns are remembered. */
  name: string;
  label: string;
  columns: readonly Column<Row>[];
  rows: readonly Row[];
  rowKey: (row: Row) => string;
  /** Its least width, as CSS: below that it moves sideways, its first column staying in sight. */
  least: string;
  /** Stands beside the menu of columns. */
  heading?: ReactNode;
}) {
  const { table, tracks, shown } = useColumns(name, columns, rows);
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <div className="mr-auto flex flex-wrap items-center gap-2">{heading}</div>
        <ColumnMenu table={table} />
      </div>
      <div className="isolate overflow-x-auto">
        <div role="table" aria-label={label} className="tabular text-sm" style={{ width: `max(100%, ${least})` }}>
          <div role="row" className="grid border-b border-line text-muted" style={{ gridTemplateColumns: tracks }}>
            {shown.map((column, at) => (
              <ColumnHead key={column.key} table={table} column={column} isFirst={at === 0} sorted={null} onSort={() => undefined} />
            ))}
          </div>
          {rows.map((row) => (
            <div key={rowKey(row)} role="row" className="group grid hover:bg-sunk" style={{ gridTemplateColumns: tracks }}>
              {shown.map((column, at) => (
                <div
                  key={column.key}
                  role="cell"
                  className={clsx(
                    'min-w-0 border-b border-line py-1.5 pr-3',
                    column.end && 'text-right',
                    at === 0 && 'sticky left-0 z-10 bg-paper pl-3 group-hover:bg-sunk',
                  )}
                >
                  {column.cell(row)}
                </div>
              ))}
            </div>
          ))}
        </div>
      </div>
    </>
  );
}
