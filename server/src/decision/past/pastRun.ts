import { noteStep } from '../../base/undoLog';
import { undoRunStep } from './undoRunStep';
import { runStaged, decideRuns } from '../../base/db/schema';
import { z } from 'zod';
import { idRow, json, rowsOf } from '../../base/db/rows';
import type { Decision } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { Sources } from '../../base/reading/sources';
import type { Database, Tx } from '../../base/db/database';
import { mailMoment, takeMailLock } from '../../base/db/mailLock';
import type { Work, WorkTexts } from '../../base/work';
import { conversationsWith } from '../../emails/conversationsWith';
import { announceDecided } from '../announceDecided';
import type { DecidedEmail } from '../decideInOrder';
import type { Span, SpanEmails } from './decidePast';
import { decidePast, emailsOfSpan } from './decidePast';
import { decideConversations } from '../decideConversations';
import { runDecisions } from '../decideRun';
import type { ReadEmail } from '../inputs/leanFacts';
import { improveNames } from '../improveNames';
import { loadFacts } from '../inputs/loadFacts';
import { CreatedAgain } from './createdByMail';
import { RulebookInForce } from '../../rulebook/rulebookInForce';
import { keepBefores } from '../keptForUndo';
import { isDifferent, noteVersion, storeCreations, storeDecisions } from '../storeDecisions';
import { takeBackMade } from './takeBackCreated';

const BATCH = 400;
/** Records or rules that change while a run decides make it decide again; so often at most. */
const MOST_ATTEMPTS = 4;

interface RunRow extends Span {
  [column: string]: unknown;
  without_made: boolean;
}

/** What was decided from changed while the run was deciding. */
class WorldChanged extends Error {}

const askedRow = z.object({ user_id: z.number().nullable() });

const decideRunRow = z.object({ without_made: z.boolean(), since: z.string().nullable(), mailboxes: json<readonly string[]>() });

/**
 * Decides past mail again by what is in force, as one step: everything is decided and set aside first, while mail goes on coming in, and
 * then put in place in one transaction, so that no reader meets half of it. Cancelled or failed, it changes nothing; a run whose process
 * died is begun again when the server starts.
 */
export async function runOverPast(database: Database, blobs: Sources, runId: number, work: Work): Promise<void> {
  const db = database.worker;
  const rows = await rowsOf(
    db,
    decideRunRow,
    sql`UPDATE decide_runs SET version = (SELECT max(version) FROM rulebooks) WHERE id = ${runId} RETURNING since, mailboxes, without_made`,
  );
  const span = rows[0];
  if (!span) return;
  // What the runs before the last ten changed can no longer be undone.
  await db.execute(sql`DELETE FROM run_befores WHERE run_id <= ${runId} - 10`);
  await db.execute(sql`DELETE FROM run_taken_back WHERE run_id <= ${runId} - 10`);
  await new PastRun(database, blobs, runId, span, work).run();
}

/** Drops what a run that does not come to its end has set aside. */
export async function dropStaged(database: Database, runId: number): Promise<void> {
  await database.worker.delete(runStaged).where(eq(runStaged.runId, runId));
}

/** What is said of a run that did not come to its end. */
export const PAST_RUN_TEXTS: WorkTexts = {
  cancelled: 'Cancelled. Nothing was changed.',
  interrupted: 'The server ended twice during this run. Nothing was changed. Decide fewer emails at a time.',
  failed: (error) => (error instanceof Error ? error.message : 'The run stopped. Nothing was changed.'),
};

const emailRow = z.object({ id: z.number(), conversation_id: z.number() });

const stagedRow = z.object({ id: z.number(), decision: json<Decision>() });

class PastRun {
  private place = 0;
  /** Emails that stay as they stand, by the version that says so. */
  private unchanged = new Map<number, number[]>();
  private made = new CreatedAgain([]);

  constructor(
    private readonly database: Database,
    private readonly blobs: Sources,
    private readonly runId: number,
    private readonly span: RunRow,
    private readonly work: Work,
  ) {}

  async run(): Promise<void> {
    for (let attempt = 1; ; attempt += 1) {
      const started = await mailMoment(this.database);
      const stamp = await worldStamp(this.database.worker);
      const inForce = await RulebookInForce.load(this.database);
      const emails = await emailsOfSpan(this.database.worker, this.span);
      await this.stage(emails, inForce);
      try {
        const later = await this.database.work((tx) => this.putInPlace(tx, emails, inForce, started, stamp));
        // Mail that came in meanwhile may have created records which concern more.
        if (later.addresses.length + later.domains.length > 0) await runDecisions(this.database, this.blobs, later);
        return;
      } catch (error) {
        if (!(error instanceof WorldChanged) || attempt === MOST_ATTEMPTS) throw error;
      }
    }
  }

  private async stage(emails: SpanEmails, inForce: RulebookInForce): Promise<void> {
    this.made = await CreatedAgain.of(this.database, this.span.without_made, emails);
    await decidePast(this.database, {
      emails,
      setAside: this.made.setAside,
      rulebookFor: (email) => inForce.versionFor(email).compiled,
      rulebooks: inForce.rulebooks,
      read: (tx) => this.batches(tx, emails, inForce),
      exchangesFor: inForce.rulebooks.find((rulebook) => rulebook.needsExchanges),
      begin: async () => {
        this.place = 0;
        this.unchanged = new Map();
        this.made.begin();
        await dropStaged(this.database, this.runId);
      },
      batch: (decided) => this.setAside(decided, inForce),
      progress: (done, total) => this.work.goOn(done, total, 'deciding'),
    });
  }

  /** Whole facts with the decisions that stand: what is stored is compared with them. */
  private async *batches(tx: Tx, emails: SpanEmails, inForce: RulebookInForce): AsyncGenerator<ReadEmail[]> {
    const rows = await rowsOf(tx, idRow, sql`SELECT e.id FROM emails e WHERE ${emails.where} ORDER BY e.sent_at, e.id`);
    for (let at = 0; at < rows.length; at += BATCH) {
      const ids = rows.slice(at, at + BATCH).map((row) => row.id);
      yield (await loadFacts(tx, this.blobs, ids, inForce.needsText)).map((email) => ({ email, settled: false }));
    }
  }

  private async setAside(decided: readonly DecidedEmail[], inForce: RulebookInForce): Promise<void> {
    const rows: { email_id: number; place: number; decision: Decision }[] = [];
    this.made.note(decided);
    for (const { email, decision } of decided) {
      if (!email.before.decided || isDifferent(email, decision)) rows.push({ email_id: email.facts.id, place: this.place++, decision });
      else {
        const { version } = inForce.versionFor(email);
        const those = this.unchanged.get(version) ?? [];
        those.push(email.facts.id);
        this.unchanged.set(version, those);
      }
    }
    if (rows.length === 0) return;
    await this.database.worker.execute(sql`INSERT INTO run_staged (run_id, email_id, place, decision)
      SELECT ${this.runId}::bigint, email_id, place, decision FROM json_to_recordset(${JSON.stringify(rows)}::json) AS r(email_id bigint, place int, decision jsonb)`);
  }

  /** Puts all that was set aside in place. @returns whom records were created for that may concern further mail */
  private async putInPlace(
    tx: Tx,
    emails: SpanEmails,
    inForce: RulebookInForce,
    started: string,
    stamp: string,
  ): Promise<{ addresses: string[]; domains: string[] }> {
    await takeMailLock(tx);
    if ((await worldStamp(tx)) !== stamp || (await RulebookInForce.load(this.database)).stamp !== inForce.stamp)
      throw new WorldChanged('Records or rules kept changing while past mail was decided. Start it again when they rest.');
    const disturbed = await this.disturbedSince(tx, emails, started);
    const realIds = new Map<number, number>();
    const stored = { versionFor: inForce.versionFor.bind(inForce), runId: this.runId, realIds };
    const creating = await this.stagedIds(tx, sql`jsonb_array_length(decision -> 'creations') > 0`, disturbed);
    for (let at = 0; at < creating.length; at += BATCH)
      await storeCreations(tx, await this.staged(tx, creating.slice(at, at + BATCH)), realIds, this.runId);

    let changed = 0;
    const again = new Set<number>(disturbed);
    const ids = await this.stagedIds(tx, sql`true`, disturbed);
    for (let at = 0; at < ids.length; at += BATCH) {
      await this.work.goOn(at, ids.length, 'writing');
      const batch = await this.staged(tx, ids.slice(at, at + BATCH));
      const known = batch.filter(({ email, decision }) => {
        // A record that the first pass created and no later one did leaves nothing to file under.
        const whole = decision.filings.every((filing) => filing.id > 0 || realIds.has(filing.id));
        if (!whole) again.add(email.conversationId);
        return whole;
      });
      const { emailIds } = await storeDecisions(tx, known, stored);
      changed += emailIds.length;
      await announceDecided(tx, emailIds);
    }
    const created = sql`(x.kind, x.person_id) IN (SELECT kind, record_id FROM run_created WHERE run_id = ${this.runId})`;
    for (const id of await conversationsWith(tx, await improveNames(tx, created, inForce.live.compiled))) again.add(id);
    for (const [version, unchanged] of this.unchanged) {
      await keepBefores(tx, this.runId, [], unchanged);
      await noteVersion(tx, version, unchanged);
    }
    const later = await decideConversations(tx, this.blobs, [...again], inForce, {
      runId: this.runId,
      isAsked: (email) => emails.isInSpan(email.facts.id) || !email.before.decided,
    });
    changed += later.changed;
    const takenBack = await takeBackMade(tx, this.runId, this.made);
    await tx.delete(runStaged).where(eq(runStaged.runId, this.runId));
    await tx.update(decideRuns).set({ changed, takenBack }).where(eq(decideRuns.id, this.runId));
    await this.noteUndo(tx, changed);
    await this.work.finish(tx, emails.inSpan);
    return later;
  }

  /** A run that someone asked for, and that changed something, is a step of theirs. */
  private async noteUndo(tx: Tx, changed: number): Promise<void> {
    const [run] = await rowsOf(tx, askedRow, sql`SELECT user_id FROM decide_runs WHERE id = ${this.runId}`);
    if (!run?.user_id || changed === 0) return;
    const summary = `Decided past mail again: ${changed === 1 ? '1 email' : `${changed.toLocaleString('en-US')} emails`} changed`;
    await noteStep(tx, run.user_id, undoRunStep, { summary, payload: { runId: this.runId } });
  }

  /** Conversations in which an email came in or was decided since. */
  private async disturbedSince(tx: Tx, emails: SpanEmails, started: string): Promise<Set<number>> {
    const rows = await rowsOf(
      tx,
      emailRow,
      sql`SELECT id, conversation_id FROM emails WHERE decided_at IS NULL OR decided_at > ${started}::timestamptz`,
    );
    if (rows.length === 0) return new Set();
    const mates = await rowsOf(
      tx,
      emailRow,
      sql`SELECT id, conversation_id FROM emails WHERE conversation_id = ANY(${sql.param([...new Set(rows.map((row) => row.conversation_id))])}::bigint[])`,
    );
    return new Set(mates.filter((row) => emails.isInSpan(row.id)).map((row) => row.conversation_id));
  }

  private async stagedIds(tx: Tx, where: ReturnType<typeof sql>, disturbed: ReadonlySet<number>): Promise<number[]> {
    const rows = await rowsOf(
      tx,
      idRow,
      sql`SELECT s.email_id AS id FROM run_staged s JOIN emails e ON e.id = s.email_id
      WHERE s.run_id = ${this.runId} AND ${where} AND e.conversation_id <> ALL(${sql.param([...disturbed])}::bigint[]) ORDER BY s.place`,
    );
    return rows.map((row) => row.id);
  }

  private async staged(tx: Tx, ids: readonly number[]): Promise<DecidedEmail[]> {
    const emails = await loadFacts(tx, this.blobs, ids, false);
    const rows = await rowsOf(
      tx,
      stagedRow,
      sql`SELECT email_id AS id, decision FROM run_staged WHERE run_id = ${this.runId} AND email_id = ANY(${sql.param([...ids])}::bigint[])`,
    );
    const decisions = new Map(rows.map((row) => [row.id, row.decision]));
    return emails.flatMap((email) => {
      const decision = decisions.get(email.facts.id);
      return decision ? [{ email, decision }] : [];
    });
  }
}

const contactRow = z.object({ stamp: z.string() });

/** Tells whether records, lists or the team changed: decisions rest on them. */
async function worldStamp(db: Database['worker'] | Tx): Promise<string> {
  const rows = await rowsOf(
    db,
    contactRow,
    sql`SELECT concat_ws(' ',
    (SELECT count(*) || '.' || coalesce(max(id), 0) FROM contacts), (SELECT count(*) || '.' || coalesce(max(id), 0) FROM leads),
    (SELECT count(*) || '.' || coalesce(max(id), 0) FROM accounts), (SELECT count(*) || '.' || coalesce(max(id), 0) FROM deals),
    (SELECT count(*) FROM person_addresses), (SELECT count(*) FROM account_domains), (SELECT count(*) FROM deal_people), (SELECT count(*) || '.' || coalesce(max(id), 0) FROM own_records), (SELECT count(*) FROM own_record_people),
    (SELECT count(*) || '.' || coalesce(max(id), 0) FROM address_list_entries), (SELECT count(*) FROM users), (SELECT count(*) FROM delivery_failures), (SELECT coalesce(max(id), 0) FROM record_changes), (SELECT count(*) || '.' || coalesce(max(id), 0) FROM own_keep_outs)) AS stamp`,
  );
  return rows[0]?.stamp ?? '';
}
