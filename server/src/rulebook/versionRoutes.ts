import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { RulebookVersion } from '@fulvet/contract';
import { differenceWords, parsedRulebook } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import { acceptedRulebook } from './acceptedRulebook';
import { draftState, keepDraft, listNames, loadDraft } from './draft';
import { noteDraft } from './undoDraft';
import { takeRulebookLock } from './rulebookLock';

const versionRow = z.object({
  version: z.number(),
  summary: z.string(),
  created_at: moment,
  by: z.string().nullable(),
  pilot_mailboxes: z.array(z.string()).nullable(),
  in_force: z.boolean(),
  document: z.unknown(),
});
type VersionRow = z.infer<typeof versionRow>;

async function versionsWhere(tx: Tx, where: SQL): Promise<VersionRow[]> {
  const rows = await rowsOf(
    tx,
    versionRow,
    sql`
    SELECT r.version, r.summary, r.created_at, u.name AS by, r.pilot_mailboxes, r.document,
      CASE WHEN r.pilot_mailboxes IS NULL THEN r.version = (SELECT max(l.version) FROM rulebooks l WHERE l.pilot_mailboxes IS NULL) ELSE r.pilot_ended_at IS NULL END AS in_force
    FROM rulebooks r LEFT JOIN users u ON u.id = r.created_by WHERE ${where} ORDER BY r.version DESC LIMIT 200`,
  );
  return rows;
}

async function oneVersion(tx: Tx, version: number): Promise<VersionRow | Refusal> {
  const [row] = await versionsWhere(tx, sql`r.version = ${version}`);
  if (!row) return notFound('version');
  return row;
}

/** The version that was in force for everyone when this one was put in force. */
async function versionBefore(tx: Tx, version: number): Promise<VersionRow | undefined> {
  return (await versionsWhere(tx, sql`r.version < ${version} AND r.pilot_mailboxes IS NULL`))[0];
}

function shown({ version, summary, created_at, by, pilot_mailboxes, in_force }: VersionRow): RulebookVersion {
  return { version, summary, at: created_at, by, pilotMailboxes: pilot_mailboxes, inForce: in_force };
}

export const versionRoutes: Pick<Handlers, 'listRulebooks' | 'getRulebookVersion' | 'versionToDraft'> = {
  listRulebooks: async ({ user, services }) => ({
    versions: (await services.database.as(user.id, (tx) => versionsWhere(tx, sql`true`))).map(shown),
  }),

  getRulebookVersion: ({ user, params, query, services }) =>
    services.database.as(user.id, async (tx) => {
      const row = await oneVersion(tx, params.version);
      if (isRefusal(row)) return row;
      const other = query.against === undefined ? await versionBefore(tx, params.version) : await oneVersion(tx, query.against);
      if (isRefusal(other)) return other;
      const document = parsedRulebook(row.document);
      const differences = other ? differenceWords(parsedRulebook(other.document), document, await listNames(tx)) : [];
      return { ...shown(row), document, against: other?.version ?? null, differences };
    }),

  versionToDraft: async ({ user, params, services }) => {
    const result = await services.database.as(user.id, (tx) => oneVersion(tx, params.version));
    if (isRefusal(result)) return result;
    const { document } = result;
    const accepted = await acceptedRulebook(services, document);
    if (isRefusal(accepted)) return accepted;
    const { rulebook } = accepted;
    return services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const draft = await loadDraft(tx);
      const refused = await keepDraft(tx, user.id, rulebook, draft.revision);
      if (isRefusal(refused)) return refused;
      const undo = await noteDraft(tx, user.id, draft);
      return { ...(await draftState(tx)), undo };
    });
  },
};
