import { sql } from 'drizzle-orm';
import { check, date, index, integer, jsonb, pgTable, primaryKey, text, unique } from 'drizzle-orm/pg-core';
import { bytea, id, moment, ref } from './columns';
import { teams, users } from './team';
import { outgoing, templates } from './writing';

/** Files that members send along or link to: price lists, data sheets, terms. Each has versions; the newest that stands is used. */
export const documents = pgTable(
  'documents',
  {
    id: id(),
    ownerId: ref()
      .notNull()
      .references(() => users.id),
    scope: text().notNull().default('own'),
    teamId: ref().references(() => teams.id, { onDelete: 'set null' }),
    topic: text().notNull().default(''),
    title: text().notNull(),
    /** A language tag such as `de` (BCP 47); empty: any. */
    language: text().notNull().default(''),
    /** The last day on which it is sent and its links answer; null: no end. */
    validUntil: date(),
    revision: integer().notNull().default(0),
    removedAt: moment(),
    createdAt: moment().notNull().defaultNow(),
    changedAt: moment().notNull().defaultNow(),
  },
  (t) => [index('documents_by_owner').on(t.ownerId), check('documents_scope_known', sql`${t.scope} in ('own', 'team', 'all')`)],
);

/** A file of a document as it once was. */
export const documentVersions = pgTable(
  'document_versions',
  {
    id: id(),
    documentId: ref()
      .notNull()
      .references(() => documents.id, { onDelete: 'cascade' }),
    /** From 1. */
    number: integer().notNull(),
    name: text().notNull(),
    type: text().notNull(),
    size: integer().notNull(),
    addedBy: ref()
      .notNull()
      .references(() => users.id),
    addedAt: moment().notNull().defaultNow(),
    /** It is sent no more, and its links have ended. */
    withdrawnAt: moment(),
  },
  (t) => [unique('document_versions_once').on(t.documentId, t.number)],
);

/** The bytes of a version in parts, so that no one has to hold all of them at once. */
export const documentParts = pgTable(
  'document_parts',
  {
    versionId: ref()
      .notNull()
      .references(() => documentVersions.id, { onDelete: 'cascade' }),
    /** From 0. */
    part: integer().notNull(),
    content: bytea().notNull(),
  },
  (t) => [primaryKey({ name: 'document_parts_once', columns: [t.versionId, t.part] })],
);

/** Links to a version that stand in emails. The token is in the email alone; here is its hash. */
export const documentLinks = pgTable(
  'document_links',
  {
    id: id(),
    /** SHA-256 of the token, hexadecimal. */
    tokenHash: text().notNull().unique('document_links_token_once'),
    versionId: ref()
      .notNull()
      .references(() => documentVersions.id, { onDelete: 'cascade' }),
    writerId: ref()
      .notNull()
      .references(() => users.id),
    /** The email in which it stands, while its writer keeps it on the list. */
    outgoingId: ref().references(() => outgoing.id, { onDelete: 'set null' }),
    recipients: jsonb().$type<{ name: string; address: string }[]>().notNull().default([]),
    endsAt: moment().notNull(),
    withdrawnAt: moment(),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    index('document_links_by_writer').on(t.writerId),
    index('document_links_by_outgoing').on(t.outgoingId),
    index('document_links_by_version').on(t.versionId),
  ],
);

/** Documents that a template takes along. */
export const templateDocuments = pgTable(
  'template_documents',
  {
    templateId: ref()
      .notNull()
      .references(() => templates.id, { onDelete: 'cascade' }),
    documentId: ref()
      .notNull()
      .references(() => documents.id, { onDelete: 'cascade' }),
  },
  (t) => [
    primaryKey({ name: 'template_documents_once', columns: [t.templateId, t.documentId] }),
    index('template_documents_by_document').on(t.documentId),
  ],
);
