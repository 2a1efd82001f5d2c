import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { idRow, rowsOf } from '../base/db/rows';
import { routeTo } from './routeTo';
import type { Crew, TestServer } from './testServer';
import { owner } from './testServer';
import type { ModelState, ModelUser, Sees } from './sightModel';
import { seesRecord } from './sightModel';
import type { Who } from './sightMail';

const nameRow = z.object({ name: z.string() });

const WRITERS: readonly Who[] = ['admin', 'manager', 'rep', 'other'];

/** Something that a member wrote about records, and perhaps because of an email. */
interface Note {
  text: string;
  writer: number;
  /** Of a task: who does it. */
  assignee: number;
  isPrivate: boolean;
  /** Keys of records. */
  about: readonly string[];
  email: string | null;
}

/** What members of a world have written: drafts, sent emails whose openings are counted, addresses to send from, logged contact and tasks. */
export interface Writing {
  activities: Note[];
  tasks: Note[];
  /** Writers by the email whose openings are counted. */
  measured: Map<string, number>;
}

/** Has each member write something about everything, in a world as it begins. */
export async function plantWriting(server: TestServer, crew: Crew, state: ModelState): Promise<Writing> {
  const writing: Writing = { activities: [], tasks: [], measured: new Map() };
  const keys = [...state.records.keys()];
  const run = (text: string, values: unknown[]): Promise<unknown> => owner(server.ownerUrl, text, values);
  const idsOf = (about: readonly string[]): [string[], number[]] => [
    about.map((key) => key.split(':')[0] ?? ''),
    about.map((key) => state.records.get(key)?.id ?? 0),
  ];
  for (const [at, who] of WRITERS.entries()) {
    const writer = crew.ids[who];
    await run(`INSERT INTO outgoing (writer_id, mailbox_id, kind, subject) SELECT $1, min(id), 'new', $2 FROM mailboxes`, [
      writer,
      `draft of ${who}`,
    ]);
    await run(`INSERT INTO senders (user_id, mailbox_id, address, name) SELECT $1, m.id, m.address, $2 FROM mailboxes m`, [
      writer,
      `name of ${who}`,
    ]);
    for (const [place, email] of state.emails.entries()) {
      const note: Note = {
        text: `task ${who} ${email.key}`,
        writer,
        assignee: crew.ids[WRITERS[(at + place) % WRITERS.length] ?? who],
        isPrivate: place % 4 === 3,
        about: keys.filter((_, number) => (number + place + at) % 4 === 0),
        email: place % 2 === 0 ? email.key : null,
      };
      writing.tasks.push(note);
      await run(
        `WITH t AS (INSERT INTO tasks (text, writer_id, assignee_id, is_private, email_id) VALUES ($1, $2, $3, $4, $5) RETURNING id)
         INSERT INTO task_records (task_id, kind, record_id) SELECT t.id, r.kind, r.id FROM t, unnest($6::text[], $7::bigint[]) r(kind, id)`,
        [note.text, writer, note.assignee, note.isPrivate, note.email === null ? null : email.id, ...idsOf(note.about)],
      );
      if (place % WRITERS.length !== at) continue;
      writing.measured.set(email.key, writer);
      await run(`INSERT INTO measures (writer_id, email_id, address, sent_at) VALUES ($1, $2, 'ida@harbour.example', now())`, [
        writer,
        email.id,
      ]);
    }
    for (const [place, key] of keys.entries()) {
      const note: Note = {
        text: `entry ${who} ${key}`,
        writer,
        assignee: writer,
        isPrivate: (place + at) % 3 === 0,
        about: [key, keys[(place + 2) % keys.length] ?? key],
        email: null,
      };
      writing.activities.push(note);
      await run(
        `WITH a AS (INSERT INTO activities (kind, at, direction, text, is_private, writer_id) VALUES ('call', now(), 'both', $1, $2, $3) RETURNING id)
         INSERT INTO activity_records (activity_id, kind, record_id) SELECT DISTINCT a.id, r.kind, r.id FROM a, unnest($4::text[], $5::bigint[]) r(kind, id)`,
        [note.text, note.isPrivate, writer, ...idsOf(note.about)],
      );
    }
  }
  return writing;
}

export interface WritingReader {
  user: ModelUser;
  token: string;
  name: string;
  sight: ReadonlyMap<string, Sees>;
  same: (what: string, given: unknown, wanted: unknown) => void;
}

/** What a member finds of all that, held against the plain rules. @param pick one of so many, at random */
export async function compareWriting(
  server: TestServer,
  state: ModelState,
  writing: Writing,
  { user, token, name, sight, same }: WritingReader,
  pick: (below: number) => number,
): Promise<void> {
  const texts = (list: readonly { text: string }[]): string[] => list.map(({ text }) => text).sort();
  // What no page shows of others has no other way out than the tables.
  const own = await server.services.database.as(user.id, async (tx) => ({
    counted: await rowsOf(tx, idRow, sql`SELECT DISTINCT email_id AS id FROM measures ORDER BY 1`),
    senders: await rowsOf(tx, nameRow, sql`SELECT DISTINCT name FROM senders`),
  }));
  const counted = state.emails.filter(
    ({ key }) => writing.measured.get(key) === user.id || (writing.measured.has(key) && sight.get(key) === 'reads'),
  );
  same(
    'openings',
    own.counted.map(({ id }) => id),
    counted.map(({ id }) => id).sort((first, second) => first - second),
  );
  same('addresses to send from', own.senders, user.role === 'viewer' ? [] : [{ name: `name of ${name}` }]);
  const records = [...state.records].filter(([key]) => seesRecord(state, user, key));
  const [key, record] = records[pick(records.length)] ?? ['', undefined];
  if (record) {
    const [kind = ''] = key.split(':');
    const around = new Set([...state.records].filter(([other, { account }]) => other === key || account === key).map(([other]) => other));
    const { logged } = (await server.call(routeTo('getHistory', { kind, id: record.id }), { token })).json;
    const wanted = writing.activities.filter(
      ({ writer, isPrivate, about }) =>
        // Which records an entry is about is known of those that one sees alone.
        about.some((it) => around.has(it) && seesRecord(state, user, it)) && (writer === user.id || !isPrivate),
    );
    same(`logged contact of ${key}`, texts(logged), texts(wanted));
  }
  if (user.role === 'viewer') return;
  const { emails: drafts } = (await server.call(routeTo('listOutgoing'), { token })).json as { emails: { subject: string }[] };
  same(
    'drafts',
    drafts.map(({ subject }) => subject),
    [`draft of ${name}`],
  );
  const tasks = (await server.call(routeTo('listTasks', { who: 'all', limit: 200 }), { token })).json.tasks as { text: string }[];
  const wanted = writing.tasks.filter(
    (task) =>
      task.writer === user.id ||
      task.assignee === user.id ||
      (!task.isPrivate &&
        (task.email === null || sight.get(task.email) === 'reads') &&
        task.about.some((it) => seesRecord(state, user, it))),
  );
  same('tasks', texts(tasks), texts(wanted));
}
