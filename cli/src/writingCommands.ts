import { basename } from 'node:path';
import type { Client } from './client';
import { CommandError } from './client';
import { documentsNamed } from './documentCommands';
import { say, textOf } from './texts';
import { recordOf } from './recordKeys';

export interface EmailToSend {
  to: string[];
  cc?: string[];
  bcc?: string[];
  subject: string;
  from?: string;
  /** As `deal:7`. */
  record?: string;
  attach?: string[];
  /** Titles of documents. */
  document?: string[];
  /** A time of ISO 8601. */
  at?: string;
  file: boolean;
  /** The owner of the mailbox agrees to copies in its sent folder, where that was not asked yet. */
  agree: boolean;
}

/** Sends an email, the text of which is a file: says how it will be filed and what may be overlooked, and prints its number. */
export async function sendEmail(client: Client, file: string, order: EmailToSend): Promise<void> {
  const text = await textOf(file);
  const html = /\.html?$/i.test(file) ? text : paragraphs(text);
  const people = (addresses: readonly string[] = []): { address: string }[] => addresses.map((address) => ({ address }));
  const at = order.at === undefined ? null : new Date(order.at);
  if (at && Number.isNaN(at.getTime())) throw new CommandError(`“${order.at}” is not a time such as 2026-05-04T08:00:00Z.`, 2);
  const begun = await client.call('startOutgoing', {
    body: { to: people(order.to), record: order.record === undefined ? null : recordOf(order.record) },
  });
  const { id } = begun;
  try {
    for (const path of order.attach ?? [])
      await client.uploadFile(`/outgoing/${id}/files?name=${encodeURIComponent(basename(path))}`, path);
    if (order.document)
      await client.call('addDocuments', { id, body: { documentIds: await documentsNamed(client, order.document), how: 'files' } });
    const { revision } = await client.call('getOutgoing', { id });
    const saved = await client.call('saveOutgoing', {
      id,
      body: {
        revision,
        ...(order.from === undefined ? { mailboxId: begun.mailboxId, fromAddress: begun.fromAddress } : await senderOf(client, order.from)),
        to: people(order.to),
        cc: people(order.cc),
        bcc: people(order.bcc),
        subject: order.subject,
        html,
        filing: order.file
          ? { how: begun.filing.how, records: begun.filing.records.map(({ kind, id: of }) => ({ kind, id: of })) }
          : { how: 'none' },
      },
    });
    const { sentence, warnings } = await client.call('previewOutgoing', { id });
    for (const warning of warnings) say(warning.text);
    const { dueAt } = await client.call('sendOutgoing', {
      id,
      body: { revision: saved.revision, at: at?.toISOString() ?? null, agree: order.agree },
    });
    say(`${sentence} It is sent at ${dueAt ?? ''}.`);
    process.stdout.write(`${id}\n`);
  } catch (error) {
    // What could not be sent is not left behind.
    await client.call('discardOutgoing', { id }).catch(() => undefined);
    throw error;
  }
}

async function senderOf(client: Client, address: string): Promise<{ mailboxId: number; fromAddress: string | null }> {
  const senders = (await client.call('listSenders')).senders.filter(({ isProven }) => isProven);
  const found = senders.find((sender) => sender.address === address.toLowerCase());
  if (!found)
    throw new CommandError(`You may not send from ${address}. You may from: ${senders.map((sender) => sender.address).join(', ')}`);
  return { mailboxId: found.mailboxId, fromAddress: found.isAlias ? found.address : null };
}

const paragraphs = (text: string): string =>
  text
    .trim()
    .split(/(?:\r?\n){2,}/)
    .map((paragraph) => `<p>${escaped(paragraph).replace(/\r?\n/g, '<br>')}</p>`)
    .join('');

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');
