import { rowsOf } from '../base/db/rows';
import { wordScope, shareLevel } from '@fulvet/contract';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { OwnWord, User, ownWordRequest } from '@fulvet/contract';
import type { ShareLevel } from '@fulvet/core';
import { SHARE_LEVELS, domainOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { writeDown } from '../base/audit';
import type { Tx } from '../base/db/database';
import { takeMailLock } from '../base/db/mailLock';
import { mayBePersonIn } from '../base/db/personKey';
import type { Services } from '../base/services';
import { liveRulebook } from '../rulebook/liveRulebook';
import { outsideValue } from '../rulebook/outsideValue';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import type { Row } from './decideAbout';
import { decideAbout, decideFurther } from './decideAbout';

type Order = z.output<typeof ownWordRequest>;

const ownWordRow = z.object({
  id: z.number(),
  does: z.enum(['seal', 'share']),
  scope: wordScope,
  email_id: z.number().nullable(),
  value: z.string().nullable(),
  level: shareLevel.nullable(),
  teams: z.array(z.string()),
  existence_only: z.boolean(),
  until: z.string().nullable(),
  at: z.string(),
  subject: z.string().nullable(),
});

/** The words of the acting user that stand, the latest first; or those about one email. */
export async function ownWordsOf(tx: Tx, userId: number, emailId?: number): Promise<OwnWord[]> {
  const about =
    emailId === undefined
      ? sql`true`
      : sql`(w.email_id = ${emailId} OR w.scope = 'conversation' AND a.conversation_id = (SELECT conversation_id FROM emails WHERE id = ${emailId})
    OR EXISTS (SELECT FROM participants p WHERE p.email_id = ${emailId} AND ${mayBePersonIn(sql`p.address`, sql`ARRAY[w.value]`)})
    OR w.scope = 'domain' AND EXISTS (SELECT FROM participants p WHERE p.email_id = ${emailId} AND (p.domain = w.value OR p.domain LIKE '%.' || w.value)))`;
  const rows = await rowsOf(
    tx,
    ownWordRow,
    sql`
    SELECT w.id, w.does, w.scope, w.email_id, w.value, w.level, w.teams, w.existence_only, w.until, w.at, c.subject
    FROM own_words w LEFT JOIN emails a ON a.id = w.email_id LEFT JOIN email_contents c ON c.email_id = w.email_id WHERE w.user_id = ${userId} AND w.withdrawn_at IS NULL AND ${about} ORDER BY w.id DESC`,
  );
  return rows.map(asWord);
}

function asWord(row: Row): OwnWord {
  return {
    id: row.id,
    does: row.does,
    scope: row.scope,
    emailId: row.email_id,
    value: row.value,
    level: row.level,
    teams: row.teams,
    existenceOnly: row.existence_only,
    until: row.until === null ? null : new Date(row.until).toISOString(),
    at: new Date(row.at).toISOString(),
    subject: row.subject,
  };
}

const workspaceRow = z.object({ widest: shareLevel });

export async function widestShare(tx: Tx): Promise<ShareLevel> {
  const rows = await rowsOf(tx, workspaceRow, sql`SELECT widest_share AS widest FROM workspace`);
  return rows[0]?.widest ?? 'everyone';
}

/** Says a word about one's own mail; what it is about stands by it when this returns. */
export async function sayWord(services: Services, user: User, order: Order): Promise<(OwnWord & { emails: number }) | Refusal> {
  const { database } = services;
  const inForce = await RulebookInForce.load(database);
  const kind = order.scope === 'person' ? 'address' : 'domain';
  const { compiled } = await liveRulebook(database);
  const value =
    order.value === undefined ? null : outsideValue(kind, order.value, compiled, '. Say it about external people, or about single emails.');
  if (isRefusal(value)) return value;
  const teams = order.level === 'teams' ? order.teams.map((team) => team.toLowerCase()) : [];
  const refused = await database.as(user.id, (tx) => checkWord(tx, user, order, teams));
  if (isRefusal(refused)) return refused;
  const done = await database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(
      tx,
      ownWordRow,
      sql`
      INSERT INTO own_words (user_id, does, scope, email_id, value, level, teams, existence_only, until)
      VALUES (${user.id}, ${order.does}, ${order.scope}, ${order.emailId ?? null}, ${value}, ${order.level ?? null}, ${sql.param(teams)}::text[], ${order.existenceOnly}, ${order.always ? null : sql`clock_timestamp()`})
      RETURNING id, does, scope, email_id, value, level, teams, existence_only, until, at, (SELECT subject FROM email_contents WHERE email_id = own_words.email_id) AS subject`,
    );
    const [word] = rows;
    if (!word) throw new Error('the word was not written');
    await writeDown(tx, user, {
      kind: order.does === 'seal' ? 'seal' : 'share',
      about: wordWords(order, value),
      emailId: order.emailId ?? null,
      own: order.does === 'seal' || order.level === 'owner',
    });
    const decided = await decideAbout(tx, services, user.id, word, inForce);
    return { word: asWord(word), ...decided };
  });
  await decideFurther(services, done);
  return { ...done.word, emails: done.emails };
}

/** Takes a word back. */
export async function withdrawWord(services: Services, user: User, id: number): Promise<Refusal | null> {
  const inForce = await RulebookInForce.load(services.database);
  const done = await services.database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(
      tx,
      ownWordRow,
      sql`UPDATE own_words SET withdrawn_at = clock_timestamp() WHERE id = ${id} AND user_id = ${user.id} AND withdrawn_at IS NULL RETURNING id, does, scope, email_id, value, level, teams, existence_only, until, at, NULL AS subject`,
    );
    const [word] = rows;
    if (!word) return notFound('word of yours');
    await writeDown(tx, user, {
      kind: word.does === 'seal' ? 'unseal' : 'unshare',
      about: `took back: ${wordWords({ does: word.does, scope: word.scope, level: word.level ?? undefined, teams: word.teams, existenceOnly: word.existence_only }, word.value)}`,
      emailId: word.email_id,
      own: word.does === 'seal' || word.level === 'owner',
    });
    return decideAbout(tx, services, user.id, word, inForce);
  });
  if (isRefusal(done)) return done;
  await decideFurther(services, done);
  return null;
}

const emailRow = z.object({ own: z.boolean() });

const teamRow = z.object({ name: z.string() });

async function checkWord(tx: Tx, user: User, order: Order, teams: readonly string[]): Promise<Refusal | null> {
  if (order.emailId !== undefined) {
    const rows = await rowsOf(tx, emailRow, sql`SELECT ${user.id} = ANY(owner_ids) AS own FROM emails WHERE id = ${order.emailId}`);
    if (!rows[0]) return notFound('email');
    if (!rows[0].own)
      return new Refusal(
        'forbidden',
        'not-yours',
        'Only who has an email in a mailbox of their own says who sees it. Nothing was changed.',
      );
  }
  if (teams.length > 0) {
    const rows = await rowsOf(
      tx,
      teamRow,
      sql`SELECT lower(name) AS name FROM teams WHERE lower(name) = ANY(${sql.param([...teams])}::text[])`,
    );
    const missing = teams.filter((team) => !rows.some((row) => row.name === team));
    if (missing.length > 0) return new Refusal('unfit', 'bad-input', `There is no team ${missing.join(', ')}.`, { teams: 'names no team' });
  }
  if (order.level === undefined) return null;
  const widest = await widestShare(tx);
  const rank = (level: ShareLevel): number => SHARE_LEVELS.indexOf(level);
  if (rank(order.level) > rank(widest))
    return new Refusal(
      'forbidden',
      'too-wide',
      `The workspace lets owners share with ${WIDEST_WORDS[widest]} at the widest. Nothing was changed.`,
    );
  return null;
}

const WIDEST_WORDS: Record<ShareLevel, string> = {
  owner: 'nobody',
  record: 'those who own its records',
  teams: 'teams',
  everyone: 'everyone',
};

/** The log is never rewritten, so it names no external person. */
const withoutName = (scope: OwnWord['scope'], value: string): string => (scope === 'person' ? `a person at ${domainOf(value)}` : value);

function wordWords(
  word: {
    does: OwnWord['does'];
    scope: OwnWord['scope'];
    level?: ShareLevel | undefined;
    teams: readonly string[];
    existenceOnly: boolean;
  },
  value: string | null,
): string {
  const what =
    word.scope === 'email'
      ? 'an email'
      : word.scope === 'conversation'
        ? 'a conversation'
        : `mail with ${withoutName(word.scope, value ?? '')}`;
  if (word.does === 'seal') return `sealed ${what}`;
  const who =
    word.level === 'owner'
      ? 'no one else'
      : word.level === 'teams'
        ? `the team ${word.teams.join(', ')}`
        : WIDEST_WORDS[word.level ?? 'owner'];
  return `shared ${what} with ${who}${word.existenceOnly ? ', that it exists only' : ''}`;
}
