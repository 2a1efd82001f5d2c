import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { domainOf, ERASED_DOMAIN, subjectKey } from '@fulvet/core';
import type { CompiledRulebook, Participant } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import type { Tx } from '../../base/db/database';

/** What of an email decides its conversation besides ids. */
export interface ThreadTraits {
  baseSubject: string;
  participants: readonly Pick<Participant, 'role' | 'address'>[];
}

/** The same as hashes, as they are stored. */
export interface HashedTraits {
  /** An empty string where there is no subject. */
  subject: string;
  /** External people in From, To and Cc. Who got a blind copy is told by one copy only, and would make conversations depend on the order of arrival. */
  people: string[];
  /** Those of them who are in copy. */
  copied: string[];
}

const COUNTED: ReadonlySet<string> = new Set(['from', 'to', 'cc']);

const threadKeyRow = z.object({ key: z.string() });

/**
 * Keyed hashes of subjects and people (SHA-256, the installation's key before the value, 128 bits of it). They let an email that is kept out hold its place
 * among conversations, though nothing of what it says is kept.
 */
export class ThreadHasher {
  private constructor(private readonly key: string) {}

  static async load(tx: Tx): Promise<ThreadHasher> {
    const rows = await rowsOf(tx, threadKeyRow, sql`SELECT key FROM thread_keys LIMIT 1`);
    const key = rows[0]?.key;
    if (key === undefined) throw new Error('The key of the thread hashes is missing. Restore the table thread_keys from a backup.');
    return new ThreadHasher(key);
  }

  person(personKey: string): string {
    return this.hash('person', personKey);
  }

  subject(baseSubject: string): string {
    const key = subjectKey(baseSubject);
    return key === '' ? '' : this.hash('subject', key);
  }

  traits({ baseSubject, participants }: ThreadTraits, rulebook: Pick<CompiledRulebook, 'isOurs' | 'personKey'>): HashedTraits {
    const outside = participants.filter(({ role, address }) => {
      const domain = domainOf(address);
      return COUNTED.has(role) && domain !== ERASED_DOMAIN && !rulebook.isOurs(address, domain);
    });
    const hashed = (people: typeof outside): string[] => [
      ...new Set(people.map(({ address }) => this.person(rulebook.personKey(address)))),
    ];
    return {
      subject: this.subject(baseSubject),
      people: hashed(outside),
      copied: hashed(outside.filter(({ role }) => role === 'cc')),
    };
  }

  private hash(kind: string, value: string): string {
    return createHash('sha256').update(`${this.key} ${kind} ${value}`).digest('hex').slice(0, 32);
  }
}

export async function insertThreadHashes(tx: Tx, emails: readonly (HashedTraits & { id: number })[]): Promise<void> {
  if (emails.length === 0) return;
  await tx.execute(sql`INSERT INTO thread_hashes (email_id, sent_at, subject, people, copied)
    SELECT t.id, e.sent_at, t.subject, ARRAY(SELECT json_array_elements_text(t.people)), ARRAY(SELECT json_array_elements_text(t.copied))
    FROM json_to_recordset(${JSON.stringify(emails)}::json) AS t(id bigint, subject text, people json, copied json) JOIN emails e ON e.id = t.id ON CONFLICT (email_id) DO NOTHING`);
}

/** Takes erased people out of the hashes of all emails, those that are kept out too. */
export async function forgetPeople(tx: Tx, personKeys: readonly string[]): Promise<void> {
  const hasher = await ThreadHasher.load(tx);
  const gone = sql`${sql.param(personKeys.map((key) => hasher.person(key)))}::text[]`;
  await tx.execute(sql`UPDATE thread_hashes SET people = ARRAY(SELECT p FROM unnest(people) p WHERE p <> ALL(${gone})),
    copied = ARRAY(SELECT p FROM unnest(copied) p WHERE p <> ALL(${gone})) WHERE people && ${gone}`);
  await tx.execute(sql`DELETE FROM delivery_failures WHERE person = ANY(${gone})`);
}
