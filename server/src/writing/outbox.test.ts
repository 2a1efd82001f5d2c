import { afterAll, afterEach, beforeAll, expect, test } from '@jest/globals';
import { connect, inStep, MAIL_PASSWORD } from '../testing/mailboxTools';
import { routeTo } from '../testing/routeTo';
import type { Crew } from '../testing/testServer';
import { owner, setUpCrew } from '../testing/testServer';
import type { WorkerStage } from '../testing/workerCrew';
import { openWorkerStage } from '../testing/workerCrew';
import type { Fault } from './outbox';
import { Outbox } from './outbox';

// No process hands over by itself here: each test says when one takes an email up, and where it dies.

const REP = 'rep@quillmere.example';
let stage: WorkerStage;
let crew: Crew;

beforeAll(async () => {
  stage = await openWorkerStage();
  crew = await setUpCrew(stage.server);
  const worker = await stage.addWorker();
  stage.mailhost.store.addAccount(REP, MAIL_PASSWORD);
  await inStep(stage, crew.tokens.rep, await connect(stage, { token: crew.tokens.rep, address: REP }));
  await stage.kill(worker);
}, 120_000);
// Dropping a database waits for the disk.
afterAll(() => stage.close(), 180_000);
afterEach(() => stage.mailhost.faults.clear());

type Point = Parameters<Fault>[0];

/** A due email with this subject; its id. */
async function due(subject: string): Promise<number> {
  const token = { token: crew.tokens.rep };
  const { json: begun } = await stage.server.call(routeTo('startOutgoing'), {
    ...token,
    body: { to: [{ address: 'ida@harbour.example' }] },
  });
  const { revision, mailboxId, to, filing } = begun;
  const content = { revision, mailboxId, to, subject, html: '<p>Hello</p>', filing };
  const { json: saved } = await stage.server.call(routeTo('saveOutgoing', { id: begun.id }), { ...token, body: content });
  await stage.server.call(routeTo('sendOutgoing', { id: begun.id }), { ...token, body: { revision: saved.revision } });
  await owner(stage.server.ownerUrl, 'UPDATE outgoing SET due_at = now() WHERE id = $1', [begun.id]);
  return begun.id;
}

const living = (): Outbox => new Outbox(stage.server.services);

/** A process that takes an email up and goes no further than a point, as when it is killed there. */
function dieAt(point: Point): Promise<unknown> {
  return new Promise((resolve) => {
    const outbox = new Outbox(stage.server.services, (at) => (at === point ? new Promise(() => resolve(at)) : undefined));
    void outbox.takeNext().then(() => resolve('lived'));
  });
}

const leaseRunsOut = (): Promise<unknown> =>
  owner(stage.server.ownerUrl, `UPDATE outgoing SET lease_until = now() - interval '1 second' WHERE lease_until IS NOT NULL`);

async function rest(): Promise<void> {
  for (;;) {
    await leaseRunsOut();
    if (!(await living().takeNext())) return;
  }
}

async function outcomeOf(id: number, subject: string): Promise<object> {
  const [row] = await owner(
    stage.server.ownerUrl,
    'SELECT o.state, o.source IS NULL AS done, (SELECT count(*)::int FROM emails e WHERE e.message_id = o.message_id) AS emails FROM outgoing o WHERE o.id = $1',
    [id],
  );
  return {
    ...row,
    received: stage.mailhost.delivery.outside.filter((mail) => mail.subject === subject).length,
    copies: stage.mailhost.store.accounts
      .get(REP)
      ?.folders.get('Sent')
      ?.messages.filter(({ raw }) => raw.includes(`Subject: ${subject}\r\n`)).length,
  };
}

const SENT = { state: 'sent', done: true, emails: 1, received: 1, copies: 1 };

test.each<[Point, boolean, object]>([
  ['taken', false, SENT],
  ['taken', true, SENT],
  // Nothing went out, which no one but the server can know.
  ['content', false, { state: 'unclear', done: false, emails: 0, received: 0, copies: 0 }],
  ['answered', false, SENT],
  ['answered', true, { state: 'unclear', done: false, emails: 0, received: 1, copies: 0 }],
  ['noted', false, SENT],
  ['noted', true, SENT],
  ['filed', false, SENT],
  ['filed', true, SENT],
  ['copied', false, SENT],
  ['copied', true, SENT],
])('killed when it is %s, where the provider keeps no copy: %s', async (point, keepNoCopy, expected) => {
  stage.mailhost.faults.set({ keepNoCopy });
  const subject = `Killed ${point} ${keepNoCopy}`;
  const id = await due(subject);
  expect(await dieAt(point)).toBe(point);
  await rest();
  expect(await outcomeOf(id, subject)).toEqual(expected);
});

test('several processes at once hand each email over once', async () => {
  const ids = await Promise.all(Array.from({ length: 12 }, (_, at) => due(`Crowd ${at}`)));
  const crowd = Array.from({ length: 4 }, living);
  await Promise.all(
    crowd.map(async (process) => {
      while (await process.takeNext());
    }),
  );
  for (const [at, id] of ids.entries()) expect(await outcomeOf(id, `Crowd ${at}`)).toEqual(SENT);
});

test('a process that slept past its hold sends nothing', async () => {
  const id = await due('Sleeper');
  let wake = (): void => undefined;
  const asleep = new Promise<void>((resolve) => (wake = resolve));
  const sleeper = new Outbox(stage.server.services, (at) => (at === 'taken' ? asleep : undefined)).takeNext();
  while ((await owner(stage.server.ownerUrl, `SELECT FROM outgoing WHERE id = $1 AND state = 'handing over'`, [id])).length === 0);
  await rest();
  wake();
  await sleeper;
  expect(await outcomeOf(id, 'Sleeper')).toEqual(SENT);
});

test('from a backup that is put in place, an email that was sent meanwhile is not sent again, and filed as it was sent', async () => {
  const id = await due('Restored');
  await rest();
  expect(await outcomeOf(id, 'Restored')).toEqual(SENT);
  const [before] = await owner(stage.server.ownerUrl, 'SELECT message_id, writer_id, mailbox_id, "to"::text FROM outgoing WHERE id = $1', [
    id,
  ]);
  await owner(stage.server.ownerUrl, 'DELETE FROM emails WHERE message_id = $1', [before?.message_id]);
  const [again] = await owner(
    stage.server.ownerUrl,
    `INSERT INTO outgoing (message_id, writer_id, mailbox_id, "to", kind, state, subject, html, due_at) VALUES ($1, $2, $3, $4::jsonb, 'new', 'due', 'Restored', '<p>as in the backup</p>', now() - interval '5 minutes') RETURNING id::int`,
    [before?.message_id, before?.writer_id, before?.mailbox_id, before?.to],
  );
  await rest();
  expect(await outcomeOf(Number(again?.id), 'Restored')).toEqual(SENT);
  const [filed] = await owner(
    stage.server.ownerUrl,
    'SELECT c.body FROM emails e JOIN email_contents c ON c.email_id = e.id WHERE e.message_id = $1',
    [before?.message_id],
  );
  expect(filed?.body).not.toContain('backup');
});

test('an email that is late by more than an hour is not sent without asking, nor one that was answered meanwhile', async () => {
  const id = await due('Late');
  await owner(stage.server.ownerUrl, `UPDATE outgoing SET due_at = now() - interval '2 hours' WHERE id = $1`, [id]);
  await rest();
  const [late] = await owner(stage.server.ownerUrl, 'SELECT state, problem FROM outgoing WHERE id = $1', [id]);
  expect(late).toMatchObject({ state: 'refused', problem: expect.stringContaining('more than an hour ago') });
  expect(stage.mailhost.delivery.outside.filter((mail) => mail.subject === 'Late')).toEqual([]);
});

test('a server that is away is tried again later, and its writer told in the end', async () => {
  const id = await due('Away');
  stage.mailhost.faults.set({ down: true });
  const told: string[] = [];
  for (let round = 0; round < 6; round += 1) {
    await living().takeNext();
    const [row] = await owner(stage.server.ownerUrl, 'UPDATE outgoing SET due_at = now() WHERE id = $1 RETURNING state', [id]);
    told.push(String(row?.state));
  }
  expect(told).toEqual(['due', 'due', 'due', 'due', 'due', 'refused']);
});
