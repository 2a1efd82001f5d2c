import type { RulebookVersion } from '@fulvet/contract';
import { differenceWords, parsedRulebook } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import { iso } from '../base/iso';
import { notFound } from '../base/refusal';
import { acceptedRulebook } from './acceptedRulebook';
import { draftState, keepDraft, listNames, loadDraft } from './draft';
import { takeRulebookLock } from './rulebookLock';

interface VersionRow {
  [column: string]: unknown;
  version: number;
  summary: string;
  created_at: string;
  by: string | null;
  pilot_mailboxes: string[] | null;
  in_force: boolean;
  document: unknown;
}

async function versionsWhere(tx: Tx, where: SQL): Promise<VersionRow[]> {
  const { rows } = await tx.execute<VersionRow>(sql`
    SELECT r.version, r.summary, r.created_at, u.name AS by, r.pilot_mailboxes, r.document,
      CASE WHEN r.pilot_mailboxes IS NULL THEN r.version = (SELECT max(l.version) FROM rulebooks l WHERE l.pilot_mailboxes IS NULL) ELSE r.pilot_ended_at IS NULL END AS in_force
    FROM rulebooks r LEFT JOIN users u ON u.id = r.created_by WHERE ${where} ORDER BY r.version DESC LIMIT 200`);
  return rows;
}

async function oneVersion(tx: Tx, version: number): Promise<VersionRow> {
  const [row] = await versionsWhere(tx, sql`r.version = ${version}`);
  if (!row) throw notFound('version');
  return row;
}

/** The version that was in force for everyone when this one was put in force. */
async function versionBefore(tx: Tx, version: number): Promise<VersionRow | undefined> {
  return (await versionsWhere(tx, sql`r.version < ${version} AND r.pilot_mailboxes IS NULL`))[0];
}

function shown({ version, summary, created_at, by, pilot_mailboxes, in_force }: VersionRow): RulebookVersion {
  return { version, summary, at: iso(created_at), by, pilotMailboxes: pilot_mailboxes, inForce: in_force };
}

export const versionRoutes: Pick<Handlers, 'listRulebooks' | 'getRulebookVersion' | 'versionToDraft'> = {
  listRulebooks: async ({ user, services }) => ({
    versions: (await services.database.as(user.id, (tx) => versionsWhere(tx, sql`true`))).map(shown),
  }),

  getRulebookVersion: ({ user, params, query, services }) =>
    services.database.as(user.id, async (tx) => {
      const row = await oneVersion(tx, params.version);
      const other = query.against === undefined ? await versionBefore(tx, params.version) : await oneVersion(tx, query.against);
      const document = parsedRulebook(row.document);
      const differences = other ? differenceWords(parsedRulebook(other.document), document, await listNames(tx)) : [];
      return { ...shown(row), document, against: other?.version ?? null, differences };
    }),

  versionToDraft: async ({ user, params, services }) => {
    const { document } = await services.database.as(user.id, (tx) => oneVersion(tx, params.version));
    const { rulebook } = await acceptedRulebook(services, document);
    return services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const draft = await loadDraft(tx);
      await keepDraft(tx, user.id, rulebook, draft.revision);
      return draftState(tx);
    });
  },
};
