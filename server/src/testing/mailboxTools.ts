import { routeTo } from './routeTo';
import type { Mailhost } from '@fulvet/mailhost';
import { presetOf, startMailhost } from '@fulvet/mailhost';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { ServerOptions } from '../main';
import type { Answer, Crew, PlainEmail, TestServer } from './testServer';
import { eml, owner, startTestServer } from './testServer';

export const MAIL_PASSWORD = 'door key 7';

/** A provider and an installation that knows it. */
export interface MailStage {
  mailhost: Mailhost;
  server: TestServer;
  close: () => Promise<void>;
}

/** What an installation has to be told of a running provider. */
export async function mailOptions(
  mailhost: Mailhost,
  preset: object = {},
): Promise<Pick<ServerOptions, 'presetFolders' | 'privateHosts' | 'nameServers' | 'turnLimits'>> {
  const folder = await mkdtemp(join(tmpdir(), 'fulvet-presets-'));
  await writeFile(join(folder, 'longshore.json'), JSON.stringify({ ...presetOf(mailhost), ...preset }));
  return {
    presetFolders: [folder],
    privateHosts: true,
    nameServers: [`127.0.0.1:${mailhost.ports.names}`],
    turnLimits: { lookMs: 1000, restMs: 2000 },
  };
}

/** @param preset what the installation knows of the provider, where it is to be other than usual */
export async function openMailStage(more: Partial<ServerOptions> = {}, preset: object = {}): Promise<MailStage> {
  const mailhost = await startMailhost();
  const server = await startTestServer({ ...(await mailOptions(mailhost, preset)), ...more });
  return {
    mailhost,
    server,
    close: async () => {
      await server.remove();
      await mailhost.stop();
    },
  };
}

export function putMail(mailhost: Mailhost, address: string, mail: PlainEmail | string, path = 'INBOX', at = new Date()): number {
  const account = mailhost.store.accounts.get(address);
  const folder = account?.folders.get(path);
  if (!account || !folder) throw new Error(`no folder ${path} of ${address}`);
  return mailhost.store.append(account, folder, Buffer.from(typeof mail === 'string' ? mail : eml(mail)), { at }).uid;
}

/** Waits until what is asked for holds; fails with the last answer when it does not come. */
export async function until<T>(ask: () => Promise<T>, holds: (value: T) => boolean, ms = 40_000): Promise<T> {
  const end = Date.now() + ms;
  for (;;) {
    const value = await ask();
    if (holds(value)) return value;
    if (Date.now() > end) throw new Error(`It did not come to that: ${JSON.stringify(value)?.slice(0, 1500)}`);
    await pause(40);
  }
}

export interface ConnectOptions {
  token: string;
  address: string;
  body?: object;
  connection?: object;
  settings?: object;
}

/** Begins a mailbox and sets its servers, as the screen does; the mailbox. */
export async function beginConnecting(stage: MailStage, options: ConnectOptions): Promise<Answer['json']> {
  const { server } = stage;
  const created = await server.call(routeTo('createMailbox'), {
    token: options.token,
    body: { address: options.address, ...options.body },
  });
  if (created.status !== 200) throw new Error(created.text);
  const found = await server.call(routeTo('findServers'), { token: options.token, body: { address: options.address } });
  const connection = {
    imap: found.json.imap,
    smtp: found.json.smtp,
    userName: options.address,
    signIn: 'password',
    password: MAIL_PASSWORD,
    ...options.connection,
  };
  const put = await server.call(routeTo('putConnection', { id: created.json.id }), { token: options.token, body: connection });
  if (put.status !== 200) throw new Error(put.text);
  return put.json;
}

/** Runs the checks from a step on and waits for their end. */
export async function check(stage: MailStage, token: string, id: number, from = 'name'): Promise<Answer['json']> {
  const asked = await stage.server.call(routeTo('checkMailbox', { id }), { token, body: { from } });
  if (asked.status !== 200) throw new Error(asked.text);
  return until(
    async () => (await stage.server.call(routeTo('getMailbox', { id }), { token })).json,
    (mailbox) =>
      (mailbox.checked && mailbox.health.state !== 'Being connected') ||
      mailbox.checks.some((item: { state: string }) => item.state === 'failed'),
    45_000,
  );
}

/** Connects a mailbox all the way, with a shared secret known to the provider, and starts it; its id. */
export async function connect(stage: MailStage, options: ConnectOptions): Promise<number> {
  if (!stage.mailhost.store.accounts.has(options.address)) stage.mailhost.store.addAccount(options.address, MAIL_PASSWORD);
  const { id } = await beginConnecting(stage, options);
  const checked = await check(stage, options.token, id);
  if (!checked.checked) throw new Error(JSON.stringify(checked.checks));
  if (options.settings) {
    const set = await stage.server.call(routeTo('putMailboxSettings', { id }), { token: options.token, body: options.settings });
    if (set.status !== 200) throw new Error(set.text);
  }
  const started = await stage.server.call(routeTo('startMailbox', { id }), { token: options.token });
  if (started.status !== 200) throw new Error(started.text);
  return id;
}

/** Waits until a mailbox is in step with its server. */
export function inStep(stage: MailStage, token: string, id: number): Promise<Answer['json']> {
  return until(
    async () => (await stage.server.call(routeTo('getMailbox', { id }), { token })).json,
    (mailbox) => mailbox.health.state === 'Working',
    60_000,
  );
}

/** The emails that are stored of a mailbox: Message-ID and how many sightings, in order. */
export async function storedOf(server: TestServer, address: string): Promise<{ id: string; sightings: number }[]> {
  const rows = await owner(
    server.ownerUrl,
    `SELECT e.message_id AS id, count(*)::int AS sightings FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id JOIN emails e ON e.id = s.email_id
     WHERE m.address = $1 GROUP BY 1 ORDER BY 1`,
    [address],
  );
  return rows as { id: string; sightings: number }[];
}

export type { Crew };
