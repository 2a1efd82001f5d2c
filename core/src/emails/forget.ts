import type { Participant } from './emailFacts';

/** Where an erased person's address led. No one is there, and nothing is matched or created by it. */
export const ERASED_DOMAIN = 'erased.invalid';
const ERASED = '[erased]';
/** Shorter names are words like others; they are looked for as a whole beside the address only. */
const LONG_NAME = 5;

/** What of an email tells of people. */
export interface TellingParts {
  subject: string;
  text: string;
  participants: readonly Participant[];
}

/** What is looked for of a person in texts: addresses, and names of more than one word. */
export interface PersonTraces {
  addresses: readonly string[];
  names: readonly string[];
}

/**
 * Takes people out of an email for good: as participants, and their addresses and names out of its subject and text. The others and what they wrote stay.
 *
 * @returns the parts without them, and whether anyone was found
 */
export function withoutPeople(
  parts: TellingParts,
  isForgotten: (address: string) => boolean,
  more: PersonTraces = { addresses: [], names: [] },
): TellingParts & { found: boolean } {
  const gone = parts.participants.filter((participant) => isForgotten(participant.address));
  const addresses = [...new Set([...more.addresses, ...gone.map((participant) => participant.address)])];
  const redact = redactor({ addresses, names: [...more.names, ...gone.map((participant) => participant.name)] });
  const numbers = new Map(addresses.map((address, at) => [address, at + 1]));
  const participants = parts.participants.map((participant) =>
    isForgotten(participant.address)
      ? {
          role: participant.role,
          address: `erased-${numbers.get(participant.address) ?? 0}@${ERASED_DOMAIN}`,
          domain: ERASED_DOMAIN,
          name: '',
        }
      : { ...participant, name: redact(participant.name) },
  );
  const [subject, text] = [redact(parts.subject), redact(parts.text)];
  return { subject, text, participants, found: gone.length > 0 || subject !== parts.subject || text !== parts.text };
}

/** A function that takes addresses and names out of texts, without regard to case. */
export function redactor({ addresses, names }: PersonTraces): (text: string) => string {
  const wanted = tracesOf({ addresses, names });
  if (wanted.length === 0) return (text) => text;
  const longestFirst = [...new Set(wanted)].sort((first, second) => second.length - first.length);
  const pattern = new RegExp(
    longestFirst.map((value) => value.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&').replace(/\s+/g, '\\s+')).join('|'),
    'giu',
  );
  return (text) => text.replace(pattern, ERASED);
}

/** What is looked for of a person in texts: their addresses, and those of their names that tell of one person. */
export function tracesOf({ addresses, names }: PersonTraces): string[] {
  return [...addresses, ...names.map((name) => name.trim()).filter(isTelling)].filter((address) => address !== '');
}

/** A name that tells of one person: of several words. */
function isTelling(name: string): boolean {
  return name.length >= LONG_NAME && /\S\s+\S/.test(name);
}
