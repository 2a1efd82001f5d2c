import type { FilledTemplate, Outgoing, Template, User, fillTemplate } from '@fulvet/contract';
import type { FieldValues } from '@fulvet/core';
import { fieldsFor, fieldsIn, fillFields } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { Tx } from '../../base/db/database';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { demandSeen } from '../../records/seenRecords';
import { escapedText } from '../cleanHtml';
import { outgoingOf } from '../queries';
import { allSendersOf } from '../senders/queries';
import type { FilledFor } from './fieldValues';
import { accountOf, fieldValues, mergeFieldsOf, personAt } from './fieldValues';
import { templateOf } from './queries';

type Parts = Pick<Services, 'database'>;
type Order = z.output<typeof fillTemplate>;

/** A draft is for its first recipient, and for the records under which its writer files it. */
async function forDraft(tx: Tx, user: User, draft: Outgoing, language: string): Promise<FilledFor> {
  const recipient = draft.to[0] ?? draft.cc[0] ?? null;
  const person = recipient ? await personAt(tx, recipient.address) : null;
  const chosen = draft.filing.how === 'records' ? draft.filing.records : [];
  const deal = chosen.find(({ kind }) => kind === 'deal');
  const account = chosen.find(({ kind }) => kind === 'account');
  const senders = await allSendersOf(tx, user.id);
  return {
    person: person ?? chosen.find(({ kind }) => kind === 'contact' || kind === 'lead') ?? null,
    withoutRecord: person ? null : recipient,
    accountId: account?.id ?? (deal ? await accountOf(tx, deal) : null) ?? (person ? await accountOf(tx, person) : null),
    dealId: deal?.id ?? null,
    sender: senders.find(({ address }) => address === draft.from) ?? { name: user.name, address: draft.from },
    language,
  };
}

async function forRecord(tx: Tx, user: User, record: NonNullable<Order['record']>, language: string): Promise<FilledFor | Refusal> {
  const unseen = await demandSeen(tx, [record]);
  if (unseen) return unseen;
  return {
    person: record.kind === 'contact' || record.kind === 'lead' ? record : null,
    withoutRecord: null,
    accountId: await accountOf(tx, record),
    dealId: record.kind === 'deal' ? record.id : null,
    sender: (await allSendersOf(tx, user.id))[0] ?? { name: user.name, address: user.email },
    language,
  };
}

/** A template with its fields filled. For a draft it must be published, and its use is noted with the draft. */
export function fill({ database }: Parts, user: User, id: number, { outgoingId, record }: Order): Promise<FilledTemplate | Refusal> {
  return database.as(user.id, async (tx) => {
    const template = await templateOf(tx, id);
    if (!template || template.isRemoved) return notFound('template');
    const draft = outgoingId === null ? null : await outgoingOf(tx, outgoingId);
    if (outgoingId !== null && !draft) return notFound('email');
    if (draft && template.state !== 'published')
      return new Refusal('conflict', 'not-published', 'This text is not published. Publish it first, or choose another one.');
    const whom = draft
      ? await forDraft(tx, user, draft, template.language)
      : record
        ? await forRecord(tx, user, record, template.language)
        : notFound('record');
    if (isRefusal(whom)) return whom;
    if (draft && template.kind === 'template') await tx.execute(sql`UPDATE outgoing SET template_id = ${id} WHERE id = ${draft.id}`);
    return filledWith(tx, template, await fieldValues(tx, whom));
  });
}

async function filledWith(tx: Tx, template: Template, values: FieldValues): Promise<FilledTemplate> {
  const subject = fillFields(template.subject, values);
  const html = fillFields(template.html, values, escapedText);
  const keys = [...new Set([...subject.empty, ...html.empty])];
  const labels = new Map(keys.length === 0 ? [] : (await mergeFieldsOf(tx)).map(({ key, label }) => [key.toLowerCase(), label]));
  return {
    subject: subject.text,
    html: html.text,
    empty: keys.map((key) => ({ key, label: labels.get(key.toLowerCase()) ?? key })),
    documents: template.documents,
  };
}

/** Values that stand in many texts by chance. */
const NOT_OFFERED = /^(?:sender\.|date\.|person\.email|.*\.(?:owner|open|currency|type|stage|status)$)/;

/** A draft as a template would have it. */
export function draftAsTemplate({ database }: Parts, user: User, id: number) {
  return database.as(user.id, async (tx) => {
    const draft = await outgoingOf(tx, id);
    if (!draft) return notFound('email');
    const all = await fieldValues(tx, await forDraft(tx, user, draft, ''));
    const known = new Map((await mergeFieldsOf(tx)).map(({ key }) => [key.toLowerCase(), key]));
    const values = new Map(
      [...all].flatMap(([key, value]) => (NOT_OFFERED.test(key) || !known.has(key) ? [] : [[known.get(key) ?? key, value] as const])),
    );
    const subject = fieldsFor(draft.subject, values);
    const html = fieldsFor(draft.html, values, escapedText);
    return { subject, html, fields: fieldsIn(subject + html) };
  });
}
