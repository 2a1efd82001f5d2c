import { sql } from 'drizzle-orm';
import {
  boolean,
  check,
  date,
  foreignKey,
  index,
  integer,
  numeric,
  pgTable,
  pgView,
  primaryKey,
  text,
  uniqueIndex,
} from 'drizzle-orm/pg-core';
import type { AnyColumn, SQL } from 'drizzle-orm';
import { codeKeyInSql, companyKeyInSql, isRecordKind, leftHalfInSql, rightHalfInSql } from './recordKeys';
import { filingCode, id, moment, ownValues, ref } from './columns';
import { emails } from './emails';
import { users } from './team';

export const accounts = pgTable(
  'accounts',
  {
    id: id(),
    name: text().notNull(),
    type: text().notNull().default(''),
    parentId: ref(),
    ownerId: ref().references(() => users.id),
    own: ownValues(),
    originEmailId: ref(),
    originRule: text(),
    filingCode: filingCode(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('accounts_filing_code_once').on(t.filingCode),
    uniqueIndex('accounts_name_once').on(sql`lower(${t.name})`),
    // An account without a domain is found by its name.
    index('accounts_by_company_key').on(companyKeyInSql('name')),
    index('accounts_by_origin').on(t.originEmailId),
    foreignKey({ columns: [t.parentId], foreignColumns: [t.id] }).onDelete('set null'),
  ],
);

/** The halves of a domain, by which those that differ in a letter of the other half are found: `keptKeys` of the core. */
const nearIndexes = (domain: SQL | AnyColumn) => [
  index('account_domains_by_left_half').on(leftHalfInSql(domain)),
  index('account_domains_by_right_half').on(rightHalfInSql(domain)),
];

export const accountDomains = pgTable(
  'account_domains',
  {
    accountId: ref()
      .notNull()
      .references(() => accounts.id, { onDelete: 'cascade' }),
    domain: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.accountId, t.domain] }), index('account_domains_by_domain').on(t.domain), ...nearIndexes(t.domain)],
);

export const contacts = pgTable(
  'contacts',
  {
    id: id(),
    name: text().notNull(),
    nameConfidence: numeric({ mode: 'number' }).notNull().default(1),
    accountId: ref().references(() => accounts.id, { onDelete: 'set null' }),
    title: text().notNull().default(''),
    phones: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    ownerId: ref().references(() => users.id),
    own: ownValues(),
    originEmailId: ref(),
    originRule: text(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('contacts_by_account').on(t.accountId),
    index('contacts_by_origin').on(t.originEmailId),
    index('contacts_by_name').on(sql`lower(${t.name})`),
  ],
);

export const leads = pgTable(
  'leads',
  {
    id: id(),
    name: text().notNull(),
    nameConfidence: numeric({ mode: 'number' }).notNull().default(1),
    company: text().notNull().default(''),
    status: text().notNull().default(''),
    title: text().notNull().default(''),
    phones: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    ownerId: ref().references(() => users.id),
    own: ownValues(),
    originEmailId: ref(),
    originRule: text(),
    filingCode: filingCode(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('leads_filing_code_once').on(t.filingCode),
    index('leads_by_origin').on(t.originEmailId),
    index('leads_by_name').on(sql`lower(${t.name})`),
  ],
);

/** Addresses of contacts and leads; an address belongs to one contact and one lead at the most. */
export const personAddresses = pgTable(
  'person_addresses',
  {
    kind: text().notNull(),
    personId: ref().notNull(),
    /** Comparable form. */
    address: text().notNull(),
    position: integer().notNull().default(0),
  },
  (t) => [
    primaryKey({ columns: [t.kind, t.address] }),
    index('person_addresses_by_domain').on(sql`split_part(${t.address}, '@', -1)`),
    index('person_addresses_by_person').on(t.kind, t.personId),
    check('person_addresses_kind_known', sql`${t.kind} in ('contact', 'lead')`),
  ],
);

/** Accounts that a contact was with before: mail of that time stays under them. */
export const contactAccounts = pgTable(
  'contact_accounts',
  {
    contactId: ref()
      .notNull()
      .references(() => contacts.id, { onDelete: 'cascade' }),
    accountId: ref()
      .notNull()
      .references(() => accounts.id, { onDelete: 'cascade' }),
    until: moment().notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.contactId, t.until] })],
);

export const deals = pgTable(
  'deals',
  {
    id: id(),
    name: text().notNull(),
    code: text(),
    accountId: ref().references(() => accounts.id, { onDelete: 'set null' }),
    ownerId: ref().references(() => users.id),
    stage: text().notNull().default(''),
    open: boolean().notNull().default(true),
    amount: numeric({ mode: 'number' }),
    currency: text().notNull().default(''),
    openedOn: date({ mode: 'string' }),
    closedOn: date({ mode: 'string' }),
    own: ownValues(),
    filingCode: filingCode(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('deals_filing_code_once').on(t.filingCode),
    uniqueIndex('deals_code_once').on(sql`upper(${t.code})`),
    // Codes are found however people write them.
    index('deals_by_code_key').on(codeKeyInSql(t.code)),
    index('deals_by_account').on(t.accountId),
  ],
);

export const dealPeople = pgTable(
  'deal_people',
  {
    dealId: ref()
      .notNull()
      .references(() => deals.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    personId: ref().notNull(),
    /** What they are to the deal, such as "signs" or "engineering". */
    role: text().notNull().default(''),
  },
  (t) => [primaryKey({ columns: [t.dealId, t.kind, t.personId] }), index('deal_people_by_person').on(t.kind, t.personId)],
);

export const filings = pgTable(
  'filings',
  {
    emailId: ref()
      .notNull()
      .references(() => emails.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    recordId: ref().notNull(),
    rule: text().notNull(),
    created: boolean().notNull().default(false),
  },
  (t) => [
    primaryKey({ columns: [t.emailId, t.kind, t.recordId] }),
    index('filings_by_record').on(t.kind, t.recordId, t.emailId),
    check('filings_kind_known', isRecordKind(t.kind)),
  ],
);

/** Name, kind and owner of every record; those in the reach of whoever asks. */
export const records = pgView('records', {
  kind: text().notNull(),
  id: ref().notNull(),
  name: text().notNull(),
  ownerId: ref(),
}).existing();
