import { routeTo } from './routeTo';
import type { Destination } from './routeTo';
import { cautiousRulebook } from '@fulvet/core';
import type { Rulebook } from '@fulvet/core';
import { cp, mkdtemp, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { createToken } from '../team/signIn/tokens';
import type { RunningServer, ServerOptions } from '../main';
import { startServer } from '../main';
import { EMPTY, letGo, newTestDatabase, owner, testCluster } from './testDatabase';

export { owner };

export const BARE = {
  ...EMPTY,
  webFolder: null,
  host: '127.0.0.1',
  port: 0,
} satisfies Partial<ServerOptions>;

/** A server with a database of its own, for tests. */
export interface TestServer extends RunningServer {
  /** Connection string of the database's owner, who sees everything. */
  ownerUrl: string;
  dataFolder: string;
  call: (target: Destination, options?: CallOptions) => Promise<Answer>;
  /** Starts another server on the same database. */
  again: (more?: Partial<ServerOptions>) => Promise<RunningServer>;
  remove: () => Promise<void>;
  /** Stops, and leaves what it holds for others to copy. */
  keep: (as: Kept) => Promise<void>;
}

export interface CallOptions {
  token?: string;
  body?: unknown;
  bytes?: Uint8Array | string;
  headers?: Record<string, string>;
}

export interface Answer {
  status: number;
  headers: Headers;
  text: string;
  // Tests read answers of many shapes; each says by its expectations what it is.
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  json: any;
}

/** What an installation holds: its database, which no one uses, and its folder. */
export interface Kept {
  database: string;
  folder: string;
}

/** Starts a server on a new database of the test cluster (FULVET_TEST_URL): empty, or a copy of what another installation holds. */
export async function startTestServer(more: Partial<ServerOptions> = {}, copyOf?: Kept): Promise<TestServer> {
  const { name, ownerUrl, drop } = await newTestDatabase(copyOf?.database);
  const dataFolder = await mkdtemp(join(tmpdir(), 'fulvet-data-'));
  if (copyOf) await cp(copyOf.folder, dataFolder, { recursive: true });
  const settings: ServerOptions = {
    ...BARE,
    ownerUrl,
    dataFolder,
    ...more,
  };
  const server = await startServer(settings);
  return {
    ...server,
    ownerUrl,
    dataFolder,
    call: (target: Destination, options) => call(server.url, target, options),
    again: (changes) => startServer({ ...settings, ...changes }),
    keep: async (kept) => {
      await server.stop();
      await letGo(ownerUrl);
      await owner(testCluster(), `ALTER DATABASE ${name} RENAME TO ${kept.database}`);
      await rename(dataFolder, kept.folder);
    },
    remove: async () => {
      await server.stop();
      await drop();
      await rm(dataFolder, { recursive: true, force: true });
    },
  };
}

export async function call(url: string, { method, path }: Destination, options: CallOptions = {}): Promise<Answer> {
  const headers: Record<string, string> = { ...options.headers };
  if (options.token) headers.authorization = `Bearer ${options.token}`;
  if (options.body !== undefined) headers['content-type'] = 'application/json';
  const body = options.body === undefined ? options.bytes : JSON.stringify(options.body);
  const response = await fetch(`${url}/api/v1${path}`, { method, headers, ...(body === undefined ? {} : { body: body as BodyInit }) });
  const text = await response.text();
  return {
    status: response.status,
    headers: response.headers,
    text,
    json:
      response.headers.get('content-type')?.includes('json') && !response.headers.get('content-type')?.includes('jsonl')
        ? (JSON.parse(text) as unknown)
        : undefined,
  };
}

/** An installation with an administrator, a manager, two reps and a viewer. */
export interface Crew {
  tokens: Record<'admin' | 'manager' | 'rep' | 'other' | 'viewer', string>;
  ids: Record<'admin' | 'manager' | 'rep' | 'other' | 'viewer', number>;
}

export const PASSWORD = 'a long enough one';

export async function setUpCrew(server: TestServer): Promise<Crew> {
  const set = await server.call(routeTo('setUp'), {
    body: { admin: { email: 'admin@quillmere.example', name: 'Ada Admin', password: PASSWORD }, ownDomains: ['quillmere.example'] },
  });
  if (set.status !== 200) throw new Error(set.text);
  const crew: Crew = {
    tokens: { admin: set.json.token, manager: '', rep: '', other: '', viewer: '' },
    ids: { admin: set.json.user.id, manager: 0, rep: 0, other: 0, viewer: 0 },
  };
  for (const [name, role] of [
    ['manager', 'manager'],
    ['rep', 'rep'],
    ['other', 'rep'],
    ['viewer', 'viewer'],
  ] as const) {
    const added = await server.call(routeTo('addMember'), {
      token: crew.tokens.admin,
      body: { email: `${name}@quillmere.example`, name: `${name} person`, role, password: PASSWORD },
    });
    crew.ids[name] = added.json.id;
    crew.tokens[name] = await tokenOf(server, added.json.id);
  }
  // They have been on the team for long.
  await owner(server.ownerUrl, `UPDATE account_powers SET at = at - interval '1 year'`);
  return crew;
}

/** Made without the password, which each file would have checked a dozen times. */
async function tokenOf({ services }: TestServer, userId: number): Promise<string> {
  return (await createToken(services.database.worker, userId, 'test', { scopes: ['read', 'write', 'send'] })).token;
}

/** Creates an access token as a member does: signed in, with the password. */
export async function makeToken(server: Pick<TestServer, 'call'>, email: string, body: object = {}): Promise<Answer> {
  const { cookie, csrf } = await signIn(server, email);
  const asked = { name: 'test', scopes: ['read', 'write'], password: PASSWORD, ...body };
  return server.call(routeTo('createToken'), { body: asked, headers: { cookie, 'x-fulvet-csrf': csrf } });
}

export async function signIn(
  server: Pick<TestServer, 'call'>,
  email: string,
  password = PASSWORD,
): Promise<{ cookie: string; csrf: string; status: number }> {
  const answer = await server.call(routeTo('signIn'), { body: { email, password } });
  return { cookie: answer.headers.get('set-cookie')?.split(';')[0] ?? '', csrf: answer.json?.csrf ?? '', status: answer.status };
}

/** Changes the rulebook in force. */
export async function changeRulebook(server: TestServer, token: string, change: (rulebook: Rulebook) => void): Promise<Answer> {
  const current = await server.call(routeTo('getRulebook'), { token });
  const document = (current.json?.document ?? cautiousRulebook([])) as Rulebook;
  change(document);
  return server.call(routeTo('putRulebook'), { token, body: document });
}

/** Imports records from the text of a CSV. */
export function importRecords(server: TestServer, token: string, kind: string, text: string): Promise<Answer> {
  return server.call(routeTo('importRecords', { kind }), { token, body: { text } });
}

/** Imports a mailbox file and waits for its end; the finished run. */
export async function importMail(
  server: TestServer,
  token: string,
  mailbox: string,
  files: Record<string, Uint8Array | string>,
): Promise<Answer['json']> {
  const created = await server.call(routeTo('createImport'), { token, body: { mailbox } });
  if (created.status !== 200) throw new Error(created.text);
  for (const [name, bytes] of Object.entries(files))
    await server.call(routeTo('putImportFile', { id: created.json.id, name }), { token, bytes });
  await server.call(routeTo('startImport', { id: created.json.id }), { token });
  return finished(server, token, routeTo('getImport', { id: created.json.id }));
}

export async function finished(server: TestServer, token: string, target: Destination): Promise<Answer['json']> {
  for (;;) {
    const { json } = await server.call(target, { token });
    if (!['queued', 'running'].includes(json.state)) return json;
    await pause(30);
  }
}

/** Waits until nothing is left to decide and no job that decides is queued: what changed records before may still decide mail again. */
export async function nothingLeftToDecide({ services }: TestServer): Promise<void> {
  const pool = services.database.workerPool;
  for (;;) {
    const emails = await pool.query('SELECT FROM emails WHERE decided_at IS NULL OR outcome IS NULL LIMIT 1');
    const jobs = await pool.query(`SELECT FROM pgboss.job WHERE state IN ('created', 'active', 'retry') AND name LIKE 'decide%' LIMIT 1`);
    if (emails.rowCount === 0 && jobs.rowCount === 0) return;
    await pause(15);
  }
}

export async function decideAll(server: TestServer, token: string, body?: object): Promise<Answer['json']> {
  const { json } = await server.call(routeTo('decide'), { token, ...(body ? { body } : {}) });
  return finished(server, token, routeTo('getDecideRun', { id: json.id }));
}

/** Every exported decision by Message-ID. */
export async function decisions(server: TestServer, token: string): Promise<Record<string, Answer['json']>> {
  const { text } = await server.call(routeTo('exportDecisions'), { token });
  return Object.fromEntries(
    text
      .trim()
      .split('\n')
      .filter(Boolean)
      .map((line) => JSON.parse(line) as { messageId: string })
      .map((item) => [item.messageId, item]),
  );
}

export interface PlainEmail {
  id: string | null;
  from: string;
  to: string;
  cc?: string;
  bcc?: string;
  subject?: string;
  date?: string;
  references?: string;
  text?: string;
  headers?: string;
}

/** A message as mail programs write it. */
export function eml(email: PlainEmail): string {
  const lines = [
    `From: ${email.from}`,
    `To: ${email.to}`,
    email.cc && `Cc: ${email.cc}`,
    email.bcc && `Bcc: ${email.bcc}`,
    `Subject: ${email.subject ?? 'Gauge'}`,
    `Date: ${email.date ?? 'Mon, 4 May 2026 10:00:00 +0000'}`,
    email.id && `Message-ID: <${email.id}>`,
    email.references && `References: ${email.references}`,
    email.headers,
  ];
  return `${lines.filter(Boolean).join('\r\n')}\r\n\r\n${email.text ?? 'Hello'}\r\n`;
}

export function mbox(emails: readonly PlainEmail[]): string {
  return emails.map((email) => `From x@y.example Mon May  4 10:00:00 2026\n${eml(email).replace(/\r\n/g, '\n')}\n`).join('');
}
