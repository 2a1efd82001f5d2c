import { demandEmail } from '../emails/demandEmail';
import { sql } from 'drizzle-orm';
import { setTimeout as pause } from 'node:timers/promises';
import { concernedPeople } from '../histories/peopleOfEmail';
import { applyRepair } from '../repairs/applyRepair';
import { deskCases } from '../repairs/deskCases';
import { likelyRecords } from '../repairs/likely';
import { outsidersOf } from '../records/outsiders';
import { undoRepair } from '../repairs/undoRepair';
import { liveRulebook } from '../rulebook/liveRulebook';
import { Refusal } from '../base/refusal';
import type { Handlers } from '../base/handler';

/** Longer than the lookup takes. */
const ALIKE_MS = 25;

type RepairHandlers = Pick<
  Handlers,
  'repair' | 'undoRepair' | 'listRepairs' | 'likelyRecords' | 'outsiders' | 'concernedPeople' | 'findByMessageId' | 'getDesk' | 'passCase'
>;

export const repairHandlers: RepairHandlers = {
  repair: ({ user, body, services }) => applyRepair(services, user, body),

  undoRepair: ({ user, params, services }) => undoRepair(services, user, params.id),

  listRepairs: async ({ user, query, services }) => {
    const about =
      query.email === undefined
        ? sql`true`
        : sql`r.id IN (SELECT p.repair_id FROM pins p JOIN emails o ON o.id = p.email_id JOIN emails e ON e.conversation_id = o.conversation_id WHERE e.id = ${query.email} AND (p.email_id = e.id OR p.reach <> 'email'))`;
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ id: number; at: string; by: string; summary: string; emails: number; undone: boolean; mine: boolean }>(sql`
        SELECT r.id, r.at, u.name AS by, r.summary, r.emails, r.undone_at IS NOT NULL AS undone, r.user_id = ${user.id} AS mine FROM repairs r JOIN users u ON u.id = r.user_id
        WHERE ${about} ORDER BY r.id DESC LIMIT ${query.limit}`),
    );
    return { repairs: rows.map((row) => ({ ...row, at: new Date(row.at).toISOString() })) };
  },

  likelyRecords: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return {
      records: await services.database.as(user.id, async (tx) => {
        await demandEmail(tx, params.id);
        return likelyRecords(tx, params.id, user.id, query.text, compiled);
      }),
    };
  },

  outsiders: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const ids = query.emails.split(',').map(Number);
    return { people: await services.database.as(user.id, (tx) => outsidersOf(tx, ids, compiled)) };
  },

  concernedPeople: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return {
      people: await services.database.as(user.id, async (tx) => {
        await demandEmail(tx, params.id);
        return concernedPeople(tx, params.id, compiled);
      }),
    };
  },

  findByMessageId: async ({ user, query, services }) => {
    const wanted = query.id.trim().replace(/^<|>$/g, '');
    // Answers take alike long, whether there is no such email or one that is not the reader's to know of.
    const alike = pause(ALIKE_MS);
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ id: number }>(
        sql`SELECT e.id FROM emails e WHERE e.message_id = ${wanted} AND (${user.id} = ANY(e.owner_ids) OR EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id)) ORDER BY ${user.id} = ANY(e.owner_ids) DESC, e.id LIMIT 1`,
      ),
    );
    await alike;
    if (!rows[0])
      throw new Refusal(404, 'not-found', 'Fulvet has no email of this Message-ID that is yours to read. It may not have come in yet.');
    return rows[0];
  },

  getDesk: async ({ user, query, services }) => {
    if (query.whose === 'all' && user.role !== 'admin')
      throw new Refusal(403, 'not-allowed', 'All that waits is for administrators; you see what waits in your own mailboxes.');
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => deskCases(tx, user, query.whose, query.limit, compiled));
  },

  passCase: async ({ user, body, services }) => {
    const { database } = services;
    // A colleague who cannot read an email cannot decide about it either.
    const readable = async (userId: number): Promise<number> => {
      const { rows } = await database.as(userId, (tx) =>
        tx.execute<{ n: number }>(
          sql`SELECT count(*)::int AS n FROM email_contents WHERE email_id = ANY(${sql.param(body.emails)}::bigint[])`,
        ),
      );
      return rows[0]?.n ?? 0;
    };
    if ((await readable(user.id)) < new Set(body.emails).size)
      throw new Refusal(403, 'not-yours', 'Some of these emails are not yours to read. Nothing was passed on.');
    if ((await readable(body.to)) < new Set(body.emails).size)
      throw new Refusal(
        409,
        'not-theirs',
        'That colleague may not read these emails, so they cannot decide about them. Choose somebody else, or share the emails first.',
      );
    const { rowCount } = await database.as(user.id, (tx) =>
      tx.execute(sql`INSERT INTO desk_passes (email_id, to_user_id, by_user_id) SELECT id, ${body.to}, ${user.id} FROM unnest(${sql.param(body.emails)}::bigint[]) AS n(id)
        ON CONFLICT (email_id) DO UPDATE SET to_user_id = excluded.to_user_id, by_user_id = excluded.by_user_id, at = now()`),
    );
    return { passed: rowCount ?? 0 };
  },
};
