import { idRow, rowsOf } from '../base/db/rows';
import { recordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { decideFor } from '../base/concerned';
import { isRefusal } from '../base/refusal';
import type { Undoer } from '../base/undoLog';
import { handOver } from './handOver';
import { tableOf } from './kinds';

const owner = z.number().nullable();
const handed = z.object({ kind: recordKind, to: owner, records: z.array(z.object({ id: z.number(), owner })) });

const handedRow = z.object({ id: z.number(), name: z.string(), theirs: z.boolean() });

/** Records go back to who owned them; those that changed hands again since, or whose owner has left, stay where they are. */
export const undoHandOver: Undoer<z.output<typeof handed>> = {
  kind: 'handOver',
  payload: handed,
  undo: async (services, doer, { kind, to, records }) => {
    const result = await services.database.as(doer.id, async (tx) => {
      const table = tableOf(kind);
      const rows = await rowsOf(
        tx,
        handedRow,
        sql`SELECT id, name, owner_id IS NOT DISTINCT FROM ${to}::bigint AS theirs FROM ${table} WHERE id = ANY(${sql.param(records.map(({ id }) => id))}::bigint[])`,
      );
      const active = await rowsOf(tx, idRow, sql`SELECT id FROM users WHERE active`);
      const hasLeft = (id: number): boolean => {
        const before = records.find((record) => record.id === id)?.owner ?? null;
        return before !== null && !active.some((member) => member.id === before);
      };
      const because = (row: { id: number; theirs: boolean }): string | null =>
        row.theirs ? (hasLeft(row.id) ? 'its owner before has left the team' : null) : 'it changed hands again since';
      const theirs = new Set(rows.filter((row) => because(row) === null).map((row) => row.id));
      const back: number[] = [];
      for (const before of new Set(records.map((record) => record.owner))) {
        const ids = records.filter((record) => record.owner === before && theirs.has(record.id)).map(({ id }) => id);
        if (ids.length === 0) continue;
        const given = await handOver(tx, doer.id, kind, { from: null, ids, to: before });
        if (isRefusal(given)) return given;
        back.push(...given.ids);
      }
      const kept = rows.flatMap((row) => {
        const reason = because(row);
        return reason === null ? [] : [{ kind, id: row.id, name: row.name, because: reason }];
      });
      return { back, kept };
    });
    if (isRefusal(result)) return result;
    const { back, kept } = result;
    await decideFor(services, { addresses: [], domains: [], records: { kind, ids: back } });
    return { changed: back.length, kept };
  },
};
