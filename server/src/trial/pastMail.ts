import { NO_MEMORY, remember } from '@fulvet/core';
import type { ConversationMemory, Directory } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { BlobStore } from '../blobs/blobStore';
import type { Database } from '../db/database';
import { filedUnder } from '../decide/filedUnder';
import { loadWholeDirectory } from '../decide/loadDirectory';
import type { StoredEmail } from '../decide/loadFacts';
import { loadFacts } from '../decide/loadFacts';

const MOST = 50_000;
const BATCH = 1000;

/** Past mail as rules are counted over: facts, what stood before each in its conversation, and all records. */
export interface PastMail {
  /** In order of date. */
  emails: readonly { email: StoredEmail; memory: ConversationMemory }[];
  directory: Directory;
}

/**
 * Keeps the newest past mail in memory while rules are being edited, so that counting a rule is a walk over plain data. What has
 * changed since is loaded before the next count.
 */
export class PastMailCache {
  private stamp = '';
  private readonly byId = new Map<number, StoredEmail>();
  private past: PastMail | null = null;
  private loading: Promise<PastMail> | null = null;
  private readAt = new Date(0).toISOString();

  constructor(
    private readonly database: Database,
    private readonly blobs: BlobStore,
  ) {}

  /** The past mail as it is now. Those who ask while it is being loaded share the loading. */
  get(): Promise<PastMail> {
    this.loading ??= this.load().finally(() => (this.loading = null));
    return this.loading;
  }

  private async load(): Promise<PastMail> {
    const db = this.database.worker;
    const { rows } = await db.execute<{
      stamp: string;
      now: string;
    }>(sql`SELECT concat_ws(' ', (SELECT count(*) FROM emails), (SELECT max(id) FROM emails), (SELECT max(decided_at) FROM emails),
      (SELECT count(*) FROM contacts), (SELECT count(*) FROM leads), (SELECT count(*) FROM accounts), (SELECT count(*) FROM deals)) AS stamp, now()::text AS now`);
    const stamp = rows[0]?.stamp ?? '';
    if (this.past && stamp === this.stamp) return this.past;
    const listed = await db.execute<{ id: number; fresh: boolean }>(
      sql`SELECT id, (decided_at IS NULL OR decided_at >= ${this.readAt}::timestamptz) AS fresh FROM emails ORDER BY sent_at DESC, id DESC LIMIT ${MOST}`,
    );
    const wanted = listed.rows.filter((row) => row.fresh || !this.byId.has(row.id)).map((row) => row.id);
    for (let at = 0; at < wanted.length; at += BATCH) {
      const facts = await db.transaction((tx) => loadFacts(tx, this.blobs, wanted.slice(at, at + BATCH), true), {
        accessMode: 'read only',
      });
      for (const one of facts) this.byId.set(one.facts.id, one);
    }
    const { directory } = await db.transaction((tx) => loadWholeDirectory(tx), { accessMode: 'read only' });
    const emails = listed.rows.flatMap((row) => this.byId.get(row.id) ?? []).reverse();
    this.past = { emails: withMemories(emails), directory };
    this.stamp = stamp;
    this.readAt = rows[0]?.now ?? this.readAt;
    return this.past;
  }
}

/** What each email's conversation held before it, by what stands. */
function withMemories(emails: readonly StoredEmail[]): PastMail['emails'] {
  const memories = new Map<number, ConversationMemory>();
  return emails.map((email) => {
    const memory = memories.get(email.conversationId) ?? NO_MEMORY;
    memories.set(email.conversationId, remember(memory, { filings: filedUnder(email.before.filings), direction: email.before.direction }));
    return { email, memory };
  });
}
