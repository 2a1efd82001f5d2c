import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Outgoing, OutgoingPreview, User } from '@fulvet/contract';
import {
  codeWordsOfText,
  decide,
  Directory,
  domainOf,
  fromForm,
  NO_MEMORY,
  ownTextOf,
  receiverOf,
  remember,
  sendWarnings,
  wordPairsOf,
} from '@fulvet/core';
import type { CompiledRulebook, ConversationMemory, Decision, DecisionFacts, Pin, Recipient, Records } from '@fulvet/core';
import type { Tx } from '../base/db/database';
import { namesOf } from '../base/db/recordNames';
import { idRow, rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Services } from '../base/services';
import { asItStands } from '../decision/decideInOrder';
import { loadInputs, recordsInMemory } from '../decision/inputs/loadInputs';
import { loadRecords } from '../decision/inputs/loadRecords';
import { keptOutByOwners, loadOwnKeepOuts } from '../decision/inputs/ownKeepOuts';
import { Forgotten } from '../emails/store/forgotten';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import { ruleTextOf } from '../rulebook/ruleTexts';
import { composeMail, textOf } from './composeMail';
import { endedLinksIn, linkHashesIn } from './documents/links';
import { whyNotMeasured } from './measuring/whyNotMeasured';
import { outgoingOf } from './queries';

/** Of a longer conversation, the last emails tell where it stands. */
const MOST_REMEMBERED = 100;

/** How a draft would be filed if it were sent now, by the same decision as every email, and what its writer may have overlooked. */
export async function preview(services: Services, user: User, id: number): Promise<OutgoingPreview | Refusal> {
  const { database } = services;
  const draft = await database.as(user.id, (tx) => outgoingOf(tx, id));
  if (!draft) return notFound('email');
  const inForce = await RulebookInForce.load(database);
  const situation = await database.work((tx) => situationOf(tx, services, user, draft, inForce), { accessMode: 'read only' });
  if (isRefusal(situation)) return situation;
  const { facts, rulebook, records, memory } = situation;
  const decision = decide(facts, rulebook, new Directory(records), memory, temporaryIds());
  const keys = [
    ...decision.filings.map(({ kind, id: record }) => `${kind}:${record}`),
    ...situation.recipients.flatMap(({ account }) => (account ? [`account:${account.id}`] : [])),
  ];
  // What is known of everyone's mail and records decides; what is said of it is what the writer may know.
  const { names, bounced, ended } = await database.as(user.id, async (tx) => ({
    names: await namesOf(
      tx,
      keys.filter((key) => !key.includes(':-')),
    ),
    bounced: await cameBack(tx, situation.recipients),
    ended: await endedLinksIn(tx, draft.html),
  }));
  const recipients = situation.recipients.map((recipient): Recipient => {
    const name = recipient.account && names.get(`account:${recipient.account.id}`);
    return {
      ...recipient,
      account: recipient.account && name ? { id: recipient.account.id, name } : null,
      bounced: bounced.has(recipient.address),
    };
  });
  const isChosen = (kind: string, record: number): boolean => draft.filing.records.some((it) => it.kind === kind && it.id === record);
  const found = decision.filings.flatMap(({ kind, id: record }) => {
    const name = names.get(`${kind}:${record}`);
    return name === undefined ? [] : [{ kind, id: record, name, chosen: draft.filing.how === 'records' && isChosen(kind, record) }];
  });
  return {
    outcome: decision.outcome,
    sentence:
      situation.recipients.length === 0
        ? NO_RECIPIENT
        : sentenceOf(
            decision,
            found.map(({ name }) => name),
            ruleTextOf(rulebook),
          ),
    records: found,
    warnings: sendWarnings({
      recipients,
      subject: draft.subject,
      text: ownTextOf(textOf(draft.html)),
      files: draft.files.filter(({ inline }) => !inline).length + linkHashesIn(draft.html).length,
      endedLinks: ended,
    }),
    measuring: await measuringOf(services, user, draft, rulebook),
  };
}

/** Whether its openings could be counted. */
async function measuringOf(
  { database }: Services,
  user: User,
  { mailboxId, to, cc, bcc }: Outgoing,
  rulebook: CompiledRulebook,
): Promise<OutgoingPreview['measuring']> {
  const may = await whyNotMeasured(database.worker, { writerId: user.id, mailboxId, recipients: [...to, ...cc, ...bcc] }, rulebook.isOurs);
  if (may === '') return null;
  return typeof may === 'string' ? { why: may, notice: '' } : { why: '', notice: may.notice };
}

const NO_RECIPIENT = 'Name a recipient to see how it will be filed.';

const temporaryIds = (): { next: () => number } => {
  let last = 0;
  return { next: () => (last -= 1) };
};

function sentenceOf(
  { outcome, creations, docket }: Decision,
  names: readonly string[],
  ruleText: (rule: string | null) => string | null,
): string {
  if (outcome === 'kept out') {
    const rule = docket.find(({ verdict }) => verdict === 'kept out')?.rule ?? null;
    return `It will not be filed. It is kept out${rule === null ? '' : ` by ${ruleText(rule) ?? rule}`}.`;
  }
  if (outcome === 'waiting') return 'It will wait at the sorting desk: which record it belongs to is not certain.';
  const created = creations.length > 0 ? ` ${creations.map(({ name }) => name).join(' and ')} will be created.` : '';
  if (names.length + creations.length === 0) return 'It will not be filed under a record.';
  return `${names.length > 0 ? `It will be filed under ${names.join(', ')}.` : ''}${created}`.trim();
}

const addressRow = z.object({ address: z.string() });

/** Addresses from which an email of the acting user came back. */
export async function cameBack(tx: Tx, recipients: readonly Recipient[]): Promise<Set<string>> {
  const rows = await rowsOf(
    tx,
    addressRow,
    sql`SELECT DISTINCT p->>'address' AS address FROM outgoing o, jsonb_array_elements(o."to" || o.cc || o.bcc) p
      WHERE o.state = 'bounced' AND p->>'address' = ANY(${sql.param(recipients.map(({ address }) => address))}::text[])`,
  );
  return new Set(rows.map(({ address }) => address));
}

interface Situation {
  facts: DecisionFacts;
  rulebook: CompiledRulebook;
  records: Records;
  memory: ConversationMemory;
  recipients: Recipient[];
}

const mailboxRow = z.object({
  address: z.string(),
  take_in: z.enum(['rules', 'known', 'byHand']),
  share: z.enum(['owner', 'rules']),
  host: z.string().nullable(),
  owner_id: z.number(),
});

/** What an email would be decided by, and what is known of its recipients. @param draft `id` 0: one that is not stored */
export async function situationOf(
  tx: Tx,
  services: Services,
  user: User,
  draft: Outgoing,
  inForce: RulebookInForce,
): Promise<Situation | Refusal> {
  const [mailbox] = await rowsOf(
    tx,
    mailboxRow,
    sql`SELECT address, take_in, share, connection->'imap'->>'host' AS host, owner_id FROM mailboxes WHERE id = ${draft.mailboxId}`,
  );
  if (!mailbox) return notFound('mailbox');
  const rulebook = inForce.versionFor({ facts: { mailboxes: [mailbox.address] } }).compiled;
  const now = Date.now();
  const beside = draft.files.filter(({ inline }) => !inline);
  const source = await composeMail({
    ...draft,
    html: draft.withQuote ? `${draft.html}${draft.quote}` : draft.html,
    from: { name: user.name, address: mailbox.address },
    messageId: `preview-${draft.id}@${domainOf(mailbox.address)}`,
    inReplyTo: null,
    references: [],
    at: new Date(now),
    files: beside.map(({ name, type }) => ({ name, type, content: Buffer.alloc(0) })),
  });
  const receiver = receiverOf(rulebook.ownDomains, mailbox.address, mailbox.host);
  const [read] = await services.blobs.read([{ raw: source, options: { arrivedAt: now, receiver } }]);
  if (!read) return notFound('email');
  const written = fromForm(read, rulebook);
  const pins = pinsOf(draft, user, now);
  const facts: DecisionFacts = {
    id: 0,
    at: now,
    subject: written.subject,
    text: written.text,
    codes: codeWordsOfText(written.text),
    wordPairs: wordPairsOf(written.text),
    attachments: beside.map(({ name }) => name),
    size: source.length + draft.files.reduce((sum, { size }) => sum + size, 0),
    sensitivity: null,
    senderCheck: written.senderCheck,
    folders: ['Sent'],
    mailboxes: [mailbox.address],
    users: [user.email.toLowerCase()],
    teams: [],
    mailClass: written.mailClass,
    classProof: written.classProof,
    participants: written.participants,
    gestures: [],
    pins,
    ownKeptOut: keptOutByOwners([mailbox.owner_id], written.participants, await loadOwnKeepOuts(tx)),
    sharingChoices: [],
    ownTakeIn: mailbox.take_in,
    sharedByRules: mailbox.share === 'rules',
    atFilingAddressOnly: false,
  };
  const memory = await memoryOf(tx, services, draft, inForce, rulebook);
  const about = [...draft.filing.records, ...recordsInMemory(memory)];
  const records = await loadRecords(tx, [facts], inForce.rulebooks, about);
  return { facts, rulebook, records, memory, recipients: await recipientsOf(tx, draft, { facts, rulebook, records }) };
}

function pinsOf({ filing }: Outgoing, user: User, at: number): Pin[] {
  const pin = { reach: 'email' as const, by: user.name, own: true, at };
  if (filing.how === 'none') return [{ ...pin, id: 1, does: 'takeOff', kind: null, recordId: null, recordName: '' }];
  if (filing.how === 'rules') return [];
  return filing.records.map(({ kind, id, name }, place) => ({ ...pin, id: place + 1, does: 'file', kind, recordId: id, recordName: name }));
}

/** What the conversation says that an answer goes on with, by what stands. */
async function memoryOf(tx: Tx, { blobs }: Services, { answers, kind }: Outgoing, inForce: RulebookInForce, rulebook: CompiledRulebook) {
  if (!answers || kind === 'forward') return NO_MEMORY;
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT id FROM (SELECT e.id, e.sent_at FROM emails e WHERE e.conversation_id = (SELECT conversation_id FROM emails WHERE id = ${answers.emailId}) ORDER BY e.sent_at DESC, e.id DESC LIMIT ${MOST_REMEMBERED}) last ORDER BY sent_at, id`,
  );
  const { emails } = await loadInputs(
    tx,
    blobs,
    rows.map((row) => row.id),
    inForce.rulebooks,
  );
  return emails.reduce((memory, email) => remember(memory, asItStands(email, rulebook), email.facts), NO_MEMORY);
}

async function recipientsOf(
  tx: Tx,
  draft: Outgoing,
  { facts, rulebook, records }: { facts: DecisionFacts; rulebook: CompiledRulebook; records: Records },
): Promise<Recipient[]> {
  const addresses = [...new Set([...draft.to, ...draft.cc, ...draft.bcc].map(({ address }) => address))];
  const forgotten = await Forgotten.load(tx);
  const ruleText = ruleTextOf(rulebook);
  const directory = new Directory(records);
  const senders = facts.participants.filter(({ role }) => role === 'from');
  return addresses.map((address) => {
    const domain = domainOf(address);
    const key = rulebook.personKey(address);
    const person = records.people.find((it) => it.addresses.includes(key) && it.accountId !== null);
    const account =
      records.accounts.find((it) => it.id === person?.accountId) ?? records.accounts.find((it) => it.domains.includes(domain));
    const alone: DecisionFacts = { ...facts, pins: [], participants: [...senders, { role: 'to', address, domain, name: '' }] };
    const { outcome, docket } = decide(alone, rulebook, directory, NO_MEMORY, temporaryIds());
    const rule = docket.find(({ verdict }) => verdict === 'kept out')?.rule ?? null;
    const isOurs = rulebook.isOurs(address, domain);
    return {
      address,
      isOurs,
      isPublic: rulebook.isPublicProvider(domain),
      account: account ? { id: account.id, name: account.name } : null,
      bounced: false,
      keptOutBy: !isOurs && outcome === 'kept out' ? (ruleText(rule) ?? 'a rule') : null,
      erased: forgotten.has(address),
    };
  });
}
