import { canonicalJson, directionOf, externalParticipants, keysOf, NO_MEMORY, placeOf, remember } from '@fulvet/core';
import type { CompiledRulebook, CompiledStop, ConversationMemory, Directory, PastEmail } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { BlobStore } from '../blobs/blobStore';
import { bigints } from '../db/copyRows';
import type { Database } from '../db/database';
import { filedUnder } from '../decide/filedUnder';
import { LeanReader } from '../decide/leanFacts';
import { loadWholeDirectory } from '../decide/loadDirectory';
import type { StoredEmail } from '../decide/loadFacts';

const MOST = 1_200_000;
/** Texts are held of so many of the newest emails: rules about the text are counted over these. */
const MOST_TEXTS = 50_000;

/** Past mail as rules are counted over: facts, what stood before each in its conversation, and all records. */
export interface PastMail {
  /** In order of date. */
  emails: readonly PastEmail[];
  directory: Directory;
  /** Places in `emails` by the keys that rules ask for: addresses and domains. */
  byKey: ReadonlyMap<string, readonly number[]>;
  /** The first place from which on texts are held. */
  textsFrom: number;
}

/**
 * Keeps past mail in memory while rules are being edited, so that counting a rule is a walk over plain data. What has changed since is
 * loaded before the next count.
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

  /**
   * The past mail as it is now. Those who ask while it is being loaded share the loading.
   *
   * @param rulebook tells who is outside
   */
  get(rulebook: CompiledRulebook): Promise<PastMail> {
    this.loading ??= this.load(rulebook).finally(() => (this.loading = null));
    return this.loading;
  }

  private async load(rulebook: CompiledRulebook): Promise<PastMail> {
    const db = this.database.worker;
    const { rows } = await db.execute<{
      stamp: string;
      now: string;
    }>(sql`SELECT concat_ws(' ', (SELECT count(*) FROM emails), (SELECT max(id) FROM emails), (SELECT max(decided_at) FROM emails),
      (SELECT count(*) FROM contacts), (SELECT count(*) FROM leads), (SELECT count(*) FROM accounts), (SELECT count(*) FROM deals), (SELECT max(id) FROM record_changes), (SELECT count(*) FROM users), (SELECT count(*) FROM mailboxes)) AS stamp, now()::text AS now`);
    const stamp = `${rows[0]?.stamp ?? ''} ${canonicalJson(rulebook.source.us)}`;
    if (this.past && stamp === this.stamp) return this.past;
    const listed = await db.execute<{ id: number; fresh: boolean }>(
      sql`SELECT id, (decided_at IS NULL OR decided_at >= ${this.readAt}::timestamptz) AS fresh FROM emails WHERE outcome IS DISTINCT FROM 'sealed' ORDER BY sent_at DESC, id DESC LIMIT ${MOST}`,
    );
    const withText = new Set(listed.rows.slice(0, MOST_TEXTS).map((row) => row.id));
    const wanted = listed.rows.filter((row) => row.fresh || !this.byId.has(row.id)).map((row) => row.id);
    await this.read(
      wanted.filter((id) => withText.has(id)),
      true,
    );
    await this.read(
      wanted.filter((id) => !withText.has(id)),
      false,
    );
    const { directory } = await db.transaction((tx) => loadWholeDirectory(tx), { accessMode: 'read only' });
    const emails = listed.rows.flatMap((row) => this.byId.get(row.id) ?? []).reverse();
    const past = withMemories(emails, rulebook);
    this.past = { emails: past, directory, byKey: placesByKey(past, rulebook), textsFrom: Math.max(0, past.length - MOST_TEXTS) };
    this.stamp = stamp;
    this.readAt = rows[0]?.now ?? this.readAt;
    return this.past;
  }

  private async read(ids: readonly number[], text: boolean): Promise<void> {
    if (ids.length === 0) return;
    await this.database.worker.transaction(
      async (tx) => {
        const reader = await LeanReader.open(this.database, tx, this.blobs, { needs: { text, attachments: true }, toKeep: true });
        for await (const found of reader.stream(tx, sql`e.id = ANY(${bigints(ids)})`))
          for (const { email } of found) this.byId.set(email.facts.id, email);
      },
      { accessMode: 'read only', isolationLevel: 'repeatable read' },
    );
  }
}

/** What each email's conversation held before it, by what stands, and who of it is outside. */
function withMemories(emails: readonly StoredEmail[], rulebook: CompiledRulebook): PastEmail[] {
  const memories = new Map<number, ConversationMemory>();
  return emails.map(({ facts, conversationId, before }) => {
    const memory = memories.get(conversationId) ?? NO_MEMORY;
    memories.set(conversationId, remember(memory, { ...before, filings: filedUnder(before.filings) }, facts.subject));
    const externals = externalParticipants(facts.participants, rulebook);
    return { facts, memory, externals, direction: directionOf(facts.participants, externals, rulebook) };
  });
}

function placesByKey(emails: readonly PastEmail[], rulebook: CompiledRulebook): Map<string, number[]> {
  const places = new Map<string, number[]>();
  emails.forEach(({ externals }, at) => {
    for (const key of keysOf(externals, (address) => rulebook.personKey(address))) {
      const list = places.get(key);
      if (list) list.push(at);
      else places.set(key, [at]);
    }
  });
  return places;
}

/** The emails on which the rule can speak: found by the addresses and domains that it needs, else all that have what it asks. */
export function emailsFor(past: PastMail, rule: CompiledStop<unknown>, since: number): { emails: Iterable<PastEmail>; of: number } {
  const from = Math.max(
    rule.needs('body') ? past.textsFrom : 0,
    placeOf(past.emails, since, (one) => one.facts.at),
  );
  const of = past.emails.length - from;
  const keys = rule.keys();
  if (keys === null) return { emails: from === 0 ? past.emails : past.emails.slice(from), of };
  const places = new Set([...keys].flatMap((key) => past.byKey.get(key) ?? []));
  const ordered = [...places].filter((at) => at >= from).sort((one, other) => one - other);
  return { emails: ordered.flatMap((at) => past.emails[at] ?? []), of };
}
