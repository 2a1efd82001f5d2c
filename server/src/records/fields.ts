import type { RecordKind } from '@fulvet/contract';

/** A field that a file can fill. */
export interface RecordField {
  name: string;
  required: boolean;
  hint: string;
  /** Further headers that mean this field. */
  alsoCalled: readonly string[];
}

const field = (name: string, hint: string, alsoCalled: readonly string[] = [], required = false): RecordField => ({
  name,
  required,
  hint,
  alsoCalled,
});
const NAME = field('name', 'Name', ['full name', 'title of record'], true);
const OWNER = field('owner', 'Address of a member of the team', ['owner email', 'account owner']);
const EMAILS = field('emails', 'Addresses, separated by ;', ['email', 'e-mail', 'email address', 'mail']);

/** The fields of each kind, in the order in which they are exported. */
export const RECORD_FIELDS: Record<RecordKind, readonly RecordField[]> = {
  account: [
    { ...NAME, alsoCalled: ['company', 'account', 'account name', 'organisation', 'organization'] },
    field('domains', 'Domains, separated by ;', ['domain', 'website']),
    field('parent', 'Name of the parent account', ['parent account']),
    field('type', 'Customer, reseller, …', ['account type']),
    OWNER,
  ],
  contact: [
    NAME,
    EMAILS,
    field('account', 'Name of an account', ['company', 'account name', 'organisation', 'organization']),
    field('title', 'Job title', ['job title', 'role']),
    field('phone', 'Telephone numbers, separated by ;', ['telephone', 'mobile', 'phones']),
    OWNER,
  ],
  lead: [
    NAME,
    EMAILS,
    field('company', 'Company', ['organisation', 'organization']),
    field('title', 'Job title', ['job title', 'role']),
    field('phone', 'Telephone numbers, separated by ;', ['telephone', 'mobile', 'phones']),
    field('status', 'Status', ['lead status']),
    OWNER,
  ],
  deal: [
    field('code', 'Reference code', ['reference', 'number']),
    { ...NAME, alsoCalled: ['deal', 'deal name'] },
    field('account', 'Name of an account', ['company', 'account name']),
    OWNER,
    field('stage', 'Stage'),
    field('open', 'yes or no', ['is open']),
    field('amount', 'Number', ['value']),
    field('currency', 'Such as EUR'),
    field('people', 'Addresses of contacts or leads, separated by ;', ['contacts', 'participants']),
    field('closed_on', 'Date as 2026-05-04', ['closed', 'close date', 'closed on']),
    field('opened_on', 'Date as 2026-05-04', ['opened', 'open date', 'opened on', 'created', 'start date']),
  ],
  own: [
    field('kind', 'Kind, such as case', ['type of record']),
    field('code', 'Number, such as CASE-12; given where it is empty', ['number', 'reference']),
    NAME,
    field('account', 'Name of an account', ['company', 'account name']),
    OWNER,
    field('state', 'State', ['status']),
    field('people', 'Addresses of contacts or leads, separated by ;', ['contacts', 'participants']),
    field('emails', 'Addresses that lead to it, separated by ;', ['addresses', 'email', 'e-mail']),
    field('opened_on', 'Date as 2026-05-04', ['opened', 'opened on', 'created']),
    field('closed_on', 'Date as 2026-05-04', ['closed', 'closed on']),
  ],
};

/** The field that a header names, or null. */
export function fieldForHeader(kind: RecordKind, header: string): string | null {
  const wanted = header.trim().toLowerCase();
  const plain = wanted.replace(/[_-]+/g, ' ');
  const fields = RECORD_FIELDS[kind];
  const direct = fields.find((item) => item.name === wanted || item.name.replace(/_/g, ' ') === plain);
  return (direct ?? fields.find((item) => item.alsoCalled.includes(plain)))?.name ?? null;
}
