import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import type { EmailFacts, Participant } from './emailFacts';

/**
 * What makes two sightings one email.
 *
 * The Message-ID together with sender and written date; without a Message-ID, a fingerprint of sender, recipients, date,
 * subject and text. Two emails that share a Message-ID but not sender and date stay apart. Bcc is no part of it: only the
 * sender's copy knows it.
 *
 * @returns 32 hexadecimal digits
 */
export function identityOf(facts: EmailFacts): string {
  const sender = facts.participants.find((one) => one.role === 'from')?.address ?? '';
  const written = facts.date.written === null ? 'undated' : String(Math.floor(facts.date.written / 1000));
  if (facts.messageId !== null) return digest(['id', facts.messageId, sender, written]);
  const recipients = facts.participants
    .filter((one) => one.role === 'to' || one.role === 'cc')
    .map((one) => one.address)
    .sort();
  const text = facts.text.replace(/\s+/g, ' ').trim();
  return digest(['print', sender, recipients.join(','), written, facts.baseSubject, text]);
}

/** The union of what the sightings of one email know of its participants; the first spelling of a name stays. */
export function unitedParticipants(known: readonly Participant[], seen: readonly Participant[]): Participant[] {
  const united = [...known];
  const keys = new Set(known.map(participantKey));
  for (const one of seen) {
    if (keys.has(participantKey(one))) continue;
    keys.add(participantKey(one));
    united.push(one);
  }
  return united;
}

function participantKey(one: Participant): string {
  return `${one.role} ${one.address}`;
}

function digest(parts: readonly string[]): string {
  return bytesToHex(sha256(utf8ToBytes(parts.join('\n')))).slice(0, 32);
}
