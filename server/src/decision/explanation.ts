import { z } from 'zod';
import { json, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { Explanation, WhyNotAnswer } from '@fulvet/contract';
import {
  alternatives,
  conditionWords,
  docketSentences,
  nearMisses,
  NO_MEMORY,
  STEP_TITLES,
  visibilityKeyWords,
  whyNot,
} from '@fulvet/core';
import type { Alternative, Docket, ListNames, RecordKind, Situation } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { loadInputs } from './inputs/loadInputs';
import type { Services } from '../base/services';
import { namesOf } from '../base/db/recordNames';
import { listNames } from '../rulebook/draft';
import { RulebookInForce } from '../rulebook/rulebookInForce';

/** Rules that almost applied to an email, and what each rule that spoke changed. For those who may read it. */
export async function explanationOf(services: Services, userId: number, emailId: number): Promise<Explanation | Refusal> {
  const { database } = services;
  const standing = await standingFor(services, userId, emailId);
  if (isRefusal(standing)) return standing;
  if (standing.keptOut) return { nearly: [], changes: [] };
  const result = await situationFor(services, emailId, []);
  if (isRefusal(result)) return result;
  const { situation, lists } = result;
  const nearly = nearMisses(situation).map(({ step, rule, name, missing }) => ({
    step: STEP_TITLES[step],
    rule,
    text:
      missing === null
        ? `“${name || rule}” would apply, but is for other mailboxes or members.`
        : `“${name || rule}” would apply if ${conditionWords(missing, lists)}.`,
  }));
  const found = alternatives(situation);
  const keys = found.flatMap((alternative) => [...alternative.won, ...alternative.lost]).filter((key) => !key.includes(':-'));
  const names = await database.as(userId, (tx) => namesOf(tx, keys));
  return { nearly, changes: found.map((alternative) => ({ change: alternative.words, then: thenWords(alternative, names) })) };
}

/** Why an email does not stand under a record that someone names. Of kept-out mail only the step is told. */
export async function whyNotOf(
  services: Services,
  userId: number,
  emailId: number,
  target: { kind: RecordKind; id: number },
): Promise<WhyNotAnswer | Refusal> {
  const standing = await standingFor(services, userId, emailId);
  if (isRefusal(standing)) return standing;
  const key = `${target.kind}:${target.id}`;
  const name = (await services.database.as(userId, (tx) => namesOf(tx, [key]))).get(key);
  if (name === undefined) return notFound(target.kind);
  if (standing.keptOut) {
    const because = docketSentences(standing.steps)[0]?.because.join(' ') ?? '';
    return { filed: false, name, reasons: [`It was kept out. Kept-out mail is not filed. ${because}`.trim()], changes: [] };
  }
  const result = await situationFor(services, emailId, [target]);
  if (isRefusal(result)) return result;
  const { situation } = result;
  return { name, ...whyNot(situation, { ...target, name }) };
}

const emailRow = z.object({ outcome: z.string().nullable(), readable: z.boolean(), steps: json<Docket>().nullable() });

/** @returns a refusal where the reader may not know of the email, or may not read it */
async function standingFor(
  { database }: Services,
  userId: number,
  emailId: number,
): Promise<{ keptOut: boolean; steps: Docket } | Refusal> {
  const rows = await database.as(userId, (tx) =>
    rowsOf(
      tx,
      emailRow,
      sql`SELECT e.outcome, c.email_id IS NOT NULL AS readable, e.steps FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id WHERE e.id = ${emailId}`,
    ),
  );
  const row = rows[0];
  if (!row) return notFound('email');
  const keptOut = row.outcome === 'kept out';
  if (!row.readable && !keptOut)
    return new Refusal('forbidden', 'not-yours', 'This email is not yours to read, so what it says cannot be explained to you.');
  return { keptOut, steps: row.steps ?? [] };
}

async function situationFor(
  { database, blobs }: Services,
  emailId: number,
  about: readonly { kind: RecordKind; id: number }[],
): Promise<{ situation: Situation; lists: ListNames } | Refusal> {
  const inForce = await RulebookInForce.load(database);
  return database.work(
    async (tx: Tx) => {
      const { emails, records, memories } = await loadInputs(tx, blobs, [emailId], inForce.rulebooks, { about, withText: true });
      const [email] = emails;
      if (!email) return notFound('email');
      const { compiled: rulebook } = inForce.versionFor(email);
      const memory = memories.get(email.conversationId) ?? NO_MEMORY;
      return { situation: { facts: email.facts, rulebook, records, memory }, lists: await listNames(tx) };
    },
    { accessMode: 'read only' },
  );
}

function thenWords({ outcome, visibility, won, lost, created }: Alternative, names: ReadonlyMap<string, string>): string {
  const called = (keys: readonly string[]): string => keys.flatMap((key) => names.get(key) ?? []).join(', ');
  const parts = [
    `it would be ${outcome}`,
    ...(called(won) ? [`also under ${called(won)}`] : []),
    ...(created.length > 0 ? [`creating ${created.join(', ')}`] : []),
    ...(called(lost) ? [`no longer under ${called(lost)}`] : []),
    `seen by ${visibilityKeyWords(visibility)}`,
  ];
  return `${parts.join(', ')}.`;
}
