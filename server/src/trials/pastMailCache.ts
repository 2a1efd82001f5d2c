import { z } from 'zod';
import { idRow, manyRowsOf } from '../base/db/rows';
import { canonicalJson } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { setTimeout as pause } from 'node:timers/promises';
import type { Sources } from '../base/reading/sources';
import { bigints } from '../base/db/copyRows';
import type { Database } from '../base/db/database';
import { LeanReader } from '../decision/inputs/leanFacts';
import { loadDirectory, loadWholeDirectory } from '../decision/inputs/loadDirectory';
import type { StoredEmail } from '../decision/inputs/loadFacts';
import type { PastMail } from './pastMail';
import { makePastMail, MOST_TEXTS } from './pastMail';

const MOST = 1_200_000;
/** While very much is read, what has been read so far can be counted over after so many emails. */
const PARTS = [1500, 32_000, 256_000];
/** A reading that took long is good for ten times as long: a tenth of the time, at most, goes into reading what has changed. */
const GOOD_FOR = 10;
const GOOD_AT_MOST_MS = 60_000;
const LONG_MS = 1000;
const IDLE_MS = 15 * 60_000;

const emailRow = z.object({ stamp: z.string(), emails: z.number(), now: z.string() });

const freshRow = z.object({ id: z.number(), fresh: z.boolean() });

/**
 * Keeps past mail in memory while rules are being edited, so that counting a rule is a walk over plain data. What has changed since is
 * loaded before the next count. Given up when no one has counted for a quarter of an hour.
 */
export class PastMailCache {
  private stamp = '';
  private byId = new Map<number, StoredEmail>();
  private past: PastMail | null = null;
  private loading: Promise<PastMail> | null = null;
  /** Resolved with the first part of what is being loaded. */
  private part: { promise: Promise<void>; done: () => void } | null = null;
  private readAt = new Date(0).toISOString();
  /** When what `past` holds was read, by the database's clock. */
  private pastAt = this.readAt;
  private goodUntil = 0;
  private idle: NodeJS.Timeout | null = null;

  constructor(
    private readonly database: Database,
    private readonly blobs: Sources,
    private readonly parts: readonly number[] = PARTS,
  ) {}

  /**
   * All past mail as it is now. Those who ask while it is being loaded share the loading.
   *
   * @param rulebook tells who is outside
   */
  whole(rulebook: CompiledRulebook): Promise<PastMail> {
    this.stayAwake();
    if (this.loading === null) {
      this.part = newSignal();
      this.loading = this.load(rulebook).finally(() => {
        this.loading = null;
        this.part?.done();
      });
    }
    return this.loading;
  }

  /** Whether all past mail is in memory: counting is a walk over it then. */
  get isWhole(): boolean {
    return this.past !== null && this.past.emails.length === this.past.total;
  }

  /** What there is of it after so long: all, or what stood when it was read last, or the newest part of it. */
  async soon(rulebook: CompiledRulebook, patienceMs: number): Promise<PastMail> {
    const whole = this.whole(rulebook);
    const inTime = await Promise.race([whole, pause(patienceMs, null, { ref: false })]);
    if (inTime) return inTime;
    await this.forgetSealed();
    // Whoever asks next learns of a reading that fails.
    whole.catch(() => undefined);
    if (!this.past) await this.part?.promise;
    return this.past ?? whole;
  }

  private stayAwake(): void {
    if (this.idle) clearTimeout(this.idle);
    this.idle = setTimeout(() => {
      this.byId = new Map();
      this.past = null;
      this.stamp = '';
      this.goodUntil = 0;
    }, IDLE_MS);
    this.idle.unref();
  }

  private async load(rulebook: CompiledRulebook): Promise<PastMail> {
    const begun = Date.now();
    const db = this.database.worker;
    await this.forgetSealed();
    if (this.past && begun < this.goodUntil) return this.past;
    const rows = await manyRowsOf(
      db,
      emailRow,
      sql`
      SELECT concat_ws(' ', m.stored, (SELECT max(id) FROM emails), (SELECT max(decided_at) FROM emails), (SELECT count(*) FROM contacts), (SELECT count(*) FROM leads),
        (SELECT count(*) FROM accounts), (SELECT count(*) FROM deals), (SELECT count(*) FROM own_records), (SELECT max(id) FROM record_changes), (SELECT count(*) FROM delivery_failures), (SELECT count(*) FROM users), (SELECT count(*) FROM mailboxes)) AS stamp,
        m.emails, now()::text AS now
      FROM (SELECT count(*) AS stored, (count(*) FILTER (WHERE outcome IS DISTINCT FROM 'sealed'))::int AS emails FROM emails) m`,
    );
    const now = rows[0]?.now ?? this.readAt;
    const stamp = `${rows[0]?.stamp ?? ''} ${canonicalJson(rulebook.source.us)}`;
    if (this.past && stamp === this.stamp) return this.past;
    const [first = 0, ...more] = this.parts;
    // What stood when it was read last tells more than a part of what is now.
    const inParts = !this.past && (rows[0]?.emails ?? 0) > first && first > 0;
    if (inParts) await this.readNewest(first, rulebook, rows[0]?.emails ?? 0, now);
    const listed = await manyRowsOf(
      db,
      freshRow,
      sql`SELECT id, (decided_at IS NULL OR decided_at >= ${this.readAt}::timestamptz) AS fresh FROM emails WHERE outcome IS DISTINCT FROM 'sealed' ORDER BY sent_at DESC, id DESC LIMIT ${MOST}`,
    );
    const all = listed;
    const { directory } = await db.transaction((tx) => loadWholeDirectory(tx, [rulebook]), { accessMode: 'read only' });
    const build = (count: number): Promise<PastMail> => {
      const stored = all.slice(0, count).flatMap((row) => this.byId.get(row.id) ?? []);
      return makePastMail(stored.reverse(), directory, rulebook, all.length);
    };
    const parts = inParts ? more.filter((value) => value < all.length) : [];
    let from = 0;
    for (const to of [...parts, all.length]) {
      const wanted = all.slice(from, to).flatMap((row, at) => (row.fresh || !this.byId.has(row.id) ? [{ id: row.id, at: from + at }] : []));
      for (const text of [true, false])
        await this.read(
          wanted.flatMap(({ id, at }) => (at < MOST_TEXTS === text ? [id] : [])),
          text,
        );
      from = to;
      this.past = await build(to);
      this.pastAt = now;
      this.part?.done();
    }
    const past = (this.past ??= await build(all.length));
    this.stamp = stamp;
    this.readAt = now;
    const took = Date.now() - begun;
    this.goodUntil = took < LONG_MS ? 0 : Date.now() + Math.min(GOOD_FOR * took, GOOD_AT_MOST_MS);
    return past;
  }

  /** The newest alone, with the records that they may ask for: at hand long before the whole is. */
  private async readNewest(count: number, rulebook: CompiledRulebook, total: number, now: string): Promise<void> {
    const db = this.database.worker;
    const rows = await manyRowsOf(
      db,
      idRow,
      sql`SELECT id FROM emails WHERE outcome IS DISTINCT FROM 'sealed' ORDER BY sent_at DESC, id DESC LIMIT ${count}`,
    );
    await this.read(
      rows.map((row) => row.id),
      true,
    );
    const stored = rows.flatMap((row) => this.byId.get(row.id) ?? []).reverse();
    const directory = await db.transaction(
      (tx) =>
        loadDirectory(
          tx,
          stored.map((email) => email.facts),
          [rulebook],
          [],
        ),
      { accessMode: 'read only' },
    );
    this.past = await makePastMail(stored, directory, rulebook, total);
    this.pastAt = now;
    this.part?.done();
  }

  /** No one may learn from a count that mail exists which has been sealed since it was read. */
  private async forgetSealed(): Promise<void> {
    if (!this.past) return;
    const { rows } = await this.database.worker.execute(
      sql`SELECT FROM emails WHERE outcome = 'sealed' AND decided_at >= ${this.pastAt}::timestamptz LIMIT 1`,
    );
    if (rows.length > 0) this.past = null;
  }

  private async read(ids: readonly number[], text: boolean): Promise<void> {
    if (ids.length === 0) return;
    await this.database.work(
      async (tx) => {
        const reader = await LeanReader.open(this.database, tx, this.blobs, { needs: { text, attachments: true }, toKeep: true });
        for await (const found of reader.stream(tx, sql`e.id = ANY(${bigints(ids)})`))
          for (const { email } of found) this.byId.set(email.facts.id, email);
      },
      { accessMode: 'read only', isolationLevel: 'repeatable read' },
    );
  }
}

function newSignal(): { promise: Promise<void>; done: () => void } {
  let done = (): void => undefined;
  const promise = new Promise<void>((resolve) => (done = resolve));
  return { promise, done };
}
