import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { Creation, Decision, Docket, EmailFacts } from '@fulvet/core';
import { canonicalJson, visibilityKey, domainOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { insertContents } from '../emails/contents';
import { nextIds } from '../base/db/nextIds';
import { dropContents } from '../emails/contents';
import type { DecidedEmail } from './decideInOrder';
import { fillFromSignatures } from './fillFromSignatures';
import type { StoredEmail } from './inputs/loadFacts';
import { noteDomains } from './seenDomains';
import { keepBefores, keepCreated } from './keptForUndo';

/** What a batch of decisions changed. */
export interface StoredDecisions {
  changed: number;
  /** Emails whose decision is new or another. */
  emailIds: number[];
  createdAddresses: string[];
  createdDomains: string[];
}

/** How decisions are stored. */
export interface StoreOptions {
  versionFor: (email: StoredEmail) => { version: number };
  /** A run that is to be undone as one step: what stood before is kept for it. */
  runId?: number | null;
  /** Real ids by the temporary ones of records that were created in earlier batches of the same run; those of this batch are added. */
  realIds?: Map<number, number>;
}

/** Stores decisions with their explanations, and what they create, in the transaction. What did not change is not written. */
export async function storeDecisions(
  tx: Tx,
  decided: readonly DecidedEmail[],
  { versionFor, runId = null, realIds = new Map() }: StoreOptions,
): Promise<StoredDecisions> {
  const created = await storeCreations(tx, decided, realIds, runId);
  for (const { decision } of decided) replaceTemporaryIds(decision, realIds);

  const changed = decided.filter(({ email, decision }) => !email.before.decided || isDifferent(email, decision));
  const unchanged = decided.filter((email) => !changed.includes(email)).map(({ email }) => email);
  if (runId !== null)
    await keepBefores(
      tx,
      runId,
      changed.map(({ email }) => email.facts.id),
      unchanged.map(({ facts }) => facts.id),
    );
  await noteVersions(tx, unchanged, versionFor);
  if (changed.length === 0) return { changed: 0, emailIds: [], createdAddresses: created.addresses, createdDomains: created.domains };

  const restored = changed.flatMap(({ email, decision }) =>
    email.restored && decision.outcome !== 'kept out' ? [{ id: email.facts.id, facts: email.restored }] : [],
  );
  await insertContents(tx, restored as { id: number; facts: EmailFacts }[]);
  await updateEmails(tx, changed, versionFor);
  await replaceFilings(tx, changed);
  await dropContents(
    tx,
    changed.filter(({ decision }) => decision.outcome === 'kept out').map(({ email }) => email.facts.id),
  );
  return {
    changed: changed.length,
    emailIds: changed.map(({ email }) => email.facts.id),
    createdAddresses: created.addresses,
    createdDomains: created.domains,
  };
}

/** The decision of a kept-out email names no person: only rules, domains and machine headers. */
export function withoutNames(docket: Docket): Docket {
  return docket.map((entry) => ({
    ...entry,
    evidence: entry.evidence.map((evidence) =>
      evidence.fact === 'entry' || evidence.fact === 'own keep out'
        ? { ...evidence, participant: domainOf(evidence.participant) }
        : evidence.fact === 'rule'
          ? { ...evidence, hits: [] }
          : evidence.fact === 'mail class' && evidence.header === 'From'
            ? { ...evidence, value: '' }
            : evidence,
    ),
  }));
}

function filingsKey(decision: Decision): string {
  return decision.filings
    .map((filing) => ({ ...filing, key: `${filing.kind}:${filing.id}:${filing.rule}` }))
    .sort((first, second) => (first.kind === second.kind ? first.id - second.id : first.kind < second.kind ? -1 : 1))
    .map((item) => item.key)
    .join(',');
}

/** Whether a decision says anything else than what stands. */
export function isDifferent(email: StoredEmail, decision: Decision): boolean {
  const { before } = email;
  const docket = decision.outcome === 'kept out' ? withoutNames(decision.docket) : decision.docket;
  return (
    before.outcome !== decision.outcome ||
    before.visibility !== visibilityKey(decision) ||
    before.filings !== filingsKey(decision) ||
    !sameJson(before.docket, docket)
  );
}

/** Compares with what PostgreSQL gives back of a jsonb value, in which keys are sorted by it. */
function sameJson(stored: string, docket: Docket): boolean {
  return stored !== 'null' && canonicalJson(JSON.parse(stored)) === canonicalJson(docket);
}

/** Notes that these emails, which stay as they stand, were decided by this version. */
export async function noteVersion(tx: Tx, version: number, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return;
  await tx.execute(
    sql`UPDATE emails SET rulebook_version = ${version} WHERE id = ANY(${sql.param([...ids])}::bigint[]) AND rulebook_version IS DISTINCT FROM ${version}`,
  );
}

/** Notes by which version emails were decided that stay as they stand. */
async function noteVersions(tx: Tx, emails: readonly StoredEmail[], versionFor: StoreOptions['versionFor']): Promise<void> {
  const byVersion = new Map<number, number[]>();
  for (const email of emails) {
    const { version } = versionFor(email);
    byVersion.set(version, [...(byVersion.get(version) ?? []), email.facts.id]);
  }
  for (const [version, ids] of byVersion) await noteVersion(tx, version, ids);
}

async function updateEmails(tx: Tx, changed: readonly DecidedEmail[], versionFor: StoreOptions['versionFor']): Promise<void> {
  const rows = changed.map(({ email, decision }) => ({
    id: email.facts.id,
    version: versionFor(email).version,
    direction: decision.direction,
    outcome: decision.outcome,
    visibility: decision.visibility,
    teams: decision.sharedTeams,
    existence: decision.existenceOnly,
    domains: decision.externalDomains,
    steps:
      decision.outcome === 'kept out'
        ? withoutNames(decision.docket)
        : decision.docket.map(({ step, verdict, rule }) => ({ step, verdict, rule, evidence: [] })),
  }));
  const dockets = changed
    .filter(({ decision }) => decision.outcome !== 'kept out')
    .map(({ email, decision }) => ({ id: email.facts.id, docket: decision.docket, questions: decision.questions }));
  await noteDomains(
    tx,
    changed.map(({ decision }) => decision),
  );
  await tx.execute(sql`UPDATE emails e SET direction = n.direction, outcome = n.outcome, visibility = n.visibility, shared_teams = ARRAY(SELECT json_array_elements_text(n.teams)), existence_only = n.existence, external_domains = ARRAY(SELECT json_array_elements_text(n.domains)), steps = n.steps, rulebook_version = n.version, decided_at = clock_timestamp()
    FROM json_to_recordset(${JSON.stringify(rows)}::json) AS n(id bigint, version int, direction text, outcome text, visibility text, teams json, existence boolean, domains json, steps jsonb) WHERE e.id = n.id`);
  await tx.execute(sql`INSERT INTO dockets (email_id, docket, questions) SELECT n.id, n.docket, n.questions
    FROM json_to_recordset(${JSON.stringify(dockets)}::json) AS n(id bigint, docket jsonb, questions jsonb)
    ON CONFLICT (email_id) DO UPDATE SET docket = excluded.docket, questions = excluded.questions`);
}

async function replaceFilings(tx: Tx, changed: readonly DecidedEmail[]): Promise<void> {
  const ids = changed.filter(({ email }) => email.before.filings !== '').map(({ email }) => email.facts.id);
  if (ids.length > 0) await tx.execute(sql`DELETE FROM filings WHERE email_id = ANY(${sql.param(ids)}::bigint[])`);
  const rows = changed.flatMap(({ email, decision }) => {
    const made = new Set(decision.creations.map((creation) => `${creation.kind}:${creation.id}`));
    return decision.filings.map((filing) => ({
      email_id: email.facts.id,
      kind: filing.kind,
      record_id: filing.id,
      rule: filing.rule,
      created: made.has(`${filing.kind}:${filing.id}`),
    }));
  });
  if (rows.length === 0) return;
  await tx.execute(sql`INSERT INTO filings (email_id, kind, record_id, rule, created) SELECT email_id, kind, record_id, rule, created
    FROM json_to_recordset(${JSON.stringify(rows)}::json) AS f(email_id bigint, kind text, record_id bigint, rule text, created boolean)`);
}

/**
 * Creates the records that decisions ask for and that have no real id yet.
 *
 * @param ids real ids by temporary ones; the new ones are added
 */
export async function storeCreations(
  tx: Tx,
  decided: readonly DecidedEmail[],
  ids: Map<number, number>,
  runId: number | null,
): Promise<{ addresses: string[]; domains: string[] }> {
  const fresh = decided.flatMap(({ email, decision }) =>
    decision.creations.filter((creation) => creation.id < 0 && !ids.has(creation.id)).map((creation) => ({ ...creation, email })),
  );
  for (const kind of ['account', 'contact', 'lead'] as const) {
    const ofKind = fresh.filter((item) => item.kind === kind);
    const real = await nextIds(tx, `${kind}s`, ofKind.length);
    ofKind.forEach((item, at) => ids.set(item.id, real[at] ?? 0));
  }
  const realId = (id: number | null): number | null => (id === null ? null : (ids.get(id) ?? id));
  const accounts = fresh
    .filter((item) => item.kind === 'account')
    .map((item) => ({ ...originOf(item), id: realId(item.id), name: item.name, domain: item.domain }));
  await insertAccounts(tx, accounts);
  const people = fresh
    .filter((item) => item.kind !== 'account')
    .map((item) => ({
      ...originOf(item),
      kind: item.kind,
      id: realId(item.id),
      name: item.name,
      confidence: item.nameConfidence,
      account_id: realId(item.accountId),
      company: item.company ?? '',
      address: item.address,
    }));
  await insertPeople(tx, people);
  await fillFromSignatures(
    tx,
    people.map(({ kind, id, name, origin }) => ({ kind, id: id ?? 0, name, emailId: origin })),
    accounts.map((account) => account.id ?? 0),
  );
  if (runId !== null)
    await keepCreated(
      tx,
      runId,
      fresh.map((item) => ({ kind: item.kind, id: realId(item.id) ?? 0 })),
    );
  return { addresses: fresh.flatMap((item) => item.address ?? []), domains: accounts.flatMap((account) => account.domain ?? []) };
}

function originOf(item: Creation & { email: StoredEmail }): { owner: number | null; named: string | null; origin: number; rule: string } {
  return { owner: item.email.ownerId, named: item.owner ?? null, origin: item.email.facts.id, rule: item.rule };
}

/** The member whom the rule names, else whoever has the email. */
const OWNER = sql`coalesce((SELECT u.id FROM users u WHERE lower(u.email) = named), owner)`;

const accountRow = z.object({ name: z.string() });

/** Accounts with their domain. A name that another account has already gets the domain behind it, which tells the two apart. */
async function insertAccounts(
  tx: Tx,
  accounts: {
    id: number | null;
    name: string;
    domain: string | null;
    owner: number | null;
    named: string | null;
    origin: number;
    rule: string;
  }[],
): Promise<void> {
  if (accounts.length === 0) return;
  const rows = await rowsOf(
    tx,
    accountRow,
    sql`SELECT lower(name) AS name FROM accounts WHERE lower(name) = ANY(${sql.param(accounts.map((account) => account.name.toLowerCase()))}::text[])`,
  );
  const taken = new Set(rows.map((row) => row.name));
  for (const account of accounts) {
    if (taken.has(account.name.toLowerCase())) account.name = `${account.name} (${account.domain ?? String(account.id)})`;
    taken.add(account.name.toLowerCase());
  }
  const values = JSON.stringify(accounts);
  await tx.execute(sql`INSERT INTO accounts (id, name, owner_id, origin_email_id, origin_rule) OVERRIDING SYSTEM VALUE
    SELECT id, name, ${OWNER}, origin, rule FROM json_to_recordset(${values}::json) AS a(id bigint, name text, owner bigint, named text, origin bigint, rule text)`);
  await tx.execute(
    sql`INSERT INTO account_domains (account_id, domain) SELECT id, domain FROM json_to_recordset(${values}::json) AS a(id bigint, domain text)`,
  );
}

async function insertPeople(tx: Tx, people: readonly { kind: string }[]): Promise<void> {
  if (people.length === 0) return;
  const values = JSON.stringify(people);
  const rows = sql`json_to_recordset(${values}::json) AS p(kind text, id bigint, name text, confidence numeric, account_id bigint, company text, address text, owner bigint, named text, origin bigint, rule text)`;
  await tx.execute(sql`INSERT INTO contacts (id, name, name_confidence, account_id, owner_id, origin_email_id, origin_rule) OVERRIDING SYSTEM VALUE
    SELECT id, name, confidence, account_id, ${OWNER}, origin, rule FROM ${rows} WHERE kind = 'contact'`);
  await tx.execute(sql`INSERT INTO leads (id, name, name_confidence, company, owner_id, origin_email_id, origin_rule) OVERRIDING SYSTEM VALUE
    SELECT id, name, confidence, company, ${OWNER}, origin, rule FROM ${rows} WHERE kind = 'lead'`);
  await tx.execute(sql`INSERT INTO person_addresses (kind, person_id, address) SELECT kind, id, address FROM ${rows}`);
}

/** Puts the real ids where the decision has temporary ones. */
function replaceTemporaryIds(decision: Decision, ids: ReadonlyMap<number, number>): void {
  const real = (id: number): number => ids.get(id) ?? id;
  for (const filing of decision.filings) filing.id = real(filing.id);
  for (const creation of decision.creations) {
    creation.id = real(creation.id);
    if (creation.accountId !== null) creation.accountId = real(creation.accountId);
  }
  for (const question of decision.questions) for (const candidate of question.candidates) candidate.id = real(candidate.id);
  for (const evidence of decision.docket.flatMap((entry) => entry.evidence)) {
    if ('id' in evidence) evidence.id = real(evidence.id);
    if ('candidates' in evidence) for (const candidate of evidence.candidates) candidate.id = real(candidate.id);
    if (evidence.fact === 'not created' && evidence.like) evidence.like.id = real(evidence.like.id);
  }
}
