import { Popover } from 'radix-ui';
import { Button } from '../basics';
import type { ColumnTable } from './useColumns';
import { columnMenu as words } from './words';

/** Which columns a table shows. */
export function ColumnMenu<Row extends object>({ table }: { table: ColumnTable<Row> }) {
  const columns = table.getAllLeafColumns().filter((column) => column.getCanHide());
  const isChanged = Object.keys(table.state.columnSizing).length > 0 || columns.some((column) => !column.getIsVisible());
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button kind="quiet" className="min-h-7">
          {words.columns}
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          className="z-40 max-h-96 overflow-y-auto rounded border border-line bg-raised p-3 shadow-xl"
        >
          {columns.map((column) => (
            <label key={column.id} className="flex min-h-7 items-center gap-2">
              <input type="checkbox" checked={column.getIsVisible()} onChange={column.getToggleVisibilityHandler()} />
              {String(column.columnDef.header)}
            </label>
          ))}
          <Button
            kind="quiet"
            className="mt-1"
            disabled={!isChanged}
            onClick={() => {
              table.setColumnVisibility({});
              table.setColumnSizing({});
            }}
          >
            {words.asTheyWere}
          </Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
