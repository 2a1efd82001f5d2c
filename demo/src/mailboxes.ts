import { mboxEntry } from '@fulvet/core';
import type { Letter } from './compose';
import { compose } from './compose';

/** The team's mailboxes as they fill: each letter lies where it was sent from and where it came in. */
export class Mailboxes {
  private readonly entries = new Map<string, { at: number; sender: string; raw: Uint8Array }[]>();
  private readonly letters = new Set<Letter>();

  constructor(private readonly addresses: ReadonlySet<string>) {}

  get size(): number {
    return this.letters.size;
  }

  /** Delivers a letter to its sender's and its recipients' mailboxes, as far as they are the team's. */
  deliver(letter: Letter, alsoTo: readonly string[] = []): void {
    this.letters.add(letter);
    const received = [...letter.to, ...(letter.cc ?? []), ...(letter.bcc ?? [])].map((item) => item.email);
    for (const mailbox of new Set([letter.from.email, ...received, ...alsoTo])) {
      if (this.addresses.has(mailbox)) this.put(mailbox, compose(letter, mailbox === letter.from.email), letter.from.email, letter.at);
    }
  }

  /** Puts a source into one mailbox as it is. */
  put(mailbox: string, source: string | Uint8Array, sender: string, at: number): void {
    const raw = typeof source === 'string' ? new TextEncoder().encode(source) : source;
    const list = this.entries.get(mailbox) ?? [];
    list.push({ at, sender, raw });
    this.entries.set(mailbox, list);
  }

  /** What lies in each mailbox, in order of date. */
  *messages(): Generator<{ address: string; list: readonly { at: number; sender: string; raw: Uint8Array }[] }> {
    for (const [address, list] of this.entries) yield { address, list: list.sort((first, second) => first.at - second.at) };
  }

  /** Each mailbox as the parts of an mbox, in order of date. */
  *mboxes(): Generator<{ address: string; parts: Uint8Array[] }> {
    for (const { address, list } of this.messages())
      yield { address, parts: list.map((item) => mboxEntry(item.raw, item.sender, item.at)) };
  }
}
