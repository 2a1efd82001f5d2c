import type { Mailhost } from '@fulvet/mailhost';
import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startMailhost } from '@fulvet/mailhost';
import type { ServerOptions } from '../main';
import type { MailStage } from './mailboxTools';
import { mailOptions, until } from './mailboxTools';
import { owner, startTestServer } from './testServer';

const SECRET = 'test secret';

/** A provider, an installation that does not work on mailboxes itself, and worker processes that do. */
export interface WorkerStage extends MailStage {
  /** Starts one more worker process; resolves when it works. */
  addWorker: () => Promise<ChildProcess>;
  /** Kills a worker without warning (SIGKILL), and waits until it is gone. */
  kill: (worker: ChildProcess) => Promise<void>;
}

export async function openWorkerStage(): Promise<WorkerStage> {
  const home = await mkdtemp(join(tmpdir(), 'fulvet-home-'));
  const dataFolder = join(home, 'external');
  const mailhost = await startMailhost();
  await writeFile(join(home, 'secret.key'), SECRET);
  await mkdir(dataFolder, { recursive: true });
  const options = await mailOptions(mailhost);
  const server = await startTestServer({ ...options, dataFolder, secret: SECRET, worksOnMailboxes: false });
  const workers = new Set<ChildProcess>();
  const kill = async (worker: ChildProcess): Promise<void> => {
    if (worker.exitCode === null && worker.signalCode === null) {
      const gone = new Promise((resolve) => worker.once('exit', resolve));
      worker.kill('SIGKILL');
      await gone;
    }
    workers.delete(worker);
  };
  return {
    mailhost,
    server,
    kill,
    addWorker: async () => {
      const worker = await startWorker(home, server.ownerUrl, options);
      workers.add(worker);
      return worker;
    },
    close: async () => {
      for (const worker of workers) await kill(worker);
      await server.remove();
      await mailhost.stop();
      await rm(home, { recursive: true, force: true });
    },
  };
}

/** The program that `npm run worker` runs. */
function startWorker(home: string, databaseUrl: string, options: Partial<ServerOptions>): Promise<ChildProcess> {
  const worker = spawn(process.execPath, ['scripts/worker.mjs'], {
    env: {
      ...process.env,
      NODE_OPTIONS: '',
      FULVET_HOME: home,
      DATABASE_URL: databaseUrl,
      FULVET_PRESETS: options.presetFolders?.[0] ?? '',
      FULVET_PRIVATE_HOSTS: '1',
      FULVET_NAME_SERVERS: options.nameServers?.join(',') ?? '',
      FULVET_KEY_FILE: join(home, 'external', 'mail-keys.json'),
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  return new Promise((resolve, reject) => {
    let said = '';
    worker.stdout.on('data', (chunk) => {
      said += String(chunk);
      if (said.includes('Working on')) resolve(worker);
    });
    worker.stderr.on('data', (chunk) => (said += String(chunk)));
    worker.once('exit', () => reject(new Error(`The worker ended: ${said}`)));
  });
}

/** Puts so many emails into a mailbox, with Message-IDs `KEY-1` to `KEY-n`. */
export function fillMailbox(mailhost: Mailhost, address: string, key: string, count: number): void {
  const account = mailhost.store.accounts.get(address);
  const inbox = account?.folders.get('INBOX');
  if (!account || !inbox) throw new Error(`no mailbox ${address}`);
  for (let at = 1; at <= count; at += 1) {
    const date = new Date(Date.now() - (count - at) * 60_000);
    mailhost.store.append(
      account,
      inbox,
      Buffer.from(
        `Message-ID: <${key}-${at}@harbour.example>\r\nFrom: Ida Brack <ida@harbour.example>\r\nTo: ${address}\r\nDate: ${date.toUTCString()}\r\nSubject: Gauge ${at}\r\n\r\nReading ${at} of the tide gauge.\r\n`,
      ),
      { at: date },
    );
  }
}

/** What lies in a mailbox's inbox and what is stored of it: lost, doubled, and sightings beside the messages. */
export async function compareWithMailbox(stage: MailStage, address: string): Promise<{ lost: number; doubled: number; stray: number }> {
  const inbox = stage.mailhost.store.accounts.get(address)?.folders.get('INBOX')?.messages ?? [];
  const ids = inbox.map((message) => /^Message-ID: <([^>]*)>/im.exec(message.raw.toString('latin1', 0, 2000))?.[1] ?? '');
  // The email by which the mailbox was tested is there, and is no mail of the team.
  const there = new Set(ids.filter((id) => !id.startsWith('check-')));
  const rows = await owner(
    stage.server.ownerUrl,
    `SELECT e.message_id AS id, count(DISTINCT e.id)::int AS emails, count(*)::int AS sightings FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id JOIN emails e ON e.id = s.email_id
     WHERE m.address = $1 AND s.folder = 'INBOX' GROUP BY 1`,
    [address],
  );
  const stored = new Set(rows.map((row) => String(row.id)));
  return {
    lost: [...there].filter((id) => !stored.has(id)).length,
    doubled: rows.filter((row) => Number(row.emails) > 1 || Number(row.sightings) > 1).length,
    stray: [...stored].filter((id) => !there.has(id)).length,
  };
}

/** Emails that are stored of a mailbox by now. */
export async function storedCount(stage: MailStage, address: string): Promise<number> {
  const rows = await owner(
    stage.server.ownerUrl,
    'SELECT count(*)::int AS n FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE m.address = $1',
    [address],
  );
  return Number(rows[0]?.n ?? 0);
}

/** Waits until nothing is left to read or to decide. */
export async function allSettled(stage: MailStage, ms: number): Promise<void> {
  await until(
    async () =>
      (
        await owner(
          stage.server.ownerUrl,
          `SELECT (SELECT count(*) FROM mailboxes WHERE state = 'running' AND (last_contact_at IS NULL OR backlog > 0 OR problem IS NOT NULL OR lease_until IS NULL OR lease_until < now()))::int AS open,
             (SELECT count(*) FROM emails WHERE decided_at IS NULL)::int AS undecided`,
        )
      )[0],
    (row) => row?.open === 0 && row.undecided === 0,
    ms,
  );
}
