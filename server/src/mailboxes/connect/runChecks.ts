import { connectionTestId } from './connectionTest';
import { mailboxes } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { CheckStep } from '@fulvet/core';
import { CHECK_STEPS, FAILURES } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { ImapFlow } from 'imapflow';
import { connect as connectTcp } from 'node:net';
import type { Socket } from 'node:net';
import { setTimeout as pause } from 'node:timers/promises';
import { connect as connectTls } from 'node:tls';
import { lookAtFolders } from './lookAtFolders';
import type { MailTarget } from './mailConnection';
import { openSmtp } from './mailConnection';
import { failureOf, MailFailure } from '../../base/network/mailFailure';
import type { MailboxConnection, MailboxRow, MailServices } from '../mailbox';
import { announceMailbox, noteEvent } from '../mailboxLog';
import { loadMailbox } from '../mailbox';
import type { Endpoint } from '../../base/network/network';
import { signedIn } from './signedIn';

/** What the steps of one run hand on to each other. */
interface Run {
  services: MailServices;
  mailbox: MailboxRow;
  connection: MailboxConnection;
  imap: { client: ImapFlow; target: MailTarget } | null;
}

const PROBE_MS = 10_000;
const ARRIVAL_MS = 30_000;
const SAMPLE = 25;

/**
 * Tries a mailbox step by step, from the given one on, and notes each result as soon as it is known. The first failure ends it.
 */
export async function runChecks(services: MailServices, mailboxId: number, from: CheckStep): Promise<void> {
  const mailbox = await loadMailbox(services.database.worker, mailboxId);
  if (!mailbox?.connection) return;
  const run: Run = { services, mailbox, connection: mailbox.connection, imap: null };
  try {
    for (const step of CHECK_STEPS.slice(CHECK_STEPS.indexOf(from))) {
      if (!(await tryStep(run, step))) return;
    }
    await noteEvent(services.database.worker, mailboxId, 'note', 'All checks passed.');
  } finally {
    run.imap?.client.close();
  }
}

async function tryStep(run: Run, step: CheckStep): Promise<boolean> {
  const { services, mailbox } = run;
  await note(run, step, { state: 'running' });
  const begun = performance.now();
  try {
    const message = await STEPS[step](run);
    await note(run, step, { state: 'passed', message, ms: Math.round(performance.now() - begun) });
    return true;
  } catch (error) {
    const failure = failureOf(error);
    const known = FAILURES[failure.code];
    await note(run, step, {
      state: 'failed',
      message: known.title,
      remedy: services.presets.remedyOf(run.connection.preset, failure.code) || known.remedy,
      said: failure.said,
      code: failure.code,
      ms: Math.round(performance.now() - begun),
    });
    await noteEvent(services.database.worker, mailbox.id, 'problem', `Check failed: ${known.title}.`, failure.said);
    return false;
  }
}

interface Noted {
  state: 'running' | 'passed' | 'failed';
  message?: string;
  remedy?: string;
  said?: string;
  code?: string;
  ms?: number;
}

async function note(run: Run, step: CheckStep, noted: Noted): Promise<void> {
  const db = run.services.database.worker;
  await db.execute(sql`INSERT INTO mailbox_checks (mailbox_id, step, state, message, remedy, said, code, ms, at)
    VALUES (${run.mailbox.id}, ${step}, ${noted.state}, ${noted.message ?? ''}, ${noted.remedy ?? ''}, ${noted.said ?? ''}, ${noted.code ?? null}, ${noted.ms ?? null}, now())
    ON CONFLICT (mailbox_id, step) DO UPDATE SET state = excluded.state, message = excluded.message, remedy = excluded.remedy, said = excluded.said, code = excluded.code, ms = excluded.ms, at = now()`);
  await announceMailbox(db, run.mailbox.id);
}

/** Sets the steps from this one on back to waiting. */
export async function resetChecks(db: MailServices['database']['worker'], mailboxId: number, from: CheckStep): Promise<void> {
  for (const step of CHECK_STEPS.slice(CHECK_STEPS.indexOf(from)))
    await db.execute(
      sql`INSERT INTO mailbox_checks (mailbox_id, step, state) VALUES (${mailboxId}, ${step}, 'waiting') ON CONFLICT (mailbox_id, step) DO UPDATE SET state = 'waiting', message = '', remedy = '', said = '', code = NULL, ms = NULL`,
    );
}

const STEPS: Record<CheckStep, (run: Run) => Promise<string>> = {
  name: async ({ services, connection }) => {
    for (const endpoint of [connection.imap, connection.smtp]) await services.network.addressOf(endpoint);
    return connection.imap.host === connection.smtp.host ? connection.imap.host : `${connection.imap.host} and ${connection.smtp.host}`;
  },
  port: async (run) => {
    for (const endpoint of [run.connection.imap, run.connection.smtp]) (await dial(run, endpoint)).destroy();
    return `${run.connection.imap.port} for reading, ${run.connection.smtp.port} for sending`;
  },
  tls: async (run) => {
    const until = [];
    for (const endpoint of [run.connection.imap, run.connection.smtp]) until.push(await certificateEnd(run, endpoint));
    return `The certificate is valid until ${until.sort()[0] ?? ''}`;
  },
  'sign-in': async (run) => {
    run.imap = await signedIn(run.services, run.mailbox);
    return run.connection.signIn === 'redirect' ? 'By permission of the provider' : `As ${run.connection.userName}`;
  },
  folders: async (run) => {
    const found = await lookAtFolders(run.services, run.mailbox, await connected(run));
    if (!found.some((folder) => folder.role === 'inbox')) throw new MailFailure('no-inbox');
    const sent = found.find((folder) => folder.role === 'sent');
    return `${found.length} folders; sent mail is in ${sent ? sent.path : 'no folder that is recognised: choose it below'}`;
  },
  newest: (run) => readNewest(run),
  sending: (run) => sendToOneself(run),
};

async function connected(run: Run): Promise<ImapFlow> {
  if (!run.imap?.client.usable) run.imap = await signedIn(run.services, run.mailbox);
  return run.imap.client;
}

async function dial(run: Run, endpoint: Endpoint): Promise<Socket> {
  const address = await run.services.network.addressOf(endpoint);
  return new Promise((resolve, reject) => {
    const socket = connectTcp({ host: address, port: endpoint.port });
    const timer = setTimeout(
      () =>
        socket.destroy(new MailFailure('no-answer', `${endpoint.host}:${endpoint.port} did not answer within ${PROBE_MS / 1000} seconds.`)),
      PROBE_MS,
    );
    socket.once('connect', () => {
      clearTimeout(timer);
      socket.on('error', () => undefined);
      resolve(socket);
    });
    socket.once('error', (error) => {
      clearTimeout(timer);
      reject(error);
    });
  });
}

/** The day until which the certificate of a server holds. */
async function certificateEnd(run: Run, endpoint: Endpoint): Promise<string> {
  const plain = await dial(run, endpoint);
  if (endpoint.security === 'starttls') await askForTls(plain);
  const { trust } = run.services.presets.get(run.connection.preset);
  return new Promise((resolve, reject) => {
    const socket = connectTls({ socket: plain, servername: endpoint.host, minVersion: 'TLSv1.2', ...(trust ? { ca: [trust] } : {}) });
    const timer = setTimeout(() => socket.destroy(new MailFailure('no-answer')), PROBE_MS);
    socket.once('secureConnect', () => {
      clearTimeout(timer);
      const end = new Date(socket.getPeerCertificate().valid_to);
      socket.destroy();
      resolve(Number.isNaN(end.getTime()) ? '' : end.toISOString().slice(0, 10));
    });
    socket.once('error', (error) => {
      clearTimeout(timer);
      reject(failureOf(error).code === 'dropped' ? new MailFailure('tls-missing', error.message) : error);
    });
  });
}

/** Has the server change to TLS: by STARTTLS as IMAP (RFC 3501) or as SMTP (RFC 3207) has it, whichever greets. */
async function askForTls(socket: Socket): Promise<void> {
  const answer = (): Promise<string> =>
    new Promise((resolve, reject) => {
      const timer = setTimeout(() => socket.destroy(new MailFailure('no-answer')), PROBE_MS);
      const settle = (): void => {
        clearTimeout(timer);
        socket.off('error', failed);
        socket.off('close', closed);
      };
      const failed = (error: Error): void => {
        settle();
        reject(error);
      };
      const closed = (): void => failed(new MailFailure('dropped'));
      socket.once('error', failed);
      socket.once('close', closed);
      socket.once('data', (data: Buffer) => {
        settle();
        resolve(data.toString('latin1'));
      });
    });
  const greeting = await answer();
  const isSmtp = greeting.startsWith('220');
  if (isSmtp) {
    socket.write('EHLO fulvet\r\n');
    await answer();
  }
  socket.write(isSmtp ? 'STARTTLS\r\n' : 'a1 STARTTLS\r\n');
  const said = (await answer()).trim();
  if (!(isSmtp ? /^220/m : /^a1 OK/im).test(said)) throw new MailFailure('tls-missing', said.slice(0, 200));
}

/** Reads the newest emails of the inbox, and measures how fast they come. */
async function readNewest(run: Run): Promise<string> {
  const client = await connected(run);
  const opened = await client.mailboxOpen('INBOX', { readOnly: true });
  if (opened.exists === 0) return 'The inbox is empty';
  const begun = performance.now();
  let read = 0;
  for await (const message of client.fetch(`${Math.max(1, opened.exists - SAMPLE + 1)}:*`, { uid: true, source: true })) {
    if (!message.source || message.source.length === 0) continue;
    read += 1;
  }
  if (read === 0) throw new MailFailure('unreadable');
  const rate = Math.max(1, Math.round(read / Math.max(0.02, (performance.now() - begun) / 1000)));
  await run.services.database.worker.update(mailboxes).set({ fetchRate: rate }).where(eq(mailboxes.id, run.mailbox.id));
  // Which email it is stays between the server and its owner: the list of checks is seen by administrators too.
  return `${opened.exists === 1 ? 'One email' : `${opened.exists} emails`} in the inbox; the newest ${read === 1 ? 'one was' : `${read} were`} read`;
}

/** Sends an email to the mailbox itself and waits until it lies there. Nothing is deleted afterwards: it is the owner's mailbox. */
async function sendToOneself(run: Run): Promise<string> {
  const client = await connected(run);
  const target = run.imap?.target;
  if (!target) throw new MailFailure('dropped');
  const { address } = run.mailbox;
  const messageId = connectionTestId(address);
  const transport = await openSmtp(run.services.network, target);
  try {
    await transport.sendMail({
      from: address,
      to: address,
      subject: 'Fulvet tries this mailbox',
      text: 'Fulvet sent this email to see whether sending and receiving work. It can be deleted.',
      messageId,
      headers: { 'Auto-Submitted': 'auto-generated' },
    });
  } catch (error) {
    const failure = failureOf(error);
    const later = failure.code === 'dropped' && failure.said !== '' ? new MailFailure('sending-refused', failure.said) : failure;
    throw later.code === 'imap-off' ? new MailFailure('sending-off', later.said) : later;
  } finally {
    transport.close();
  }
  const sentAt = performance.now();
  while (performance.now() - sentAt < ARRIVAL_MS) {
    for (const path of ['INBOX', ...(await otherFolders(run))]) {
      await client.mailboxOpen(path, { readOnly: true });
      const found = await client.search({ header: { 'message-id': messageId } }, { uid: true });
      if (found && found.length > 0) return `Arrived in ${path} ${afterWords(performance.now() - sentAt)}`;
    }
    await pause(400);
  }
  throw new MailFailure('not-arrived');
}

const afterWords = (ms: number): string => (ms < 1000 ? 'within a second' : `after ${(ms / 1000).toFixed(1)} seconds`);

const mailboxFolderRow = z.object({ path: z.string() });

async function otherFolders(run: Run): Promise<string[]> {
  const rows = await rowsOf(
    run.services.database.worker,
    mailboxFolderRow,
    sql`SELECT path FROM mailbox_folders WHERE mailbox_id = ${run.mailbox.id} AND present AND role IN ('all', 'archive', 'other') ORDER BY path LIMIT 20`,
  );
  return rows.map((row) => row.path);
}
