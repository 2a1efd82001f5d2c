import { sql } from 'drizzle-orm';
import { check, index, pgTable, text } from 'drizzle-orm/pg-core';
import { id, moment, ref } from './columns';
import { emails } from './emails';
import { users } from './team';
import { outgoing } from './writing';

/** An email to one person whose openings are counted. */
export const measures = pgTable(
  'measures',
  {
    id: id(),
    writerId: ref()
      .notNull()
      .references(() => users.id),
    outgoingId: ref().references(() => outgoing.id, { onDelete: 'set null' }),
    /** The email as it is filed; whoever may read it sees what was counted. */
    emailId: ref().references(() => emails.id, { onDelete: 'cascade' }),
    address: text().notNull(),
    /** When the mail server took it. */
    sentAt: moment(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('measures_by_writer').on(t.writerId),
    index('measures_by_outgoing').on(t.outgoingId),
    index('measures_by_email').on(t.emailId),
    index('measures_by_address').on(t.address),
    index('measures_by_created').on(t.createdAt),
  ],
);

/** What of such an email is asked for from here: the hash of its token, and where a link leads. It leads there still when what was counted is gone. */
export const measuredLinks = pgTable(
  'measured_links',
  {
    id: id(),
    tokenHash: text().notNull().unique('measured_links_token_once'),
    measureId: ref().references(() => measures.id, { onDelete: 'set null' }),
    kind: text().notNull(),
    /** Of a link. */
    url: text().notNull().default(''),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('measured_links_by_measure').on(t.measureId),
    index('measured_links_by_created').on(t.createdAt),
    check('measured_links_kind_known', sql`${t.kind} in ('opened', 'clicked', 'document')`),
  ],
);

/** That something was asked for, and what that probably was. Nothing is kept of who asked. */
export const visits = pgTable(
  'visits',
  {
    id: id(),
    measureId: ref()
      .notNull()
      .references(() => measures.id, { onDelete: 'cascade' }),
    linkId: ref()
      .notNull()
      .references(() => measuredLinks.id, { onDelete: 'cascade' }),
    class: text().notNull(),
    at: moment().notNull().defaultNow(),
  },
  (t) => [
    index('visits_of_measure').on(t.measureId),
    index('visits_of_link').on(t.linkId),
    check('visits_class_known', sql`${t.class} in ('person', 'prefetch', 'scanner', 'own')`),
  ],
);

/** Networks from which members worked lately, as keyed hashes: what is asked for from there is no recipient's doing. */
export const memberNetworks = pgTable('member_networks', {
  addressHash: text().primaryKey(),
  seenAt: moment().notNull().defaultNow(),
});

/** An email as it was handed over, where that is another message than the one that is kept: the provider's own copy of it is the same email. */
export const sentForms = pgTable('sent_forms', {
  identity: text().primaryKey(),
  messageId: text().notNull(),
  /** The identity of the message that is kept. */
  keptAs: text().notNull(),
});
