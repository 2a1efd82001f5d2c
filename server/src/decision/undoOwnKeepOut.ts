import { sql } from 'drizzle-orm';
import type { OwnKeepOut } from '@fulvet/contract';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Jobs, Services } from '../base/services';
import type { Undoer } from '../base/undoLog';

const added = z.object({ id: z.number() });
const entryRow = z.object({ kind: z.enum(['address', 'domain']), value: z.string() });

/** Who was kept out of the doer's own mail comes in again. */
export const undoOwnKeepOut: Undoer<z.output<typeof added>> = {
  kind: 'ownKeepOut',
  payload: added,
  undo: async (services, doer, { id }) => {
    const refused = await allowAgain(services, doer.id, id);
    return isRefusal(refused) ? refused : { changed: 1, kept: [] };
  },
};

/** Takes an entry off the member's own list, and has its mail decided again. */
export async function allowAgain(services: Services, userId: number, id: number): Promise<Refusal | null> {
  const [entry] = await services.database.as(userId, (tx) =>
    rowsOf(tx, entryRow, sql`DELETE FROM own_keep_outs WHERE id = ${id} RETURNING kind, value`),
  );
  if (!entry) return notFound('entry of yours');
  await decideKeptOut(services.jobs, entry);
  return null;
}

export const decideKeptOut = (jobs: Jobs, { kind, value }: Pick<OwnKeepOut, 'kind' | 'value'>): Promise<void> =>
  jobs.decideConcerned(kind === 'address' ? { addresses: [value], domains: [] } : { addresses: [], domains: [value] });
