import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { AutomaticSending } from '@fulvet/contract';
import { startOfDay } from '@fulvet/core';
import type { RunSituation, RunState, WorkingDays } from '@fulvet/core';
import type { Db } from '../../base/db/database';
import { json, rowsOf } from '../../base/db/rows';
import type { StoredStep } from '../../base/db/schema';
import { OPEN } from './queries';
import { whyStop } from './whyStop';
import type { FoundStop } from './whyStop';

const instant = z.string().transform((text) => Date.parse(text));

const dueRow = z.object({
  id: z.number(),
  writer_id: z.number(),
  mailbox_id: z.number(),
  from_address: z.string().nullable(),
  address: z.string(),
  name: z.string(),
  deal_id: z.number().nullable(),
  bulk_id: z.number().nullable(),
  zone: z.string(),
  asks: z.boolean(),
  steps: json<StoredStep[]>(),
  at_step: z.number(),
  state: json<RunState>(),
  due_at: instant,
  started_at: instant,
});

/** A series with someone that a process looks at. */
export type DueRun = z.infer<typeof dueRow>;

/** So long another process leaves it alone. */
const LEASE_SECONDS = 60;
/** So often each is looked at, whatever is due: an answer stops it before its next step. */
export const LOOK_SECONDS = 600;

/** Takes up the next series that is to be looked at; null: there is none. */
export async function takeRun(db: Db): Promise<DueRun | null> {
  const [row] = await rowsOf(
    db,
    dueRow,
    sql`
    WITH next AS (SELECT r.id FROM series_runs r WHERE ${OPEN} AND r.look_at <= now() ORDER BY r.look_at LIMIT 1 FOR UPDATE SKIP LOCKED)
    UPDATE series_runs r SET look_at = now() + make_interval(secs => ${LEASE_SECONDS}) FROM next WHERE r.id = next.id
    RETURNING r.id, r.writer_id, r.mailbox_id, r.from_address, r.address, r.name, r.deal_id, r.bulk_id, r.zone, r.asks, r.steps, r.at_step, r.state, r.due_at, r.started_at`,
  );
  return row ?? null;
}

const secondsRow = z.object({ seconds: z.number().nullable() });

/** Seconds until the next series is to be looked at; null: none goes on. */
export async function secondsToNextRun(db: Db): Promise<number | null> {
  const [row] = await rowsOf(
    db,
    secondsRow,
    sql`SELECT extract(epoch FROM min(r.look_at) - now())::float8 AS seconds FROM series_runs r WHERE ${OPEN}`,
  );
  return row?.seconds ?? null;
}

type EmailState = Exclude<RunSituation['email'], 'gone' | null>['state'];

/** Of mail servers; they often know whole seconds only, and absence notes come at once. */
const SLOW_CLOCK = sql`interval '10 minutes'`;

const factsRow = z.object({
  begun: z.boolean(),
  outgoing_id: z.number().nullable(),
  email_state: json<EmailState>().nullable(),
  sent_at: instant.nullable(),
  message_id: z.string().nullable(),
  subject: z.string().nullable(),
  absent_at: instant.nullable(),
  sent_today: z.number(),
  last_begun_at: instant.nullable(),
  automatic: json<AutomaticSending>(),
});

/** What is known of a series when it is looked at. */
export interface RunFacts {
  situation: RunSituation;
  days: WorkingDays;
  stop: FoundStop | null;
  outgoingId: number | null;
  /** Of the email of the step at work, once it has one. */
  messageId: string | null;
  subject: string;
}

export async function factsOf(db: Db, run: DueRun, now: number): Promise<RunFacts> {
  const [row] = await rowsOf(
    db,
    factsRow,
    sql`
    SELECT s.run_id IS NOT NULL AS begun, s.outgoing_id, o.state AS email_state, o.sent_at, o.message_id, o.subject,
      (SELECT max(e.arrived_at) FROM emails e WHERE e.mail_class = 'auto-reply' AND e.id > r.after_email
        AND e.id IN (SELECT x.id FROM series_steps d JOIN emails c ON c.message_id = d.message_id JOIN emails x ON x.conversation_id = c.conversation_id WHERE d.run_id = r.id
          UNION ALL SELECT p.email_id FROM participants p WHERE p.address = r.address AND p.role = 'from')
        AND e.arrived_at > coalesce((SELECT max(d.done_at) FROM series_steps d WHERE d.run_id = r.id), r.started_at) - ${SLOW_CLOCK}) AS absent_at,
      (SELECT count(*)::int FROM series_steps d JOIN series_runs x ON x.id = d.run_id WHERE x.mailbox_id = r.mailbox_id AND d.begun_at >= ${new Date(startOfDay(now, run.zone))} AND (d.outgoing_id IS NOT NULL OR d.message_id IS NOT NULL)) AS sent_today,
      (SELECT max(d.begun_at) FROM series_steps d JOIN series_runs x ON x.id = d.run_id WHERE x.mailbox_id = r.mailbox_id AND (d.outgoing_id IS NOT NULL OR d.message_id IS NOT NULL)) AS last_begun_at,
      (SELECT w.automatic FROM workspace w) AS automatic
    FROM series_runs r LEFT JOIN series_steps s ON s.run_id = r.id AND s.step = r.at_step AND s.done_at IS NULL LEFT JOIN outgoing o ON o.id = s.outgoing_id WHERE r.id = ${run.id}`,
  );
  if (!row) throw new Error('a series that is gone');
  const stop = await whyStop(db, run.id);
  return {
    situation: {
      state: run.state,
      steps: run.steps,
      atStep: run.at_step,
      dueAt: run.due_at,
      asks: run.asks,
      email: row.email_state !== null ? { state: row.email_state, sentAt: row.sent_at } : row.begun ? 'gone' : null,
      stop: stop?.why ?? null,
      absentAt: row.absent_at,
      isHeld: row.automatic.isHeld,
      restsUntil: (row.last_begun_at ?? 0) + row.automatic.pauseSeconds * 1000,
      leftToday: row.automatic.perDay - row.sent_today,
    },
    days: { zone: run.zone, holidays: new Set(row.automatic.holidays.map(({ day }) => day)) },
    stop,
    outgoingId: row.outgoing_id,
    messageId: row.message_id,
    subject: row.subject ?? '',
  };
}
