import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { AutomaticSending, bulkOrder, BulkPreview, BulkSend, LeftOutReason, Sender, Template, User } from '@fulvet/contract';
import type { Tx } from '../../base/db/database';
import { idRow, json, moment, rowsOf } from '../../base/db/rows';
import { announce } from '../../base/live/changes';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { linkAddressOf } from '../documents/links';
import { MAY_NOT_SEND, NO_MAILBOX } from '../drafts';
import { demandAgreement } from '../sending';
import { sendersOf, writingRightsOf } from '../senders/queries';
import { newestEmail, SERIES_QUEUE } from '../series/begin';
import { OPEN } from '../series/queries';
import { stopRun } from '../series/stopRun';
import { templateOf } from '../templates/queries';
import { peopleOf } from './people';
import type { PeopleOfList } from './people';

type Order = z.output<typeof bulkOrder>;

const NAMES_SHOWN = 5;

const NO_ADDRESS = new Refusal(
  'conflict',
  'no-link-address',
  'Emails to many have a link to unsubscribe, and it needs the address under which recipients reach Fulvet. An administrator sets it under Workspace.',
);
const NOT_PUBLISHED = new Refusal('conflict', 'not-published', 'Choose a template that is published and has a subject.');
const MAY_NOT = new Refusal(
  'forbidden',
  'may-not-send',
  'Your workspace does not let you send emails to many. An administrator says who may, under Workspace.',
);

const automaticRow = z.object({ automatic: json<AutomaticSending>() });

interface Ready {
  sender: Sender;
  template: Template;
  automatic: AutomaticSending;
}

/** What an email to many needs. */
function ready({ database }: Services, user: User, { templateId }: Order): Promise<Ready | Refusal> {
  return database.as(user.id, async (tx) => {
    const rights = await writingRightsOf(tx, user.id);
    if (!rights.mayBulk) return MAY_NOT;
    const [sender] = await sendersOf(tx, user.id);
    if (!sender) return rights.maySend ? NO_MAILBOX : MAY_NOT_SEND;
    if ((await linkAddressOf(tx)) === null) return NO_ADDRESS;
    const template = await templateOf(tx, templateId);
    if (!template || template.isRemoved) return notFound('template');
    if (template.kind !== 'template' || template.state !== 'published' || template.subject === '') return NOT_PUBLISHED;
    const [row] = await rowsOf(tx, automaticRow, sql`SELECT automatic FROM workspace`);
    return row ? { sender, template, automatic: row.automatic } : notFound('workspace');
  });
}

/** Who would get an email, and who is left out and why. */
export async function previewBulk(services: Services, user: User, order: Order): Promise<BulkPreview | Refusal> {
  const able = await ready(services, user, order);
  if (isRefusal(able)) return able;
  const list = await peopleOf(services, user, order, able.sender);
  if (isRefusal(list)) return list;
  return { found: list.found, people: list.people.length, leftOut: countedOut(list), perDay: able.automatic.perDay };
}

function countedOut({ leftOut }: PeopleOfList): BulkPreview['leftOut'] {
  const by = new Map<LeftOutReason, string[]>();
  for (const { why, name } of leftOut) by.set(why, [...(by.get(why) ?? []), name]);
  return [...by].map(([why, names]) => ({ why, count: names.length, names: names.slice(0, NAMES_SHOWN) }));
}

/** Begins an email to the people of a list: a series of one step with each, one after the other. */
export async function startBulk(services: Services, user: User, order: Order & { people: number }): Promise<BulkSend | Refusal> {
  const { database } = services;
  const able = await ready(services, user, order);
  if (isRefusal(able)) return able;
  const { sender, template, automatic } = able;
  const list = await peopleOf(services, user, order, sender);
  if (isRefusal(list)) return list;
  if (list.people.length !== order.people)
    return new Refusal(
      'conflict',
      'changed-meanwhile',
      `${list.people.length} people would get it by now, not ${order.people}. Nothing was sent: look at the list again.`,
    );
  if (list.people.length === 0) return new Refusal('conflict', 'no-one', 'No one of this list gets the email. Nothing was sent.');
  const newest = await newestEmail(database.worker);
  const begun = await database.as(user.id, async (tx): Promise<BulkSend | Refusal> => {
    const unasked = await demandAgreement(tx, user, sender.mailboxId, false);
    if (unasked) return unasked;
    const leftOut = Object.fromEntries(countedOut(list).map(({ why, count }) => [why, count]));
    const [made] = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO bulk_sends (writer_id, name, total, left_out) VALUES (${user.id}, ${template.name}, ${list.people.length}, ${JSON.stringify(leftOut)}::jsonb) RETURNING id`,
    );
    const step = JSON.stringify([{ kind: 'email', waitDays: 0, templateId: template.id, text: '' }]);
    // Whoever got a series meanwhile is left out by the index.
    await tx.execute(sql`
      INSERT INTO series_runs (bulk_id, series_name, writer_id, mailbox_id, from_address, address, name, zone, asks, steps, due_at, look_at, after_email)
      SELECT ${made?.id ?? 0}, ${template.name}, ${user.id}, ${sender.mailboxId}, ${sender.isAlias ? sender.address : null}, p.address, p.name, 'UTC', false, ${step}::jsonb,
        now() + make_interval(secs => (p.place - 1) * ${automatic.pauseSeconds}), now() + make_interval(secs => (p.place - 1) * ${automatic.pauseSeconds}), ${newest}
      FROM unnest(${sql.param(list.people.map(({ address }) => address))}::text[], ${sql.param(list.people.map(({ name }) => name))}::text[]) WITH ORDINALITY p(address, name, place)
      ON CONFLICT (address) WHERE state NOT IN ('ended', 'stopped') DO NOTHING`);
    return (await sendsWhere(tx, sql`b.id = ${made?.id ?? 0}`))[0] ?? notFound('email');
  });
  if (!isRefusal(begun)) await announce(database.worker, { kind: 'work', queue: SERIES_QUEUE });
  return begun;
}

const sendRow = z.object({
  id: z.number(),
  name: z.string(),
  total: z.number(),
  sent: z.number(),
  waiting: z.number(),
  stopped: z.number(),
  left_out: json<Record<string, number>>(),
  stopped_at: moment.nullable(),
  created_at: moment,
});

const MOST_LISTED = 50;

async function sendsWhere(tx: Tx, which: SQL): Promise<BulkSend[]> {
  const rows = await rowsOf(
    tx,
    sendRow,
    sql`SELECT b.id, b.name, b.total, count(r.id) FILTER (WHERE r.state = 'ended')::int AS sent, count(r.id) FILTER (WHERE ${OPEN})::int AS waiting,
        count(r.id) FILTER (WHERE r.state = 'stopped')::int AS stopped, b.left_out, b.stopped_at, b.created_at
      FROM bulk_sends b LEFT JOIN series_runs r ON r.bulk_id = b.id WHERE ${which} GROUP BY b.id ORDER BY b.created_at DESC, b.id DESC LIMIT ${MOST_LISTED}`,
  );
  return rows.map(({ left_out, stopped_at, created_at, ...row }) => ({
    ...row,
    leftOut: left_out,
    isStopped: stopped_at !== null,
    createdAt: created_at,
  }));
}

export const listBulk = (tx: Tx): Promise<BulkSend[]> => sendsWhere(tx, sql`true`);

/** Sends nothing more of an email to many. */
export function stopBulk({ database }: Pick<Services, 'database'>, user: User, id: number): Promise<BulkSend | Refusal> {
  return database.as(user.id, async (tx) => {
    await tx.execute(sql`UPDATE bulk_sends SET stopped_at = coalesce(stopped_at, now()) WHERE id = ${id}`);
    const open = await rowsOf(tx, idRow, sql`SELECT r.id FROM series_runs r WHERE r.bulk_id = ${id} AND ${OPEN} FOR UPDATE`);
    for (const run of open) await stopRun(tx, run.id, 'by hand');
    return (await sendsWhere(tx, sql`b.id = ${id}`))[0] ?? notFound('email');
  });
}
