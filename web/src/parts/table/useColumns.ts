import type { ColumnDef, ColumnSizingState, ColumnVisibilityState, ReactTable, RowData, Updater } from '@tanstack/react-table';
import { columnResizingFeature, columnSizingFeature, columnVisibilityFeature, tableFeatures, useTable } from '@tanstack/react-table';
import { useMemo, useState } from 'react';
import type { ReactNode } from 'react';

/** A column of a table whose rows come sorted from the server. */
export interface Column<Row> {
  key: string;
  label: string;
  /** What the server sorts by; absent: it does not. */
  sort?: string;
  /** A track of a CSS grid; it counts until the reader gives the column a width. */
  width: string;
  cell: (row: Row) => ReactNode;
  /** Figures, which stand at the right. */
  end?: boolean;
  /** Always shown. */
  isFixed?: boolean;
}

const features = tableFeatures({ columnResizingFeature, columnSizingFeature, columnVisibilityFeature });

export type ColumnTable<Row extends RowData> = ReactTable<typeof features, Row>;

interface Remembered {
  sizes: ColumnSizingState;
  shown: ColumnVisibilityState;
}

const LEAST_PX = 48;
const MOST_PX = 900;

/** What the reader made of the columns of this table before, in this browser. */
function remembered(place: string): Remembered {
  try {
    const { sizes = {}, shown = {} } = JSON.parse(window.localStorage.getItem(place) ?? '{}') as Partial<Remembered>;
    return { sizes, shown };
  } catch {
    return { sizes: {}, shown: {} };
  }
}

const after = <T>(updater: Updater<T>, before: T): T => (typeof updater === 'function' ? (updater as (old: T) => T)(before) : updater);

/**
 * The columns of a table as the reader wants them: their widths and which are shown, remembered under the table's name.
 *
 * @returns the table, and the tracks of its grid
 */
export function useColumns<Row extends object>(
  name: string,
  columns: readonly Column<Row>[],
  rows: readonly Row[],
): { table: ColumnTable<Row>; tracks: string; shown: readonly Column<Row>[] } {
  const place = `fulvet.columns.${name}`;
  const [kept, setKept] = useState(() => ({ place, ...remembered(place) }));
  // Another table in the same place of the page has columns of its own.
  const ofThis = (known: Remembered & { place: string }): Remembered => (known.place === place ? known : remembered(place));
  const state = ofThis(kept);
  const keep = (change: (now: Remembered) => Partial<Remembered>): void =>
    setKept((before) => {
      const now = ofThis(before);
      const { sizes, shown } = { ...now, ...change(now) };
      window.localStorage.setItem(place, JSON.stringify({ sizes, shown }));
      return { place, sizes, shown };
    });
  const defined = useMemo(
    () =>
      columns.map(({ key, label, isFixed }): ColumnDef<typeof features, Row> => ({
        id: key,
        header: label,
        accessorFn: () => null,
        minSize: LEAST_PX,
        maxSize: MOST_PX,
        enableHiding: !isFixed,
      })),
    [columns],
  );
  const table = useTable({
    features,
    columns: defined,
    data: rows as Row[],
    columnResizeMode: 'onChange',
    state: { columnSizing: state.sizes, columnVisibility: state.shown },
    onColumnSizingChange: (updater) => keep(({ sizes }) => ({ sizes: after(updater, sizes) })),
    onColumnVisibilityChange: (updater) => keep(({ shown }) => ({ shown: after(updater, shown) })),
  });
  const shown = columns.filter(({ key }) => state.shown[key] !== false);
  const tracks = shown.map(({ key, width }) => (state.sizes[key] === undefined ? width : `${state.sizes[key]}px`)).join(' ');
  return { table, tracks, shown };
}
