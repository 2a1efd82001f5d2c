import { rulebookDraft } from '../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { Refusal, isRefusal } from '../base/refusal';
import { canonicalJson } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import { demandRevision, draftState, loadDraft } from './draft';
import { putRulebook } from './liveRulebook';
import type { RunningPilot } from './pilot';
import { endPilot, pilotState, runningPilot } from './pilot';
import { takeRulebookLock } from './rulebookLock';
import { rulebookState } from './rulebookState';

async function demandPilot(tx: Tx): Promise<RunningPilot | Refusal> {
  const pilot = await runningPilot(tx);
  if (!pilot) return new Refusal('conflict', 'no-pilot', 'No pilot runs. It was put live or ended meanwhile.');
  return pilot;
}

const mailboxRow = z.object({ address: z.string() });

async function demandMailboxes(tx: Tx, addresses: readonly string[]): Promise<Refusal | null> {
  const rows = await rowsOf(tx, mailboxRow, sql`SELECT address FROM mailboxes WHERE address = ANY(${sql.param([...addresses])}::text[])`);
  const there = new Set(rows.map((row) => row.address));
  const missing = addresses.find((address) => !there.has(address));
  if (missing !== undefined)
    return new Refusal('unfit', 'no-such-mailbox', `There is no mailbox ${missing}. Choose among those that are connected.`);
  return null;
}

export const pilotRoutes: Pick<Handlers, 'getPilot' | 'startPilot' | 'putPilotLive' | 'endPilot'> = {
  getPilot: async ({ user, services }) => ({ pilot: await services.database.as(user.id, pilotState) }),

  startPilot: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const draft = await demandRevision(tx, body.revision);
      if (isRefusal(draft)) return draft;
      if (await runningPilot(tx))
        return new Refusal('conflict', 'pilot-runs', 'A pilot runs already. Put it live for everyone, or end it, first.');
      const { differences } = await draftState(tx);
      if (differences.length === 0) return new Refusal('conflict', 'nothing-changed', 'The draft says the same as what is in force.');
      const refused = await demandMailboxes(tx, body.mailboxes);
      if (isRefusal(refused)) return refused;
      const summary = [body.note, ...differences].filter(Boolean).join('\n').slice(0, 4000);
      return { version: await putRulebook(tx, draft.rulebook, summary, user.id, body.mailboxes) };
    }),

  putPilotLive: async ({ user, body, services }) => {
    const refused = await services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const pilot = await demandPilot(tx);
      if (isRefusal(pilot)) return pilot;
      if (pilot.behind)
        return new Refusal(
          'conflict',
          'changed-meanwhile',
          'Another version was put in force for everyone since this pilot began, and would be lost. End the pilot, and make its changes again over what is in force.',
        );
      await endPilot(tx);
      await putRulebook(tx, pilot.rulebook, [body.note, pilot.summary].filter(Boolean).join('\n').slice(0, 4000), user.id);
      const draft = await loadDraft(tx);
      // What was edited on since stays a draft; what says the same is done with.
      if (canonicalJson(draft.rulebook) === canonicalJson(pilot.rulebook)) await tx.delete(rulebookDraft);
      else
        await tx.execute(sql`UPDATE rulebook_draft SET base_version = (SELECT max(version) FROM rulebooks WHERE pilot_mailboxes IS NULL)`);
      return null;
    });
    if (isRefusal(refused)) return refused;
    return rulebookState(services, user.id);
  },

  endPilot: async ({ user, services }) => {
    const refused = await services.database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const refused = await demandPilot(tx);
      if (isRefusal(refused)) return refused;
      await endPilot(tx);
      return null;
    });
    if (isRefusal(refused)) return refused;
    return {};
  },
};
