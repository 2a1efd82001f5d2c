import { Refusal, isRefusal, notFound } from '../base/refusal';
import { sql } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import type { Handlers } from '../base/handler';
import { iso } from '../base/iso';
import type { Services } from '../base/services';
import { changeDraftToo } from '../rulebook/draft';
import { entryFrom, withEntry, withoutEntry } from '../rulebook/keepOutEntry';
import { putRulebook, storedRulebook } from '../rulebook/liveRulebook';
import { changePilotToo } from '../rulebook/pilot';
import { takeRulebookLock } from '../rulebook/rulebookLock';
import { runDecisions } from './decideRun';
import { noteUndo, scopeOf } from './keepOutNow';
import { previewKeepOut } from './previewKeepOut';

async function takeOff(services: Services, userId: number, entryId: string): Promise<{ changed: number; version: number } | Refusal> {
  const result = await services.database.as(userId, async (tx) => {
    await takeRulebookLock(tx);
    const { rulebook } = await storedRulebook(tx);
    const found = rulebook.keepOut.entries.find((item) => item.id === entryId);
    if (!found) return new Refusal('unknown', 'not-found', 'This entry is not on the kept-out list any more.');
    await tx.execute(sql`UPDATE undo_steps SET undone_at = now() WHERE entry_id = ${entryId} AND undone_at IS NULL`);
    const next = await putRulebook(tx, withoutEntry(rulebook, entryId), `No longer keep out ${found.value}`, userId);
    await changeDraftToo(tx, next, (draft) => withoutEntry(draft, entryId));
    await changePilotToo(tx, (pilot) => withoutEntry(pilot, entryId));
    return { entry: found, version: next };
  });
  if (isRefusal(result)) return result;
  const { entry, version } = result;
  const report = await runDecisions(services.database, services.blobs, scopeOf(entry));
  return { changed: report.changed, version };
}

export const keepOutRoutes: Pick<Handlers, 'previewKeepOut' | 'keepOut' | 'removeKeepOut' | 'listUndo' | 'undo'> = {
  previewKeepOut: async ({ body, services }) => {
    const entry = entryFrom(body, 'preview', '', '');
    return isRefusal(entry) ? entry : previewKeepOut(services.database, services.blobs, entry);
  },

  keepOut: async ({ user, body, services }) => {
    const { database } = services;
    const entry = entryFrom(body, `out-${randomBytes(4).toString('hex')}`, user.name, new Date().toISOString());
    if (isRefusal(entry)) return entry;
    const result = await database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const { rulebook } = await storedRulebook(tx);
      if (rulebook.keepOut.entries.some((item) => item.kind === entry.kind && item.value === entry.value))
        return new Refusal('conflict', 'exists', `${entry.value} is on the kept-out list already.`);
      const next = await putRulebook(tx, withEntry(rulebook, entry), `Keep out ${entry.value}`, user.id);
      await changeDraftToo(tx, next, (draft) => withEntry(draft, entry));
      await changePilotToo(tx, (pilot) => withEntry(pilot, entry));
      return {
        version: next,
        undo: {
          ...(await noteUndo(tx, user.id, `Keep out ${entry.value}`, entry.id)),
          summary: `Keep out ${entry.value}`,
          by: user.name,
          undone: false,
        },
      };
    });
    if (isRefusal(result)) return result;
    const { version, undo } = result;
    const report = await runDecisions(database, services.blobs, scopeOf(entry));
    return { undo, changed: report.changed, version };
  },

  removeKeepOut: async ({ user, params, services }) => takeOff(services, user.id, params.entry),

  listUndo: async ({ user, services }) => {
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ id: number; summary: string; created_at: string; undone_at: string | null; by: string }>(
        sql`SELECT s.id, s.summary, s.created_at, s.undone_at, u.name AS by FROM undo_steps s JOIN users u ON u.id = s.user_id ORDER BY s.id DESC LIMIT 100`,
      ),
    );
    return {
      steps: rows.map((row) => ({ id: row.id, summary: row.summary, at: iso(row.created_at), by: row.by, undone: row.undone_at !== null })),
    };
  },

  undo: async ({ user, params, services }) => {
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ entry_id: string; undone_at: string | null }>(sql`SELECT entry_id, undone_at FROM undo_steps WHERE id = ${params.id}`),
    );
    const step = rows[0];
    if (!step) return notFound('step');
    if (step.undone_at !== null) return new Refusal('conflict', 'undone-already', 'This step is undone already.');
    return takeOff(services, user.id, step.entry_id);
  },
};
