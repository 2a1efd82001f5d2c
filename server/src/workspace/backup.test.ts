import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { spawn } from 'node:child_process';
import { copyFile, mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, setUpCrew, signIn, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
let home: string;

beforeAll(async () => {
  home = await mkdtemp(join(tmpdir(), 'fulvet-home-'));
  server = await startTestServer({ dataFolder: join(home, 'external') });
  crew = await setUpCrew(server);
  await writeFile(join(home, 'secret.key'), 'test secret');
  await importMail(server, crew.tokens.admin, 'rep@quillmere.example', {
    'rep.mbox': mbox([
      { id: 'one', from: 'Ida <ida@harbour.example>', to: 'rep@quillmere.example', subject: 'Größe 🌊', text: 'a word about barnacles' },
    ]),
  });
}, 60_000);
afterAll(async () => {
  // The server was stopped when everything was lost.
  const admin = new URL(server.ownerUrl);
  const name = admin.pathname.slice(1);
  admin.pathname = '/postgres';
  await owner(admin.href, `DROP DATABASE ${name} WITH (FORCE)`);
  await rm(home, { recursive: true, force: true });
});

interface Ran {
  code: number;
  out: string;
}

/** Runs one of the commands on the installation, as a person would. */
function command(...args: string[]): Promise<Ran> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [join(process.cwd(), 'scripts', 'keep.mjs'), ...args], {
      env: { PATH: process.env.PATH ?? '', HOME: process.env.HOME ?? '', FULVET_HOME: home, DATABASE_URL: server.ownerUrl },
    });
    let out = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.on('close', (code) => resolve({ code: code ?? -1, out }));
  });
}

const file = (name: string): string => join(home, name);

test('a backup is made while the server runs; after everything is lost, it brings all of it back, the same', async () => {
  const source = (await server.call(routeTo('listEmails'), { token: crew.tokens.rep })).json.emails[0];
  const made = await command('backup', file('all.tar'));
  expect([made.code, made.out]).toEqual([0, expect.stringMatching(/^Backed up \d+ rows of \d+ tables/)]);
  expect((await command('backup', file('all.tar'))).out).toContain('is there already');
  expect((await command('restore', file('all.tar'))).out).toContain('holds something already');

  // Everything is lost: the database, the sources, the keys.
  await server.stop();
  const admin = new URL(server.ownerUrl);
  const name = admin.pathname.slice(1);
  admin.pathname = '/postgres';
  await owner(admin.href, `DROP DATABASE ${name} WITH (FORCE)`);
  await rm(join(home, 'external'), { recursive: true, force: true });
  await rm(join(home, 'secret.key'));

  const restored = await command('restore', file('all.tar'));
  expect([restored.code, restored.out]).toEqual([0, expect.stringContaining('each the same as then')]);
  expect(await readFile(join(home, 'secret.key'), 'utf8')).toBe('test secret');
  const again = await server.again({});
  try {
    const { cookie } = await signIn(
      { call: (target: Destination, options) => import('../testing/testServer').then(({ call }) => call(again.url, target, options)) },
      'rep@quillmere.example',
    );
    const get = ({ path }: Destination): Promise<Response> => fetch(`${again.url}/api/v1${path}`, { headers: { cookie } });
    expect(((await (await get(routeTo('listEmails'))).json()) as { emails: unknown[] }).emails[0]).toEqual(source);
    expect(await (await get(routeTo('getEmailSource', { id: source.id }))).text()).toContain('a word about barnacles');
    // Row security came back as well.
    const other = await fetch(`${again.url}/api/v1/emails`, { headers: { authorization: `Bearer ${crew.tokens.other}` } });
    expect(((await other.json()) as { total: number }).total).toBe(0);
    expect((await command('check-audit')).out).toContain('The audit log is as it was written.');
  } finally {
    await again.stop();
  }
}, 120_000);

test('a backup that is damaged, or is none, is refused before anything is touched', async () => {
  const bytes = await readFile(file('all.tar'));
  const at = bytes.indexOf('PGDMP') + 400;
  bytes[at] = (bytes[at] ?? 0) ^ 0xff;
  await writeFile(file('damaged.tar'), bytes);
  const damaged = await command('restore', file('damaged.tar'), '--over');
  expect([damaged.code, damaged.out]).toEqual([
    1,
    expect.stringContaining('The backup is damaged: database.dump is not as it was written. Nothing was changed.'),
  ]);
  await mkdir(file('empty'), { recursive: true });
  await copyFile(join(process.cwd(), 'package.json'), file('none.tar'));
  expect((await command('restore', file('none.tar'), '--over')).code).toBe(1);
  expect((await command('restore', file('nowhere.tar'))).out).toContain('There is no file');
  expect((await owner(server.ownerUrl, 'SELECT count(*)::int AS users FROM users'))[0]?.users).toBe(5);
});

test('the command that checks the log fails when the log was changed', async () => {
  await owner(
    server.ownerUrl,
    `ALTER TABLE audit_log DISABLE TRIGGER ALL; UPDATE audit_log SET actor = 'Nobody' WHERE place = 1; ALTER TABLE audit_log ENABLE TRIGGER ALL`,
  );
  const checked = await command('check-audit');
  expect([checked.code, checked.out]).toEqual([1, expect.stringContaining('entry 1 of the chain')]);
});
