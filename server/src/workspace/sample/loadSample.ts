import type { Sample, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { writeDown } from '../../base/audit';
import type { Tx } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import { readCsv } from '../../base/files/readCsv';
import { isRefusal, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { noteStep } from '../../base/undoLog';
import { importOwnFile } from '../../mailboxes/files/importMailbox';
import { applyImport } from '../../records/import/applyImport';
import { planImport } from '../../records/import/planImport';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { sampleWorld } from './sampleWorld';
import { undoSample } from './undoSample';

const stateRow = z.object({ empty: z.boolean(), step: z.number().nullable(), running: z.boolean() });

/** How it stands with the sample. Asked as worker: whether there is mail at all is no secret of anyone's. */
export async function sampleState(tx: Tx): Promise<Sample> {
  const [row] = await rowsOf(
    tx,
    stateRow,
    sql`SELECT NOT EXISTS (SELECT FROM emails) AND NOT EXISTS (SELECT FROM accounts) AND NOT EXISTS (SELECT FROM contacts) AND NOT EXISTS (SELECT FROM leads) AND NOT EXISTS (SELECT FROM deals) AS empty,
      s.id AS step, EXISTS (SELECT FROM imports i JOIN work w ON w.id = i.work_id WHERE i.id = (s.payload ->> 'importId')::bigint AND w.state IN ('open', 'queued', 'running')) AS running
    FROM (SELECT 1) nothing LEFT JOIN LATERAL (SELECT id, payload FROM undo_log WHERE kind = ${undoSample.kind} AND undone_at IS NULL ORDER BY id DESC LIMIT 1) s ON true`,
  );
  if (row?.step) return { state: row.running ? 'loading' : 'loaded', step: row.step };
  return { state: row?.empty ? 'possible' : 'impossible', step: null };
}

/** Loads the sample world: its records through the import of records, its mail through the import of mail. */
export async function loadSample(services: Services, user: User): Promise<(Sample & { undo: number | null }) | Refusal> {
  const { database } = services;
  const before = await database.work(sampleState);
  if (before.state !== 'possible')
    return new Refusal(
      'conflict',
      'not-empty',
      'There are records or mail in this workspace already. The sample world can only be loaded into an empty one. Nothing was changed.',
    );
  const world = sampleWorld(user, Date.now());
  const { compiled } = await liveRulebook(database);
  const records = await database.as(user.id, async (tx) => {
    const made: { kind: (typeof world.records)[number]['kind']; created: number[] }[] = [];
    for (const { kind, csv } of world.records) {
      const { created } = await applyImport(tx, await planImport(tx, kind, readCsv(csv), {}, compiled), user.id);
      made.push({ kind, created });
    }
    return made;
  });
  const importId = await importOwnFile(services, user, user.email.toLowerCase(), 'sample.mbox', world.mbox);
  if (isRefusal(importId)) return importId;
  const undo = await database.as(user.id, async (tx) => {
    await writeDown(tx, user, { kind: 'mailbox', about: 'loaded the sample world' });
    return noteStep(tx, user.id, undoSample, { summary: 'Loaded the sample world', payload: { importId, records } });
  });
  return { ...(await database.work(sampleState)), undo };
}
