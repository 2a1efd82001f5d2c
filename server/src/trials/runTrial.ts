import { trials, trialCounted, trialRows, trialDockets, trialMade } from '../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { compareDecision, CountedGroups, nameKey, parsedRulebook, TrialCount } from '@fulvet/core';
import type { Difference, Docket, RecordKind } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { Sources } from '../base/reading/sources';
import type { Database, Tx } from '../base/db/database';
import { mailMoment, takeMailLock } from '../base/db/mailLock';
import { standingOf } from '../decision/standing';
import type { DecidedEmail } from '../decision/decideInOrder';
import { decidePast, emailsOfSpan } from '../decision/past/decidePast';
import type { Work, WorkTexts } from '../base/work';
import { CreatedAgain } from '../decision/past/createdByMail';
import { LeanReader, staysOutByKind } from '../decision/inputs/leanFacts';
import { compiledFor } from '../rulebook/liveRulebook';

const trialRow = z.object({
  document: z.unknown(),
  since: z.string().nullable(),
  mailboxes: z.array(z.string()),
  without_made: z.boolean(),
});
type TrialRow = z.infer<typeof trialRow>;

/** Runs a trial: the draft over past mail, compared with what stands. It reads, and writes nothing but the trial itself. */
export async function runTrial(database: Database, blobs: Sources, trialId: number, work: Work): Promise<void> {
  const db = database.worker;
  const rows = await rowsOf(db, trialRow, sql`SELECT document, since, mailboxes, without_made FROM trials WHERE id = ${trialId}`);
  const trial = rows[0];
  if (!trial) return;
  for (;;) {
    const begun = await mailMoment(database);
    await new TrialRun(database, blobs, trialId, trial, work).run();
    if (await database.work((tx) => finish(tx, work, begun))) break;
  }
}

/** What is said of a trial that did not come to its end. */
export const TRIAL_TEXTS: WorkTexts = {
  cancelled: 'Cancelled.',
  interrupted: 'The server ended twice during this trial. Try fewer emails at a time.',
  failed: (error) => (error instanceof Error ? error.message : 'The trial stopped. Start it again.'),
};

const emailRow = z.object({ sealed: z.boolean() });

/** Ends the trial, unless mail was sealed while it ran: what it counted of that must not stay. Sealing takes the same lock, and looks after trials that have ended. */
async function finish(tx: Tx, work: Work, begun: string): Promise<boolean> {
  await takeMailLock(tx);
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`SELECT EXISTS (SELECT FROM emails WHERE decided_at >= ${begun}::timestamptz AND outcome = 'sealed') AS sealed`,
  );
  if (rows[0]?.sealed ?? true) return false;
  await work.finish(tx);
  return true;
}

class TrialRun {
  private unchanged = new CountedGroups();
  private made = new CreatedAgain([]);

  constructor(
    private readonly database: Database,
    private readonly blobs: Sources,
    private readonly trialId: number,
    private readonly trial: TrialRow,
    private readonly work: Work,
  ) {}

  async run(): Promise<void> {
    const db = this.database.worker;
    const compiled = await compiledFor(db, parsedRulebook(this.trial.document));
    let count = new TrialCount(() => null);
    const emails = await emailsOfSpan(db, this.trial);
    const { blobs, database } = this;
    this.made = await CreatedAgain.of(this.database, this.trial.without_made, emails);
    await decidePast(this.database, {
      emails,
      setAside: this.made.setAside,
      rulebookFor: () => compiled,
      rulebooks: [compiled],
      read: async function* (tx) {
        const needs = { text: compiled.needsText, attachments: compiled.needsAttachments };
        const reader = await LeanReader.open(database, tx, blobs, { needs, staysOut: staysOutByKind(compiled), toKeep: false });
        yield* reader.stream(tx, emails.where);
      },
      settled: (those) => {
        for (const email of those) {
          const standing = standingOf(email);
          count.addSettled(standing, email.before.direction);
          this.unchanged.add(email.facts.id, standing.outcome, email.before.direction, standing.steps.slice(0, 1));
        }
      },
      exchangesFor: compiled.needsExchanges ? compiled : undefined,
      begin: async (names) => {
        count = new TrialCount((kind, name) => likeness(names, kind, name));
        this.unchanged = new CountedGroups();
        this.made.begin();
        await db.delete(trialCounted).where(eq(trialCounted.trialId, this.trialId));
        await db.delete(trialRows).where(eq(trialRows.trialId, this.trialId));
        await db.delete(trialDockets).where(eq(trialDockets.trialId, this.trialId));
      },
      batch: (decided) => this.compare(decided, count),
      progress: (done, total) => this.work.goOn(done, total),
    });
    await this.storeUnchanged();
    if (this.trial.without_made) await this.storeMade();
    await db.update(trials).set({ summary: count.result() }).where(eq(trials.id, this.trialId));
  }

  private async storeUnchanged(): Promise<void> {
    for (const { outcome, direction, steps, emailIds } of this.unchanged.all())
      await this.database.worker.insert(trialCounted).values({ trialId: this.trialId, outcome, direction, steps, emailIds });
  }

  private async storeMade(): Promise<void> {
    const rows = this.made.setAside.map((record) => ({ ...record, again: this.made.isAgain(record) }));
    await this.database.work(async (tx) => {
      await tx.delete(trialMade).where(eq(trialMade.trialId, this.trialId));
      await tx.execute(sql`INSERT INTO trial_made (trial_id, kind, record_id, email_id, again) SELECT ${this.trialId}::bigint, r.kind, r.id, e.id, r.again
        FROM json_to_recordset(${JSON.stringify(rows)}::json) AS r(kind text, id bigint, "emailId" bigint, again boolean) JOIN emails e ON e.id = r."emailId"`);
    });
  }

  private async compare(decided: readonly DecidedEmail[], count: TrialCount): Promise<void> {
    const changed: { emailId: number; difference: Difference; docket: Docket }[] = [];
    this.made.note(decided);
    for (const { email, decision } of decided) {
      const standing = standingOf(email);
      const difference = compareDecision(standing, decision);
      count.add(standing, decision, difference);
      if (difference) changed.push({ emailId: email.facts.id, difference, docket: decision.docket });
      else this.unchanged.add(email.facts.id, decision.outcome, decision.direction, decision.docket);
    }
    await this.store(changed);
  }

  private async store(changed: readonly { emailId: number; difference: Difference; docket: Docket }[]): Promise<void> {
    if (changed.length === 0) return;
    const rows = JSON.stringify(changed.map(({ emailId, difference, docket }) => ({ email_id: emailId, ...difference, docket })));
    await this.database.work(async (tx) => {
      await tx.execute(sql`INSERT INTO trial_rows (trial_id, email_id, outcome_before, outcome_after, visibility_before, visibility_after, seen, step, won, lost)
        SELECT ${this.trialId}::bigint, email_id, "outcomeBefore", "outcomeAfter", "visibilityBefore", "visibilityAfter", seen, step, ARRAY(SELECT json_array_elements_text(won)), ARRAY(SELECT json_array_elements_text(lost))
        FROM json_to_recordset(${rows}::json) AS r(email_id bigint, "outcomeBefore" text, "outcomeAfter" text, "visibilityBefore" text, "visibilityAfter" text, seen text, step text, won json, lost json)`);
      await tx.execute(
        sql`INSERT INTO trial_dockets (trial_id, email_id, docket) SELECT ${this.trialId}::bigint, email_id, docket FROM json_to_recordset(${rows}::json) AS r(email_id bigint, docket jsonb)`,
      );
    });
  }
}

/** A record with the same name in other words: probably the same one. */
function likeness(names: ReadonlyMap<string, string>, kind: RecordKind, name: string): string | null {
  return names.get(`${kind === 'lead' ? 'contact' : kind} ${nameKey(name)}`) ?? null;
}
