import type { MailboxDetail } from '@fulvet/contract';
import { setTimeout as pause } from 'node:timers/promises';
import type { Client } from './client';
import { CommandError } from './client';
import { textOf } from './texts';

const POLL_MS = 300;

/** One line a mailbox: address, state in words, emails, what is still to be read, what is wrong. */
export async function listMailboxes(client: Client): Promise<void> {
  const { mailboxes } = await client.call('listMailboxes');
  for (const mailbox of mailboxes)
    process.stdout.write(
      `${[mailbox.address, mailbox.health?.state ?? mailbox.state, `${mailbox.emails} emails`, `${mailbox.backlog} to read`, mailbox.health?.problem?.title ?? ''].join('\t').trimEnd()}\n`,
    );
}

/**
 * Connects the mailboxes of a CSV, waits until each has run its checks, and starts those that passed.
 *
 * @throws {CommandError} with what is wrong, when a line or a check failed
 */
export async function connectMailboxes(client: Client, file: string): Promise<void> {
  const text = await textOf(file);
  const planned = await client.call('connectMany', { body: { text, commit: true } });
  if (!planned.done) {
    const bad = planned.rows.filter((row) => row.problem !== null);
    throw new CommandError(
      `Nothing was connected. ${bad.map((row) => `Line ${row.line}: ${row.address} ${row.problem ?? ''}`).join('. ')}.`,
    );
  }
  const failed: string[] = [];
  for (const row of planned.rows) {
    const mailbox = await tried(client, row.mailboxId ?? 0);
    const stuck = mailbox.checks.find((check) => check.state === 'failed');
    if (stuck) failed.push(`${row.address}: ${stuck.message}. ${stuck.remedy}`);
    else await client.call('startMailbox', { id: mailbox.id });
    process.stdout.write(`${row.address}\t${stuck ? stuck.message : 'started'}\n`);
  }
  if (failed.length > 0) throw new CommandError(failed.join('\n'));
}

async function tried(client: Client, id: number): Promise<MailboxDetail> {
  for (;;) {
    const mailbox = await client.call('getMailbox', { id });
    if (mailbox.checked || mailbox.checks.some((check) => check.state === 'failed')) return mailbox;
    await pause(POLL_MS);
  }
}

export async function rotateKeys(client: Client): Promise<void> {
  const { sealed } = await client.call('rotateMailKeys');
  process.stderr.write(`${sealed} secrets are sealed with a new key; the old keys are gone. Back up the key file.\n`);
}
