import { z } from 'zod';
import { idRow, json, rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { TrialRow } from '@fulvet/contract';
import type { Docket } from '@fulvet/core';
import { docketSentences } from '@fulvet/core';
import { stringify } from 'csv-stringify/sync';
import { eq, sql } from 'drizzle-orm';
import type { Handlers } from '../base/handler';
import { loadDraft } from '../rulebook/draft';
import { liveRulebook } from '../rulebook/liveRulebook';
import { work } from '../base/db/schema';
import { addWork, cancelWork, workAbout } from '../base/work';
import { TRIAL_TEXTS } from './runTrial';
import { loadTrial, loadTrials, trialMade, trialRows } from './trials';

const EXPORT_PAGE = 500;

const TRIAL_COLUMNS = 'date,subject,outcome before,outcome after,seen before,seen after,differs at,filings won,filings lost';

function trialLine(row: TrialRow): string {
  const subject = row.email.content?.subject ?? '';
  const { outcomeBefore, outcomeAfter, visibilityBefore, visibilityAfter, stop, won, lost } = row;
  const cells = [
    row.email.at,
    subject,
    outcomeBefore ?? '',
    outcomeAfter,
    visibilityBefore,
    visibilityAfter,
    stop ?? '',
    won.join('; '),
    lost.join('; '),
  ];
  return stringify([cells], { escape_formulas: true });
}

function trialJson(row: TrialRow): string {
  const { id, at, content } = row.email;
  return `${JSON.stringify({ ...row, email: { id, at, subject: content?.subject ?? '' } })}\n`;
}

const stopRow = z.object({ stop: z.string().nullable(), before: json<Docket>().nullable(), after: json<Docket>() });

export const trialRoutes: Pick<
  Handlers,
  | 'listTrials'
  | 'startTrial'
  | 'getTrial'
  | 'cancelTrial'
  | 'deleteTrial'
  | 'listTrialRows'
  | 'listTrialMade'
  | 'getTrialDocket'
  | 'exportTrial'
> = {
  listTrials: async ({ user, services }) => ({ trials: await services.database.as(user.id, (tx) => loadTrials(tx, sql`true`)) }),

  startTrial: async ({ user, body, services }) => {
    const id = await services.database.as(user.id, async (tx) => {
      const draft = await loadDraft(tx);
      const name = body.name || `Trial of ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`;
      const workId = await addWork(tx, 'trial');
      const rows = await rowsOf(
        tx,
        idRow,
        sql`INSERT INTO trials (work_id, name, user_id, document, base_version, since, mailboxes, without_made)
        VALUES (${workId}, ${name}, ${user.id}, ${JSON.stringify(draft.rulebook)}::jsonb, ${draft.liveVersion}, ${body.days === null ? null : sql`now() - make_interval(days => ${body.days})`},
          ${sql.param(body.mailboxes.map((mailbox) => mailbox.toLowerCase()))}::text[], ${body.withoutMade}) RETURNING id`,
      );
      return rows[0]?.id ?? 0;
    });
    await services.jobs.runTrial(id);
    return services.database.as(user.id, (tx) => loadTrial(tx, id));
  },

  getTrial: ({ user, params, services }) => services.database.as(user.id, (tx) => loadTrial(tx, params.id)),

  cancelTrial: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const workId = await workAbout(tx, 'trial', params.id);
      if (workId !== null) await cancelWork(tx, workId, { states: ['queued'], message: TRIAL_TEXTS.cancelled });
      return loadTrial(tx, params.id);
    }),

  deleteTrial: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const workId = await workAbout(tx, 'trial', params.id);
      if (workId === null) return notFound('trial');
      // The trial goes with its work.
      await tx.delete(work).where(eq(work.id, workId));
      return {};
    }),

  listTrialRows: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const refused = await loadTrial(tx, params.id);
      if (isRefusal(refused)) return refused;
      return trialRows(tx, params.id, query, compiled);
    });
  },

  listTrialMade: ({ user, params, query, services }) =>
    services.database.as(user.id, async (tx) => {
      const refused = await loadTrial(tx, params.id);
      if (isRefusal(refused)) return refused;
      return trialMade(tx, params.id, query);
    }),

  getTrialDocket: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const rows = await rowsOf(
        tx,
        stopRow,
        sql`
        SELECT r.stop, coalesce(k.docket, e.stops) AS before, d.docket AS after FROM trial_rows r JOIN emails e ON e.id = r.email_id
        JOIN trial_dockets d ON d.trial_id = r.trial_id AND d.email_id = r.email_id LEFT JOIN dockets k ON k.email_id = r.email_id
        WHERE r.trial_id = ${params.id} AND r.email_id = ${params.email}`,
      );
      const row = rows[0];
      if (!row) return notFound('email of this trial that you may read');
      const inWords = (docket: Docket) => docketSentences(docket).map((entry) => ({ ...entry, ruleText: null }));
      return { before: inWords(row.before ?? []), after: inWords(row.after), stop: row.stop };
    }),

  exportTrial: async ({ user, params, query, services, res }) => {
    const { compiled } = await liveRulebook(services.database);
    const page = (offset: number) =>
      services.database.as(user.id, async (tx) => {
        const refused = await loadTrial(tx, params.id);
        if (isRefusal(refused)) return refused;
        return trialRows(tx, params.id, { offset, limit: EXPORT_PAGE }, compiled);
      });
    const first = await page(0);
    if (isRefusal(first)) return first;
    res.set('Content-Type', query.format === 'csv' ? 'text/csv; charset=utf-8' : 'application/jsonl; charset=utf-8');
    res.attachment(`trial-${params.id}.${query.format}`);
    const lines = async function* (): AsyncGenerator<string> {
      if (query.format === 'csv') yield `${TRIAL_COLUMNS}\n`;
      for (let offset = 0, part: typeof first | Refusal = first; ; offset += EXPORT_PAGE, part = await page(offset)) {
        // A trial that is deleted meanwhile ends the download before its end, so that nothing seems complete that is not.
        if (isRefusal(part)) throw new Error(part.message);
        if (part.rows.length === 0) return;
        yield part.rows.map((row) => (query.format === 'csv' ? trialLine(row) : trialJson(row))).join('');
      }
    };
    const refused = await services.downloads.send(user, res, lines());
    if (isRefusal(refused)) return refused;
    return undefined;
  },
};
