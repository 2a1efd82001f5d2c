import type { Random } from '../../../demo/src/random';
import type { Letter } from '../../../demo/src/compose';
import type { Company, DemoDeal, Outsider, Teammate } from '../../../demo/src/world';

export type Party = { name: string; email: string };

export interface House {
  company: Company;
  rep: Teammate;
  people: Outsider[];
  deals: HouseDeal[];
}

export interface Reseller {
  company: Company;
  person: Outsider;
  deals: HouseDeal[];
}

export interface HouseDeal {
  record: DemoDeal;
  about: string;
  /** The number in its code. */
  number: string;
  opened: number;
  closed: number | null;
  house: House;
}

export interface Talk {
  house: House;
  last: Letter;
  ids: string[];
  /** The deal that it is about beyond doubt, or null. */
  about: HouseDeal | null;
  people: Outsider[];
  base: string;
  ago: number;
}

/** How an email shows its deal, and what stands in it beside. */
export interface Draft {
  of: string;
  subject: string;
  lines: string[];
  files: string[];
  about: HouseDeal | null;
  /** Nothing in it tells of which deal of several it is: that one is right, a question is, none is. */
  unsure?: boolean;
}

export interface Right {
  under: readonly string[];
  may?: readonly string[];
}

/** Whether a deal was open so many days before now. */
export function stateAt(item: HouseDeal, ago: number): 'before' | 'open' | 'closed' {
  if (item.opened < ago) return 'before';
  return item.closed !== null && item.closed > ago ? 'closed' : 'open';
}

/** Deals that may be meant by what these people write: theirs that are open or opened within the lead time. */
export function candidates(house: House, people: readonly Outsider[], ago: number): HouseDeal[] {
  return house.deals.filter(
    (item) => stateAt(item, ago) !== 'closed' && item.opened > ago - 91 && item.record.people.some((person) => people.includes(person)),
  );
}

/** A code as people write it. */
export function writtenCode(item: HouseDeal, random: Random): string {
  const { code } = item.record;
  const separator = /[-_/.# ]/.exec(code)?.[0] ?? '-';
  return random.pick([
    code,
    code,
    code.toLowerCase(),
    code.replace(separator, random.pick(['–', '‑', '−', '—'])),
    code.replace(separator, ' '),
    code.replace(separator, ''),
    `${code}-B`,
    `${code} rev 2`,
    `${code} Rev. C`,
    code.replace(separator, ' - '),
  ]);
}

/** A code as it stands in a file's name. */
export const codeInFile = ({ record: { code } }: HouseDeal, random: Random): string =>
  random.pick([code.replace(/[#/ ]/, '-'), code.replace(/[#/ .]/, '_')]);

export const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** The header fields by which an email answers a conversation, with what damage mail programs and gateways do to them. */
export function referencesTo(
  talk: Talk,
  damage: 'whole' | 'in-reply-to' | 'parent missing' | 'none',
  lost: () => string,
): [string, string][] {
  const last = talk.ids.at(-1) ?? '';
  const list = (ids: string[]): string => ids.map((id) => `<${id}>`).join(' ');
  if (damage === 'none') return [];
  if (damage === 'in-reply-to') return [['In-Reply-To', `<${last}>`]];
  // An answer of theirs that we never got stands between.
  const missing = damage === 'parent missing' ? [lost()] : [];
  return [
    ['References', list([...talk.ids.slice(-8), ...missing])],
    ['In-Reply-To', list([missing[0] ?? last])],
  ];
}
