import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { Refusal, isRefusal, notFound } from '../../base/refusal';
import type { Services } from '../../base/services';
import { markUndone } from '../../base/undoLog';
import type { Undoer } from '../../base/undoLog';
import { parsedRulebook } from '@fulvet/core';
import { putRulebook } from '../../rulebook/liveRulebook';
import { endPilot, runningPilot } from '../../rulebook/pilot';
import { takeRulebookLock } from '../../rulebook/rulebookLock';
import { undoPastRun } from './undoPastRun';
import type { UndoReport } from './undoPastRun';

const ran = z.object({ runId: z.number() });

/** A run over past mail is undone as one step; the rulebook stays. */
export const undoRunStep: Undoer<z.output<typeof ran>> = {
  kind: 'pastRun',
  forAdministrators: 'Past mail decided again are for administrators.',
  payload: ran,
  undo: async (services, doer, { runId }) => {
    const report = await undoRun(services, doer.id, runId, { rulebook: false });
    if (isRefusal(report)) return report;
    const away = report.away.map((record) => ({ ...record, because: 'another record has its address by now' }));
    return { changed: report.restored + report.again, kept: [...report.kept, ...away] };
  },
};

const runStateRow = z.object({ undone: z.boolean(), ended: z.boolean(), held: z.boolean(), version: z.number().nullable() });

/** Undoes a run, where it is not undone yet and what stood before is still held. @param rulebook also puts back the rulebook before it */
export async function undoRun(
  services: Services,
  userId: number,
  runId: number,
  { rulebook }: { rulebook: boolean },
): Promise<UndoReport | Refusal> {
  const [run] = await services.database.as(userId, (tx) =>
    rowsOf(
      tx,
      runStateRow,
      sql`SELECT r.undone_at IS NOT NULL AS undone, w.state = 'done' AS ended, r.id > (SELECT max(id) FROM decide_runs) - 10 AS held, r.version FROM decide_runs r JOIN work w ON w.id = r.work_id WHERE r.id = ${runId}`,
    ),
  );
  if (!run) return notFound('run');
  if (run.undone) return new Refusal('conflict', 'undone-already', 'This run is undone already.');
  if (!run.ended)
    return new Refusal('conflict', 'undone-already', 'This run has changed nothing: it was cancelled, failed, or has not ended yet.');
  if (!run.held) return new Refusal('conflict', 'too-old', 'Only the last ten runs can be undone. Nothing was changed.');
  if (rulebook && run.version !== null) await putBack(services, userId, run.version);
  const report = await undoPastRun(services.database, services.blobs, runId, rulebook ? run.version : null);
  await services.database.work((tx) => markUndone(tx, userId, 'pastRun', { runId }));
  if (report.again > 0) await services.jobs.decidePending();
  return report;
}

const rulebookRow = z.object({ document: z.unknown() });

/** Puts the rulebook that stood before this version in force again, as a version of its own; a pilot is ended. */
async function putBack(services: Services, userId: number, version: number): Promise<void> {
  await services.database.as(userId, async (tx) => {
    await takeRulebookLock(tx);
    if ((await runningPilot(tx))?.version === version) return endPilot(tx);
    const rows = await rowsOf(
      tx,
      rulebookRow,
      sql`SELECT document FROM rulebooks WHERE version < ${version} AND pilot_mailboxes IS NULL ORDER BY version DESC LIMIT 1`,
    );
    if (rows[0]) await putRulebook(tx, parsedRulebook(rows[0].document), `Undone: back to what stood before version ${version}`, userId);
  });
}
