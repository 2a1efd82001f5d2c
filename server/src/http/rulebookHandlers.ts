import type { DecideRun } from '@fulvet/contract';
import { parsedRulebook, rulebookJsonSchema } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import { runDecisions } from '../decide/decideRun';
import { undoRun } from '../decide/runUndo';
import type { Services } from '../services';
import { entryFrom, noteUndo, previewKeepOut, scopeOf, withEntry, withoutEntry } from '../workspace/keepOutStore';
import { acceptedRulebook } from '../workspace/acceptedRulebook';
import { changeDraftToo } from '../workspace/draftStore';
import { liveRulebook, putRulebook, storedRulebook } from '../workspace/rulebookStore';
import { notFound, RequestError } from './errors';
import type { Handlers } from './handler';
import { iso } from './sessionHandlers';

type RulebookHandlers = Pick<
  Handlers,
  | 'previewKeepOut'
  | 'keepOut'
  | 'removeKeepOut'
  | 'listUndo'
  | 'undo'
  | 'getRulebook'
  | 'rulebookSchema'
  | 'putRulebook'
  | 'listRulebooks'
  | 'decide'
  | 'getDecideRun'
  | 'cancelDecideRun'
  | 'listDecideRuns'
  | 'undoDecideRun'
>;

export const rulebookHandlers: RulebookHandlers = {
  previewKeepOut: async ({ body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return previewKeepOut(services.database, entryFrom(body, 'preview', '', ''), compiled);
  },

  keepOut: async ({ user, body, services }) => {
    const { database } = services;
    const entry = entryFrom(body, `out-${randomBytes(4).toString('hex')}`, user.name, new Date().toISOString());
    const { version, undo } = await database.as(user.id, async (tx) => {
      await tx.execute(sql`SELECT pg_advisory_xact_lock(460206)`);
      const { rulebook } = await storedRulebook(tx);
      if (rulebook.keepOut.entries.some((one) => one.kind === entry.kind && one.value === entry.value))
        throw new RequestError(409, 'exists', `${entry.value} is on the kept-out list already.`);
      const next = await putRulebook(tx, withEntry(rulebook, entry), `Keep out ${entry.value}`, user.id);
      await changeDraftToo(tx, next, (draft) => withEntry(draft, entry));
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
    if (!step) throw notFound('step');
    if (step.undone_at !== null) throw new RequestError(409, 'undone-already', 'This step is undone already.');
    return takeOff(services, user.id, step.entry_id);
  },

  rulebookSchema: () => Promise.resolve(rulebookJsonSchema()),

  getRulebook: async ({ user, services }) => rulebookState(services, user.id),

  putRulebook: async ({ user, body, query, services }) => {
    const rulebook = await acceptedRulebook(services, body);
    await services.database.as(user.id, async (tx) => {
      await tx.execute(sql`SELECT pg_advisory_xact_lock(460206)`);
      const current = await storedRulebook(tx);
      if (query.over !== undefined && query.over !== current.version)
        throw new RequestError(
          409,
          'changed-meanwhile',
          `Version ${current.version} was put in force meanwhile. Look at it, then save again.`,
        );
      await putRulebook(tx, rulebook, 'Edited', user.id);
    });
    return rulebookState(services, user.id);
  },

  listRulebooks: async ({ user, services }) => {
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ version: number; summary: string; created_at: string; by: string | null }>(
        sql`SELECT r.version, r.summary, r.created_at, u.name AS by FROM rulebooks r LEFT JOIN users u ON u.id = r.created_by ORDER BY r.version DESC LIMIT 200`,
      ),
    );
    return { versions: rows.map((row) => ({ version: row.version, summary: row.summary, at: iso(row.created_at), by: row.by })) };
  },

  decide: async ({ user, services }) => {
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ id: number }>(sql`INSERT INTO decide_runs (user_id) VALUES (${user.id}) RETURNING id`),
    );
    const id = rows[0]?.id ?? 0;
    await services.jobs.decideAll(id);
    return decideRun(services, user.id, id);
  },

  listDecideRuns: async ({ user, services }) => {
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<DecideRun & { at: string; by: string | null; undoable: boolean; [column: string]: unknown }>(sql`
        SELECT r.id, r.state, r.done, r.total, r.changed, r.message, r.created_at AS at, u.name AS by, r.undone_at IS NULL AND r.state IN ('done', 'cancelled') AND r.id > (SELECT max(id) FROM decide_runs) - 10 AS undoable
        FROM decide_runs r LEFT JOIN users u ON u.id = r.user_id ORDER BY r.id DESC LIMIT 20`),
    );
    return { runs: rows.map((row) => ({ ...row, at: iso(row.at) })) };
  },

  undoDecideRun: async ({ user, params, body, services }) => {
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ undone: boolean; ended: boolean; version: number | null }>(
        sql`SELECT undone_at IS NOT NULL AS undone, state IN ('done', 'cancelled') AS ended, version FROM decide_runs WHERE id = ${params.id}`,
      ),
    );
    const run = rows[0];
    if (!run) throw notFound('run');
    if (run.undone || !run.ended)
      throw new RequestError(409, 'undone-already', run.undone ? 'This run is undone already.' : 'This run has not ended yet.');
    if (body.rulebook && run.version !== null) await putBack(services, user.id, run.version);
    const report = await undoRun(services.database, services.blobs, params.id, body.rulebook ? run.version : null);
    if (report.again > 0) await services.jobs.decidePending();
    return report;
  },

  getDecideRun: ({ user, params, services }) => decideRun(services, user.id, params.id),

  cancelDecideRun: async ({ user, params, services }) => {
    await services.database.as(user.id, (tx) => tx.execute(sql`UPDATE decide_runs SET cancel_asked = true WHERE id = ${params.id}`));
    return decideRun(services, user.id, params.id);
  },
};

/** Puts the rulebook that stood before this version in force again, as a version of its own. */
async function putBack(services: Services, userId: number, version: number): Promise<void> {
  await services.database.as(userId, async (tx) => {
    await tx.execute(sql`SELECT pg_advisory_xact_lock(460206)`);
    const { rows } = await tx.execute<{ document: unknown }>(
      sql`SELECT document FROM rulebooks WHERE version < ${version} ORDER BY version DESC LIMIT 1`,
    );
    if (rows[0]) await putRulebook(tx, parsedRulebook(rows[0].document), `Undone: back to what stood before version ${version}`, userId);
  });
}

async function takeOff(services: Services, userId: number, entryId: string): Promise<{ changed: number; version: number }> {
  const { entry, version } = await services.database.as(userId, async (tx) => {
    await tx.execute(sql`SELECT pg_advisory_xact_lock(460206)`);
    const { rulebook } = await storedRulebook(tx);
    const found = rulebook.keepOut.entries.find((one) => one.id === entryId);
    if (!found) throw new RequestError(404, 'not-found', 'This entry is not on the kept-out list any more.');
    await tx.execute(sql`UPDATE undo_steps SET undone_at = now() WHERE entry_id = ${entryId} AND undone_at IS NULL`);
    const next = await putRulebook(tx, withoutEntry(rulebook, entryId), `No longer keep out ${found.value}`, userId);
    await changeDraftToo(tx, next, (draft) => withoutEntry(draft, entryId));
    return { entry: found, version: next };
  });
  const report = await runDecisions(services.database, services.blobs, scopeOf(entry));
  return { changed: report.changed, version };
}

export async function rulebookState(
  services: Services,
  userId: number,
): Promise<{ version: number; document: unknown; summary: string; at: string; by: string | null }> {
  const { rows } = await services.database.as(userId, (tx) =>
    tx.execute<{ version: number; document: unknown; summary: string; created_at: string; by: string | null }>(
      sql`SELECT r.version, r.document, r.summary, r.created_at, u.name AS by FROM rulebooks r LEFT JOIN users u ON u.id = r.created_by ORDER BY r.version DESC LIMIT 1`,
    ),
  );
  const row = rows[0];
  if (!row) throw notFound('rulebook');
  return { version: row.version, document: parsedRulebook(row.document), summary: row.summary, at: iso(row.created_at), by: row.by };
}

async function decideRun(services: Services, userId: number, id: number): Promise<DecideRun> {
  const { rows } = await services.database.as(userId, (tx) =>
    tx.execute<DecideRun & Record<string, unknown>>(sql`SELECT id, state, done, total, changed, message FROM decide_runs WHERE id = ${id}`),
  );
  const row = rows[0];
  if (!row) throw notFound('run');
  return row;
}
