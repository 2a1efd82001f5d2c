import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { openSync, readdirSync, closeSync, statSync, truncateSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import pg from 'pg';
import { verifySources } from '../emails/verifySources';
import { openServices } from '../openServices';
import { canMakeDisks, FullDisk, withDatabaseAway } from '../testing/faults';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;

beforeAll(async () => {
  server = await startTestServer({ takeUpMs: 200 });
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

const rep = (target: Destination): Promise<Answer> => server.call(target, { token: crew.tokens.rep });
const many = (name: string, count: number, size = 20_000) =>
  Array.from({ length: count }, (_, at) => ({
    id: `${name}${at}`,
    from: 'Ida <ida@harbour.example>',
    to: 'rep@quillmere.example',
    subject: `Gauge ${name}${at}`,
    text: Array.from({ length: size / 10 }, (_unused, word) => `${word * 7919}x${at}`.padEnd(9)).join(' '),
  }));

async function until<T>(ask: () => Promise<T>, is: (answer: T) => boolean): Promise<T> {
  for (;;) {
    const answer = await ask();
    if (is(answer)) return answer;
    await pause(50);
  }
}

describe('health', () => {
  test('is told at two addresses, and nothing else is there', async () => {
    const root = new URL(server.url).origin;
    for (const path of ['/healthz', '/readyz']) {
      const answer = await fetch(root + path);
      expect([answer.status, await answer.json()]).toEqual([200, { process: 'ok', database: 'ok' }]);
    }
    for (const path of ['/healthz/x', '/readyz/', '/healthz/../x']) expect([200, 404]).toContain((await fetch(root + path)).status);
    expect((await fetch(`${root}/healthz/x`)).status).toBe(404);
  });
});

describe('a database that goes away', () => {
  test('is answered in words, under load, and everything goes on afterwards', async () => {
    const load = Array.from({ length: 40 }, () => rep(routeTo('listEmails')));
    await withDatabaseAway(server.ownerUrl, async () => {
      await Promise.allSettled(load);
      const answer = await rep(routeTo('listEmails'));
      expect(answer).toMatchObject({
        status: 503,
        json: { error: { code: 'database-away', message: expect.stringContaining('Nothing was lost') } },
      });
      const health = await fetch(`${new URL(server.url).origin}/readyz`);
      expect([health.status, await health.json()]).toEqual([503, { process: 'ok', database: 'away' }]);
    });
    expect(
      await until(
        () => rep(routeTo('listEmails')),
        ({ status }) => status !== 503,
      ),
    ).toMatchObject({ status: 200 });
    const run = await importMail(server, crew.tokens.rep, 'rep@quillmere.example', { 'a.mbox': mbox(many('after', 2)) });
    expect(run).toMatchObject({ state: 'done', counts: { new: 2 } });
  });

  test('leaves no connection behind in use, however often it goes', async () => {
    const { database } = server.services;
    for (let round = 0; round < 12; round += 1) {
      const load = Array.from({ length: 30 }, () => database.worker.transaction((tx) => tx.execute('SELECT pg_sleep(0.001)')));
      await withDatabaseAway(server.ownerUrl, async () => {
        await Promise.allSettled(load);
      });
    }
    const pool = database.workerPool;
    await until(
      async () => pool.totalCount - pool.idleCount,
      (inUse) => inUse === 0,
    );
    expect(pool.waitingCount).toBe(0);
    await Promise.all(Array.from({ length: 8 }, () => database.worker.transaction((tx) => tx.execute('SELECT 1'))));
  });

  test('does not keep a server from stopping', async () => {
    const other = await server.again();
    const began = Date.now();
    await withDatabaseAway(server.ownerUrl, async () => {
      await Promise.race([other.stop().catch(() => undefined), pause(14_000)]);
    });
    expect(Date.now() - began).toBeLessThan(14_000);
  });
});

describe('work in a thread of its own', () => {
  test('is done there, and goes on in a new one when the thread dies', async () => {
    const apart = await startTestServer({ worksApart: true, takeUpMs: 200 });
    const team = await setUpCrew(apart);
    const put = (name: string): Promise<Answer['json']> =>
      importMail(apart, team.tokens.rep, 'rep@quillmere.example', { 'a.mbox': mbox(many(name, 5)) });
    expect(await put('first')).toMatchObject({ state: 'done', counts: { new: 5 } });
    const dead = apart.workThread?.threadId;
    await apart.workThread?.kill();
    expect(await put('second')).toMatchObject({ state: 'done', counts: { new: 5 } });
    expect(apart.workThread?.threadId).not.toBe(dead);
    await apart.remove();
  });
});

describe('a disk that is full', () => {
  let disk: FullDisk | null = null;
  afterEach(() => disk?.remove());

  (canMakeDisks() ? test : test.skip)('stops an import in words, loses nothing, and lets it go on when there is room', async () => {
    disk = new FullDisk();
    const small = await startTestServer({ takeUpMs: 200, sourceFolder: disk.blobs });
    const team = await setUpCrew(small);
    const call = (target: Destination, body?: unknown) => small.call(target, { token: team.tokens.rep, body });
    const created = await call(routeTo('createImport'), { mailbox: 'rep@quillmere.example' });
    const { id } = created.json;
    await small.call(routeTo('putImportFile', { id, name: 'a.mbox' }), { token: team.tokens.rep, bytes: mbox(many('full', 400)) });
    await call(routeTo('startImport', { id }));
    const stopped = await until(
      () => call(routeTo('getImport', { id })),
      ({ json }) => /disk is full/.test(json.message) || json.state === 'done' || json.state === 'failed',
    );
    expect(stopped.json).toMatchObject({
      state: expect.stringMatching(/queued|running/),
      message: expect.stringContaining('Nothing was lost'),
    });
    disk.makeRoom();
    const done = await until(
      () => call(routeTo('getImport', { id })),
      ({ json }) => json.state === 'done' || json.state === 'failed',
    );
    expect(done.json).toMatchObject({ state: 'done' });
    const [lost] = await owner(
      small.ownerUrl,
      `SELECT count(*)::int AS emails, count(b.sha256)::int AS sources FROM emails e LEFT JOIN blobs b ON b.sha256 = e.blob`,
    );
    expect(lost).toEqual({ emails: 400, sources: 400 });
    const { text } = await call(routeTo('exportMail'));
    expect(text.match(/^Message-ID:/gm)).toHaveLength(400);
    await small.remove();
  });
});

describe('a source that cannot be read', () => {
  test('is a problem of its email alone', async () => {
    await importMail(server, crew.tokens.rep, 'rep@quillmere.example', {
      'k.mbox': mbox([
        { id: 'kept1', from: 'news@reef.example', to: 'rep@quillmere.example', headers: 'List-Unsubscribe: <https://reef.example/off>' },
      ]),
    });
    const [kept] = await owner(server.ownerUrl, `SELECT e.id::int, e.outcome FROM emails e WHERE message_id = 'kept1'`);
    expect(kept?.outcome).toBe('kept out');
    const blobs = join(server.dataFolder, 'blobs');
    for (const name of readdirSync(blobs)) truncateSync(join(blobs, name), Math.floor(statSync(join(blobs, name)).size / 1000));
    await owner(server.ownerUrl, `UPDATE emails SET decided_at = NULL WHERE id = $1`, [kept?.id]);
    const run = await importMail(server, crew.tokens.rep, 'rep@quillmere.example', { 'n.mbox': mbox(many('next', 1)) });
    expect(run).toMatchObject({ state: 'done', counts: { new: 1 } });
    expect((await decideAll(server, crew.tokens.admin)).state).toBe('done');
    const [after] = await owner(server.ownerUrl, `SELECT outcome, problems FROM emails WHERE id = $1`, [kept?.id]);
    expect(after).toMatchObject({ outcome: 'kept out', problems: [{ code: 'damaged' }] });
    const admin = (target: Destination): Promise<Answer> => server.call(target, { token: crew.tokens.admin });
    expect((await admin(routeTo('getArrival'))).json.damaged).toBeGreaterThan(0);
    expect((await admin(routeTo('listEmails', { problems: 'damaged' }))).json.emails.map((email: { id: number }) => email.id)).toContain(
      kept?.id,
    );
    const detail = await rep(routeTo('getEmail', { id: kept?.id }));
    expect(detail.text).not.toContain(server.dataFolder);
    const [read] = await owner(
      server.ownerUrl,
      `SELECT e.id::int FROM emails e JOIN email_contents c ON c.email_id = e.id ORDER BY e.id LIMIT 1`,
    );
    const source = await rep(routeTo('getEmailSource', { id: read?.id }));
    expect(source.status).toBeGreaterThanOrEqual(400);
    expect(source.text).not.toContain(server.dataFolder);
  });
});

describe('sources that were damaged', () => {
  test('are named by a comparison, and repaired when their emails are seen again', async () => {
    const small = await startTestServer();
    const team = await setUpCrew(small);
    const file = mbox(many('whole', 12, 400));
    const put = () => importMail(small, team.tokens.rep, 'rep@quillmere.example', { 'a.mbox': file });
    await put();
    const { database, blobs } = small.services;
    expect(await verifySources(database, blobs)).toEqual({ sources: 12, damaged: [], whole: 0 });
    const folder = join(small.dataFolder, 'blobs');
    for (const name of readdirSync(folder)) {
      const handle = openSync(join(folder, name), 'r+');
      writeSync(handle, Buffer.alloc(200, 7), 0, 200, 100);
      closeSync(handle);
    }
    const found = await verifySources(database, blobs);
    expect(found.damaged.length).toBeGreaterThan(0);
    expect(found.damaged.length).toBeLessThan(12);
    const [marked] = await owner(small.ownerUrl, `SELECT count(*)::int AS marked FROM emails WHERE problems @> '[{"code":"damaged"}]'`);
    expect(marked?.marked).toBe(found.damaged.length);
    await put();
    expect(await verifySources(database, blobs)).toEqual({ sources: 12, damaged: [], whole: 0 });
    const [rest] = await owner(
      small.ownerUrl,
      `SELECT count(*)::int AS emails, count(*) FILTER (WHERE problems @> '[{"code":"damaged"}]')::int AS marked FROM emails`,
    );
    expect(rest).toEqual({ emails: 12, marked: 0 });
    await small.remove();
  });
});

describe('a start', () => {
  const open = (more: { ownerUrl?: string; secret?: string }) =>
    openServices({
      ownerUrl: server.ownerUrl,
      secret: 'test secret',
      migrationsFolder: join(process.cwd(), 'server', 'migrations'),
      dataFolder: server.dataFolder,
      version: '0',
      logLevel: 'silent',
      ...more,
    });

  test('of an older version refuses a newer database', async () => {
    const later = Date.now() * 2;
    await owner(server.ownerUrl, `INSERT INTO drizzle.__drizzle_migrations (hash, created_at) VALUES ('later', $1)`, [later]);
    await expect(open({})).rejects.toThrow(/newer version.*Nothing was changed/);
    await owner(server.ownerUrl, `DELETE FROM drizzle.__drizzle_migrations WHERE created_at = $1`, [later]);
  });

  test('of a second installation on the same PostgreSQL is refused, and the first goes on', async () => {
    await expect(open({ secret: 'another secret' })).rejects.toThrow(
      /Another installation of Fulvet uses this PostgreSQL server.*Use a PostgreSQL server of its own/,
    );
    expect((await rep(routeTo('listEmails'))).status).toBe(200);
  });

  test('leaves trials of other processes alone, goes on with those whose process is gone, and gives up what ended it twice', async () => {
    const make = async (interruptions: number): Promise<{ id: number; work: number }> => {
      const [row] = await owner(
        server.ownerUrl,
        `WITH w AS (INSERT INTO work (kind, state, interruptions) VALUES ('trial', 'running', $2) RETURNING id)
         INSERT INTO trials (work_id, user_id, name, document, base_version, mailboxes)
         SELECT w.id, $1, 'a trial', (SELECT document FROM rulebooks ORDER BY version DESC LIMIT 1), 1, '{}' FROM w RETURNING id, work_id AS work`,
        [crew.ids.admin, interruptions],
      );
      return { id: Number(row?.id), work: Number(row?.work) };
    };
    const [alive, dead, deadly] = [await make(0), await make(0), await make(1)];
    const holder = new pg.Client({ connectionString: server.ownerUrl });
    await holder.connect();
    await holder.query('SELECT pg_advisory_lock(460300, $1)', [alive.work]);
    const again = await server.again();
    const trial = async ({ id }: { id: number }) => (await server.call(routeTo('getTrial', { id }), { token: crew.tokens.admin })).json;
    expect(
      await until(
        () => trial(dead),
        ({ state }) => state !== 'running' && state !== 'queued',
      ),
    ).toMatchObject({ state: 'done' });
    expect(
      await until(
        () => trial(deadly),
        ({ state }) => state === 'failed',
      ),
    ).toMatchObject({ message: expect.stringContaining('ended twice') });
    expect(await trial(alive)).toMatchObject({ state: 'running' });
    await again.stop();
    await holder.end();
  });

  test('says of an import whose files are gone what happened', async () => {
    const [row] = await owner(
      server.ownerUrl,
      `WITH w AS (INSERT INTO work (kind, phase) VALUES ('import', 'reading') RETURNING id)
       INSERT INTO imports (work_id, mailbox_id, user_id, file_names) SELECT w.id, m.id, m.owner_id, '{a.mbox}' FROM w, mailboxes m WHERE m.address = 'rep@quillmere.example' RETURNING id`,
    );
    const again = await server.again();
    const run = await until(
      () => rep(routeTo('getImport', { id: row?.id })),
      ({ json }) => json.state === 'failed',
    );
    await again.stop();
    expect(run.json.message).toMatch(/files are not here any longer.*backup was restored.*nothing comes in twice/);
  });
});
