import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { CompiledRulebook, DecisionFacts, Rulebook } from '@fulvet/core';
import { parsedRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Database, Db, Tx } from '../base/db/database';
import { compiledFor, liveRulebook } from './liveRulebook';

/** A version of the rulebook, ready for deciding. */
export interface VersionInForce {
  version: number;
  compiled: CompiledRulebook;
}

const rulebookRow = z.object({ version: z.number(), document: z.unknown(), mailboxes: z.array(z.string()) });

/** What is in force: for everyone, and while a pilot runs, for the mail of its mailboxes. */
export class RulebookInForce {
  private constructor(
    /** What is in force for everyone. */
    readonly live: VersionInForce,
    private readonly pilot: (VersionInForce & { mailboxes: ReadonlySet<string> }) | null,
  ) {}

  static async load(database: Database): Promise<RulebookInForce> {
    const live = await liveRulebook(database);
    const rows = await rowsOf(
      database.worker,
      rulebookRow,
      sql`SELECT version, document, pilot_mailboxes AS mailboxes FROM rulebooks WHERE pilot_mailboxes IS NOT NULL AND pilot_ended_at IS NULL`,
    );
    const [row] = rows;
    if (!row) return new RulebookInForce(live, null);
    const compiled = await compiledFor(database.worker, parsedRulebook(row.document));
    return new RulebookInForce(live, { version: row.version, compiled, mailboxes: new Set(row.mailboxes) });
  }

  /** The version for an email. The pilot's decides what lies in mailboxes of the pilot only, so that no one else is touched by it. */
  versionFor({ facts }: { facts: Pick<DecisionFacts, 'mailboxes'> }): VersionInForce {
    const { pilot } = this;
    const isPilots = pilot !== null && facts.mailboxes.length > 0 && facts.mailboxes.every((mailbox) => pilot.mailboxes.has(mailbox));
    return isPilots ? pilot : this.live;
  }

  /** What would be in force if all rulebooks were changed so. */
  async changed(db: Db | Tx, change: (rulebook: Rulebook) => Rulebook): Promise<RulebookInForce> {
    const { live, pilot } = this;
    return new RulebookInForce(
      { ...live, compiled: await compiledFor(db, change(live.compiled.source)) },
      pilot && { ...pilot, compiled: await compiledFor(db, change(pilot.compiled.source)) },
    );
  }

  /** All rulebooks by which emails may be decided. */
  get rulebooks(): CompiledRulebook[] {
    return this.pilot ? [this.live.compiled, this.pilot.compiled] : [this.live.compiled];
  }

  get needsText(): boolean {
    return this.rulebooks.some((rulebook) => rulebook.needsText);
  }

  /** Tells whether another version came into force. */
  get stamp(): string {
    return `${this.live.version} ${this.pilot?.version ?? ''}`;
  }
}
