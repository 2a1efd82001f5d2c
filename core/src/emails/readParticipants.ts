import { addressKey } from '../address/address';
import { parseAddressList } from '../address/parseAddressList';
import { cleanText } from '../text/cleanText';
import type { HeaderField } from './headers';
import { headerValue, headerValues } from './headers';
import type { RewrittenAuthor } from './rewrittenAuthor';
import { MAX_PARTICIPANTS } from './emailFacts';
import type { ParticipantRole, Participant, ReadingProblem } from './emailFacts';

const ROLE_FIELDS: readonly [string, ParticipantRole][] = [
  ['from', 'from'],
  ['sender', 'sender'],
  ['reply-to', 'replyTo'],
  ['to', 'to'],
  ['cc', 'cc'],
  ['bcc', 'bcc'],
];

export function readParticipants(
  fields: readonly HeaderField[],
  rewritten: RewrittenAuthor | null,
  authorTrusted: boolean,
  envelopeSender: string,
  problems: ReadingProblem[],
): Participant[] {
  const participants: Participant[] = [];
  const seen = new Set<string>();
  const add = (role: ParticipantRole, written: string, name: string): boolean => {
    const key = addressKey(written, { tagsTellApart: true });
    if (!key || key.key.length > 320) return false;
    const once = `${role} ${key.key}`;
    if (seen.has(once)) return true;
    seen.add(once);
    if (seen.size > MAX_PARTICIPANTS) return true;
    participants.push({ role, address: key.key, domain: key.domain, name: cleanText(name).slice(0, 200).toWellFormed() });
    return true;
  };

  const believed = authorTrusted ? rewritten : null;
  if (believed) {
    add('from', believed.author.address, believed.author.name);
    add('sender', believed.via.address, believed.via.name);
  }
  for (const [field, role] of believed ? ROLE_FIELDS.slice(1) : ROLE_FIELDS) {
    for (const value of headerValues(fields, field)) {
      const unread = parseAddressList(value).filter((address) => !add(role, address.address, address.name));
      if (unread.length > 0) problems.push({ code: 'bad-address', message: `${unread.length} address(es) in ${field} could not be read.` });
    }
  }
  if (rewritten && !believed) add('claimed', rewritten.author.address, rewritten.author.name);
  if (seen.size > MAX_PARTICIPANTS)
    problems.push({ code: 'shortened', message: `The email names ${seen.size} people; the first ${MAX_PARTICIPANTS} count.` });
  // Who sent from a shared address: the Sender field, else what the provider notes about the sign-in.
  if (!participants.some((participant) => participant.role === 'sender')) add('sender', headerValue(fields, 'x-authenticated-sender'), '');
  if (participants.some((participant) => participant.role === 'from')) return participants;

  const standIn = participants.find((participant) => participant.role === 'sender');
  const fallback = standIn?.address ?? parseAddressList(headerValue(fields, 'return-path'))[0]?.address ?? envelopeSender;
  if (!add('from', fallback, standIn?.name ?? '')) problems.push({ code: 'no-sender', message: 'The email names no sender.' });
  return participants;
}

const DELIVERY_FIELDS = ['delivered-to', 'x-original-to', 'envelope-to', 'x-envelope-to'];

export function readDelivered(fields: readonly HeaderField[]): string[] {
  const written = DELIVERY_FIELDS.flatMap((field) => headerValues(fields, field)).slice(0, 50);
  const keys = written.flatMap((value) =>
    parseAddressList(value).map((address) => addressKey(address.address, { tagsTellApart: true })?.key ?? ''),
  );
  return [...new Set(keys.filter((key) => key !== ''))];
}
