import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { withoutPeople, withoutTag } from '@fulvet/core';
import type { EmailFacts } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { createHash, randomBytes } from 'node:crypto';
import type { Db, Tx } from '../../base/db/database';

const forgottenRow = z.object({ hash: z.string(), salt: z.string() });

/** Addresses that are to stay forgotten, known by their salted hashes alone. */
export class Forgotten {
  private constructor(
    private readonly salt: string,
    private readonly hashes: ReadonlySet<string>,
  ) {}

  static async load(db: Db | Tx): Promise<Forgotten> {
    const rows = await rowsOf(db, forgottenRow, sql`SELECT f.hash, e.salt FROM forgotten f JOIN erasures e ON e.id = f.erasure_id`);
    return new Forgotten(rows[0]?.salt ?? '', new Set(rows.map((row) => row.hash)));
  }

  readonly has = (address: string): boolean =>
    this.hashes.size > 0 && (this.hashes.has(hashOf(this.salt, address)) || this.hashes.has(hashOf(this.salt, withoutTag(address))));

  get isEmpty(): boolean {
    return this.hashes.size === 0;
  }
}

export function hashOf(salt: string, address: string): string {
  return createHash('sha256').update(`${salt} ${address.toLowerCase()}`).digest('hex');
}

const erasureRow = z.object({ salt: z.string() });

/** The salt of the installation's erasures: one for all, so that an address is looked up by one hash. */
export async function erasureSalt(tx: Tx): Promise<string> {
  const rows = await rowsOf(tx, erasureRow, sql`SELECT salt FROM erasures ORDER BY id LIMIT 1`);
  return rows[0]?.salt ?? randomBytes(24).toString('base64url');
}

/** What becomes of an email that someone who is forgotten takes part in. */
export interface Kept {
  facts: EmailFacts;
  /** Nothing of it but that something came. */
  emptied: boolean;
}

/**
 * An email as it is stored where someone forgotten takes part: without them where others from outside do, too; else emptied. Its source is not kept in either
 * case.
 *
 * @returns null where no one forgotten takes part
 */
export function keptOf(facts: EmailFacts, forgotten: Forgotten, isOurs: (address: string, domain: string) => boolean): Kept | null {
  if (forgotten.isEmpty || !facts.participants.some((participant) => forgotten.has(participant.address))) return null;
  const others = facts.participants.some(
    (participant) => !forgotten.has(participant.address) && !isOurs(participant.address, participant.domain),
  );
  const bare: EmailFacts = { ...facts, hasHtml: false, attachments: [], meetings: [], deliveredTo: [], problems: [], classProof: null };
  if (!others)
    return { emptied: true, facts: { ...bare, messageId: null, references: [], participants: [], subject: '', baseSubject: '', text: '' } };
  const { subject, text, participants } = withoutPeople(facts, forgotten.has);
  const { subject: baseSubject } = withoutPeople({ ...facts, subject: facts.baseSubject }, forgotten.has);
  return { emptied: false, facts: { ...bare, subject, baseSubject, text, participants: [...participants] } };
}
