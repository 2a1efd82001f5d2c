import { rowsOf } from '../base/db/rows';
import { choiceScope, shareLevel } from '@fulvet/contract';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { SharingChoice, User, sharingChoiceRequest } from '@fulvet/contract';
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

type Order = z.output<typeof sharingChoiceRequest>;

const sharingChoiceRow = z.object({
  id: z.number(),
  does: z.enum(['seal', 'share']),
  scope: choiceScope,
  email_id: z.number().nullable(),
  value: z.string().nullable(),
  level: shareLevel.nullable(),
  teams: z.array(z.string()),
  existence_only: z.boolean(),
  until: z.string().nullable(),
  at: z.string(),
  subject: z.string().nullable(),
});

/** The choices of the acting user that stand, the latest first; or those about one email. */
export async function sharingChoicesOf(tx: Tx, userId: number, emailId?: number): Promise<SharingChoice[]> {
  const about =
    emailId === undefined
      ? sql`true`
      : sql`(w.email_id = ${emailId} OR w.scope = 'conversation' AND a.conversation_id = (SELECT conversation_id FROM emails WHERE id = ${emailId})
    OR EXISTS (SELECT FROM participants p WHERE p.email_id = ${emailId} AND ${mayBePersonIn(sql`p.address`, sql`ARRAY[w.value]`)})
    OR w.scope = 'domain' AND EXISTS (SELECT FROM participants p WHERE p.email_id = ${emailId} AND (p.domain = w.value OR p.domain LIKE '%.' || w.value)))`;
  const rows = await rowsOf(
    tx,
    sharingChoiceRow,
    sql`
    SELECT w.id, w.does, w.scope, w.email_id, w.value, w.level, w.teams, w.existence_only, w.until, w.at, c.subject
    FROM sharing_choices w LEFT JOIN emails a ON a.id = w.email_id LEFT JOIN email_contents c ON c.email_id = w.email_id WHERE w.user_id = ${userId} AND w.withdrawn_at IS NULL AND ${about} ORDER BY w.id DESC`,
  );
  return rows.map(asChoice);
}

function asChoice(row: Row): SharingChoice {
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

/** Makes a choice about one's own mail; what it is about stands by it when this returns. */
export async function sayWord(services: Services, user: User, order: Order): Promise<(SharingChoice & { emails: number }) | Refusal> {
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
      sharingChoiceRow,
      sql`
      INSERT INTO sharing_choices (user_id, does, scope, email_id, value, level, teams, existence_only, until)
      VALUES (${user.id}, ${order.does}, ${order.scope}, ${order.emailId ?? null}, ${value}, ${order.level ?? null}, ${sql.param(teams)}::text[], ${order.existenceOnly}, ${order.always ? null : sql`clock_timestamp()`})
      RETURNING id, does, scope, email_id, value, level, teams, existence_only, until, at, (SELECT subject FROM email_contents WHERE email_id = sharing_choices.email_id) AS subject`,
    );
    const [choice] = rows;
    if (!choice) throw new Error('the choice was not written');
    await writeDown(tx, user, {
      kind: order.does === 'seal' ? 'seal' : 'share',
      about: choiceWords(order, value),
      emailId: order.emailId ?? null,
      own: order.does === 'seal' || order.level === 'owner',
    });
    const decided = await decideAbout(tx, services, user.id, choice, inForce);
    return { choice: asChoice(choice), ...decided };
  });
  await decideFurther(services, done);
  return { ...done.choice, emails: done.emails };
}

/** Takes a choice back. */
export async function withdrawWord(services: Services, user: User, id: number): Promise<Refusal | null> {
  const inForce = await RulebookInForce.load(services.database);
  const done = await services.database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(
      tx,
      sharingChoiceRow,
      sql`UPDATE sharing_choices SET withdrawn_at = clock_timestamp() WHERE id = ${id} AND user_id = ${user.id} AND withdrawn_at IS NULL RETURNING id, does, scope, email_id, value, level, teams, existence_only, until, at, NULL AS subject`,
    );
    const [choice] = rows;
    if (!choice) return notFound('sharing choice');
    await writeDown(tx, user, {
      kind: choice.does === 'seal' ? 'unseal' : 'unshare',
      about: `took back: ${choiceWords({ does: choice.does, scope: choice.scope, level: choice.level ?? undefined, teams: choice.teams, existenceOnly: choice.existence_only }, choice.value)}`,
      emailId: choice.email_id,
      own: choice.does === 'seal' || choice.level === 'owner',
    });
    return decideAbout(tx, services, user.id, choice, inForce);
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
const withoutName = (scope: SharingChoice['scope'], value: string): string =>
  scope === 'person' ? `a person at ${domainOf(value)}` : value;

function choiceWords(
  choice: {
    does: SharingChoice['does'];
    scope: SharingChoice['scope'];
    level?: ShareLevel | undefined;
    teams: readonly string[];
    existenceOnly: boolean;
  },
  value: string | null,
): string {
  const what =
    choice.scope === 'email'
      ? 'an email'
      : choice.scope === 'conversation'
        ? 'a conversation'
        : `mail with ${withoutName(choice.scope, value ?? '')}`;
  if (choice.does === 'seal') return `sealed ${what}`;
  const who =
    choice.level === 'owner'
      ? 'no one else'
      : choice.level === 'teams'
        ? `the team ${choice.teams.join(', ')}`
        : WIDEST_WORDS[choice.level ?? 'owner'];
  return `shared ${what} with ${who}${choice.existenceOnly ? ', that it exists only' : ''}`;
}
