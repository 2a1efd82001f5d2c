import type { Person, RecordKind } from '@fulvet/contract';
import { common, people as texts } from './words';

export function nameOf(person: Pick<Person, 'name' | 'address'>): string {
  return person.name || person.address;
}

export function initialsOf(person: Pick<Person, 'name' | 'address'>): string {
  const words = (person.name || person.address.split('@')[0] || '?').split(/[\s._-]+/).filter(Boolean);
  return words
    .slice(0, 2)
    .map((word) => [...word][0]?.toUpperCase() ?? '')
    .join('');
}

export const KIND_LABELS: Record<RecordKind, { one: string; many: string }> = {
  account: { one: common.account, many: texts.accounts },
  contact: { one: texts.contact, many: texts.contacts },
  lead: { one: texts.lead, many: texts.leads },
  deal: { one: texts.deal, many: texts.deals },
  own: { one: texts.record, many: texts.otherRecords },
};

export function recordPath(kind: RecordKind, id: number): string {
  return `/records/${kind}/${id}`;
}

/** The kinds that every workspace has, in the order in which they are shown; its own come after them. */
export const KINDS = ['account', 'contact', 'lead', 'deal'] as const satisfies readonly RecordKind[];

/** Where the records of a kind are listed. @param of key of a kind that the workspace defines */
export const listPath = (kind: RecordKind, of?: string): string => `/records/${kind}${of === undefined ? '' : `?of=${of}`}`;

export function isKind(text: string | undefined): text is RecordKind {
  return text !== undefined && text in KIND_LABELS;
}
