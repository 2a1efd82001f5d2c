import { bodyParts } from './bodyParts';
import type { MachineSign, SignPlace } from './machineSigns';
import { MACHINE_SIGNS } from './machineSigns';
import type { ClassifiedMail } from './mailClass';

/** Mail that is longer than this is not looked through: machines of these kinds write little, newsletters end within it. */
const MOST_TEXT = 8000;
/** An absence note says little more than that. */
const MOST_OF_ABSENCE = 900;
const ENOUGH = 1;
const MOST_SHOWN = 4;
const MOST_WORDS = 1500;

/** A phrase of a sign, taken apart where anything may stand between. */
interface Phrase {
  sign: MachineSign;
  text: string;
  parts: readonly string[];
}

const WORD = /[\p{L}\d]+/gu;
const IS_WORD = /[\p{L}\d]/u;
/** How far apart two parts of a phrase may stand. */
const BETWEEN = 40;
/** What may follow a mark before a subject: nothing, what is answered, or until when. No one goes on so in a sentence of their own. */
const AFTER_MARK = /^\s*(?:$|[:：\-–(#]|\d|(?:until|till|bis|ab|vom|jusqu|du|le|hasta|fino|tot|til|t\.o\.m|do|asti|from|since)(?!\p{L}))/u;

const lowered = (text: string): string =>
  text
    .toLowerCase()
    .replace(/['\u2018\u2019\u02BC]/g, "'")
    .replace(/\s+/g, ' ');

/** Phrases by their place and first word. */
const PHRASES = new Map<string, Phrase[]>();
for (const sign of MACHINE_SIGNS)
  for (const phrase of sign.phrases) {
    const text = lowered(phrase);
    const first = /[\p{L}\d]+/u.exec(text)?.[0] ?? '';
    const key = `${sign.place} ${first}`;
    PHRASES.set(key, [...(PHRASES.get(key) ?? []), { sign, text: phrase, parts: text.split('…').map((part) => part.trim()) }]);
  }

/** Whether a phrase stands at a place of a text. @returns where it ends, or -1 */
function endOf(phrase: Phrase, text: string, at: number): number {
  let end = -1;
  for (const [nth, part] of phrase.parts.entries()) {
    // A bracket before the first word is a part of the phrase.
    const from: number = nth > 0 ? text.indexOf(part, end) : part.startsWith('[') ? at - 1 : at;
    if (from < 0 || !text.startsWith(part, from)) return -1;
    if (nth > 0 && (from - end > BETWEEN || /[^\d\s][.!?]\s/.test(text.slice(end, from)))) return -1;
    end = from + part.length;
  }
  const next = text[end];
  return next !== undefined && IS_WORD.test(next) && IS_WORD.test(text[end - 1] ?? '') ? -1 : end;
}

/** The signs that stand in a text, each with the phrase. @param most words that are looked at */
function signsIn(place: SignPlace, written: string, most: number): Phrase[] {
  const text = lowered(written);
  const found: Phrase[] = [];
  let words = 0;
  for (const match of text.matchAll(WORD)) {
    if ((words += 1) > most) break;
    for (const phrase of PHRASES.get(`${place} ${match[0]}`) ?? NO_PHRASES) {
      const end = endOf(phrase, text, match.index);
      if (end < 0) continue;
      const isMark = place === 'subject' && (phrase.sign.group === 'mark' || phrase.sign.group === 'read');
      if (isMark && !AFTER_MARK.test(text.slice(end, end + 12))) continue;
      found.push(phrase);
    }
  }
  return found;
}

const NO_PHRASES: readonly Phrase[] = [];

/** What of an email tells who wrote it. */
export interface WrittenContent {
  subject: string;
  text: string;
  sender: { address: string; name: string };
}

/** SMTP's own words for a permanent failure (RFC 3463, 5321). */
const FAILURE_CODE = /(?<!\d)5(?:50|51|52|53|54)[ -]+5\.\d{1,2}\.\d{1,2}(?!\d)|(?<![\d.])5\.1\.(?:1|10)(?![\d.])/;
const LINK = /https?:\/\/\S+/g;
const MANY_LINKS = 4;
/** What asks something tells a person, unless the signs tell much more than enough. */
const CERTAIN = 1.2;

/**
 * Tells mail of machines whose headers do not say so: by sender, the forms of subjects in the main European languages, and what is written, each a
 * sign with a weight. What people quote, forward or answer tells nothing of who wrote.
 *
 * @returns null where the signs are not enough: a person's email that is taken for a machine's does more harm than a machine's that is not found
 */
export function classifyContent({ subject, text, sender }: WrittenContent): ClassifiedMail | null {
  const parts = bodyParts(text.slice(0, MOST_TEXT * 2));
  const own = parts
    .filter((part) => part.kind !== 'quote')
    .map((part) => part.text)
    .join('\n')
    .slice(0, MOST_TEXT);
  const found = new Map<string, Map<string, { weight: number; shown: string }>>();
  const note = (kind: string, group: string, weight: number, shown: string): void => {
    const groups = found.get(kind) ?? new Map<string, { weight: number; shown: string }>();
    if ((groups.get(group)?.weight ?? 0) < weight) found.set(kind, groups.set(group, { weight, shown }));
  };
  const local = sender.address.split('@')[0] ?? '';
  for (const { sign, text: phrase } of [
    // A subject tells by how it begins.
    ...signsIn('subject', subject, 1),
    ...signsIn('text', own, MOST_WORDS),
    ...signsIn('sender', `${local} ${sender.name}`, MOST_WORDS),
  ])
    note(sign.kind, `${sign.place} ${sign.group}`, sign.weight, `${sign.place} “${phrase}”`);
  const failure = FAILURE_CODE.exec(own);
  if (failure) note('bounce', 'code', 0.3, `text “${failure[0]}”`);
  const links = own.match(LINK)?.length ?? 0;
  if (links >= 2) note('newsletter', 'links', links >= MANY_LINKS ? 0.5 : 0.3, `${links} links`);
  if (/unsubscribe|abmelden|désabonn|désinscri|baja|afmelden|uitschrijven|avregistrer|wypisz/i.test(lastLines(own)))
    note('newsletter', 'text taken off', 0.5, 'how to be taken off, at the end');

  let best: ClassifiedMail | null = null;
  let most = 0;
  for (const [kind, groups] of found) {
    const weight = Math.round([...groups.values()].reduce((sum, item) => sum + item.weight, 0) * 100) / 100;
    if (weight < ENOUGH || weight <= most || !isLikely(kind, groups, own, weight)) continue;
    most = weight;
    const shown = [...groups.values()].sort((first, second) => second.weight - first.weight).slice(0, MOST_SHOWN);
    best = {
      mailClass: kind as ClassifiedMail['mailClass'],
      proof: { header: CONTENT, value: shown.map((item) => item.shown).join(', ') },
    };
  }
  return best;
}

/** Stands in place of a header, where what an email says tells that a machine wrote it. */
export const CONTENT = 'Content';

/** What a kind must have beside its weight. */
function isLikely(kind: string, groups: ReadonlyMap<string, unknown>, own: string, weight: number): boolean {
  const asks = own.replace(LINK, '').includes('?');
  switch (kind) {
    case 'auto-reply':
      // Without a mark in the subject a person may have written of being away: such a note asks nothing, and says nothing else.
      if (own.length > MOST_OF_ABSENCE) return false;
      return groups.has('text away') && (groups.has('subject mark') || (groups.has('text meanwhile') && !asks));
    case 'bounce':
      return groups.has('text reason') || groups.has('code')
        ? groups.has('sender daemon') || groups.has('subject failed')
        : groups.size > 1;
    case 'newsletter':
      return groups.has('text taken off') && (!asks || weight >= CERTAIN);
    default:
      return groups.has('subject read') === groups.has('text was read') && !asks;
  }
}

const lastLines = (text: string): string => text.trimEnd().split('\n').slice(-6).join('\n');
