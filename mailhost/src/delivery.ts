import { randomUUID } from 'node:crypto';
import { fieldOf, headerOf, textPartOf } from './imap/messageParts';
import type { Account, MailStore } from './mailStore';

/** A message that left the provider for someone outside. */
export interface OutsideMail {
  id: string;
  to: string;
  from: string;
  subject: string;
  messageId: string;
  references: string;
  /** Where it says that its reader unsubscribes, and how (RFC 2369, 8058). */
  unsubscribe: { where: string; post: string };
  text: string;
  /** The first of the message as it arrived. */
  source: string;
  at: number;
  answered: boolean;
}

/** An outside correspondent who answers by script. */
export interface Script {
  /** Address, a domain as `@harbour.example`, or `*` for everyone. */
  match: string;
  text: string;
  afterMs: number;
}

export interface OutsideLetter {
  from: string;
  to: string;
  cc?: string;
  subject: string;
  text: string;
  inReplyTo?: string;
  references?: string;
}

/** Of the source of each, in bytes. */
const MOST_KEPT = 100_000;
const KEPT = 200;

/** Takes messages to where they go: mailboxes of the provider, or the made-up correspondents outside. */
export class Delivery {
  readonly outside: OutsideMail[] = [];
  scripts: Script[] = [];
  /** How many emails a script has answered. */
  private told = 0;
  private readonly timers = new Set<NodeJS.Timeout>();

  constructor(
    private readonly store: MailStore,
    private readonly host: string,
  ) {}

  /**
   * Takes a submitted message: a copy into the sender's Sent folder, one into each recipient's inbox.
   *
   * @param signedIn who submitted it; a shared address may be another than this
   * @param keepsCopy whether the sent folder gets one
   */
  submit(raw: Buffer, signedIn: Account, recipients: readonly string[], keepsCopy = true): void {
    const sender = this.store.accountFor(addressIn(fieldOf(raw, 'from'))) ?? signedIn;
    const shown = new Set([...addressesIn(fieldOf(raw, 'to')), ...addressesIn(fieldOf(raw, 'cc'))]);
    const hidden = recipients.filter((recipient) => !shown.has(recipient.toLowerCase()));
    const signed = withHeader(raw, `X-Authenticated-Sender: ${signedIn.address}`);
    const ownCopy = hidden.length > 0 && fieldOf(raw, 'bcc') === '' ? withHeader(signed, `Bcc: ${hidden.join(', ')}`) : signed;
    const sent = sender.folders.get('Sent');
    if (sent && keepsCopy) this.store.append(sender, sent, ownCopy, { flags: ['\\Seen'] });
    this.hand(withoutBcc(signed), recipients);
  }

  /** Writes as someone outside. @returns the Message-ID */
  write(letter: OutsideLetter): string {
    const messageId = `<${randomUUID()}@${addressIn(letter.from).split('@')[1] ?? 'outside.example'}>`;
    const lines = [
      `Message-ID: ${messageId}`,
      `Date: ${new Date().toUTCString().replace('GMT', '+0000')}`,
      `From: ${oneLine(letter.from)}`,
      `To: ${oneLine(letter.to)}`,
      ...(letter.cc ? [`Cc: ${oneLine(letter.cc)}`] : []),
      `Subject: ${encoded(oneLine(letter.subject))}`,
      ...(letter.inReplyTo
        ? [`In-Reply-To: ${oneLine(letter.inReplyTo)}`, `References: ${oneLine(letter.references ?? letter.inReplyTo)}`]
        : []),
      'MIME-Version: 1.0',
      'Content-Type: text/plain; charset=utf-8',
      'Content-Transfer-Encoding: 8bit',
      '',
      letter.text.replace(/\r?\n/g, '\r\n'),
      '',
    ];
    this.hand(Buffer.from(lines.join('\r\n'), 'utf8'), [...addressesIn(letter.to), ...addressesIn(letter.cc ?? '')]);
    return messageId;
  }

  /** Answers an email that reached someone outside. */
  answer(id: string, text: string): string | null {
    const mail = this.outside.find((item) => item.id === id);
    if (!mail) return null;
    mail.answered = true;
    return this.write({
      from: mail.to,
      to: mail.from,
      subject: /^re:/i.test(mail.subject) ? mail.subject : `Re: ${mail.subject}`,
      text: `${text}\n\nOn ${new Date(mail.at).toUTCString()}, ${addressIn(mail.from)} wrote:\n${mail.text.replace(/^/gm, '> ')}`,
      inReplyTo: mail.messageId,
      references: `${mail.references} ${mail.messageId}`.trim(),
    });
  }

  /** Puts a message into the inboxes of its recipients; those outside get theirs too. */
  hand(raw: Buffer, recipients: readonly string[]): void {
    for (const recipient of recipients) {
      const account = this.store.accountFor(recipient);
      const inbox = account?.folders.get('INBOX');
      if (account && inbox) {
        const received = `Received: from ${this.host} by ${this.host} with ESMTP id ${randomUUID().slice(0, 8)}; ${new Date().toUTCString().replace('GMT', '+0000')}`;
        this.store.append(account, inbox, withHeader(raw, `Delivered-To: ${recipient}\r\n${received}`));
      } else this.reachOutside(raw, recipient);
    }
  }

  stop(): void {
    for (const timer of this.timers) clearTimeout(timer);
  }

  private reachOutside(raw: Buffer, recipient: string): void {
    const mail: OutsideMail = {
      id: randomUUID(),
      to: recipient,
      from: fieldOf(raw, 'from'),
      subject: fieldOf(raw, 'subject'),
      messageId: fieldOf(raw, 'message-id'),
      references: fieldOf(raw, 'references'),
      unsubscribe: { where: fieldOf(raw, 'list-unsubscribe'), post: fieldOf(raw, 'list-unsubscribe-post') },
      text: textPartOf(raw).toString('utf8').slice(0, 4000),
      source: raw.subarray(0, MOST_KEPT).toString('utf8'),
      at: Date.now(),
      answered: false,
    };
    this.outside.unshift(mail);
    this.outside.length = Math.min(this.outside.length, KEPT);
    const key = recipient.toLowerCase();
    const fitting = this.scripts.filter(
      ({ match }) => match === '*' || key === match.toLowerCase() || (match.startsWith('@') && key.endsWith(match.toLowerCase())),
    );
    // In turn, so that not everyone says the same.
    const script = fitting[this.told % fitting.length];
    if (!script) return;
    this.told += 1;
    const timer = setTimeout(() => {
      this.timers.delete(timer);
      this.answer(mail.id, script.text);
    }, script.afterMs);
    this.timers.add(timer);
  }
}

const withHeader = (raw: Buffer, lines: string): Buffer => Buffer.concat([Buffer.from(`${lines}\r\n`, 'utf8'), raw]);

function withoutBcc(raw: Buffer): Buffer {
  const header = headerOf(raw).toString('latin1');
  const stripped = header.replace(/^Bcc:.*(?:\r?\n[ \t].*)*\r?\n/gim, '');
  return stripped === header ? raw : Buffer.concat([Buffer.from(stripped, 'latin1'), textPartOf(raw)]);
}

export function addressesIn(list: string): string[] {
  return [...list.matchAll(/[^\s<>,;"]+@[^\s<>,;"]+/g)].map(([address]) => address.toLowerCase());
}

function addressIn(text: string): string {
  return addressesIn(/<[^>]*>/.exec(text)?.[0] ?? text)[0] ?? '';
}

const oneLine = (text: string): string => text.replace(/[\r\n]+/g, ' ');

function encoded(text: string): string {
  return /^[\x20-\x7e]*$/.test(text) ? text : `=?utf-8?B?${Buffer.from(text, 'utf8').toString('base64')}?=`;
}
