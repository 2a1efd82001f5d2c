import type { FaultPlan, Faults } from '../faults';
import type { Account, Folder, MailStore, StoredMessage } from '../mailStore';
import type { Connection } from './connection';
import { fetchItems, renderItem } from './fetchItems';
import { searchTest } from './search';
import type { Token } from './tokens';
import { inSet, textOf } from './tokens';

interface FolderParts {
  store: MailStore;
  faults: FaultPlan;
  connection: Connection;
}

/** A folder that a session has open, and the commands on its messages: sequence numbers are those that the client knows. */
export class OpenFolder {
  /** UIDs in the order of their sequence numbers as the client knows them. */
  private view: number[];
  private seenModseq: number;

  constructor(
    private readonly parts: FolderParts,
    private readonly account: Account,
    readonly folder: Folder,
    private readonly readOnly: boolean,
  ) {
    this.view = folder.messages.map((message) => message.uid);
    this.seenModseq = folder.modseq;
  }

  /** The untagged answers to opening it. */
  async tellOpened(): Promise<void> {
    const { folder, readOnly } = this;
    await this.parts.connection.send(
      [
        '* FLAGS (\\Answered \\Flagged \\Deleted \\Seen \\Draft)',
        `* OK [PERMANENTFLAGS (${readOnly ? '' : '\\Answered \\Flagged \\Deleted \\Seen \\Draft \\*'})] Flags`,
        `* ${this.view.length} EXISTS`,
        '* 0 RECENT',
        `* OK [UIDVALIDITY ${folder.uidValidity}] Valid`,
        `* OK [UIDNEXT ${folder.uidNext}] Next`,
        `* OK [HIGHESTMODSEQ ${folder.modseq}] Highest`,
        '',
      ].join('\r\n'),
    );
  }

  /** Untagged answers that bring the client's view up to date. */
  async tellChanges(expunges: boolean): Promise<void> {
    const { folder } = this;
    const now = new Set(folder.messages.map((message) => message.uid));
    const lines: string[] = [];
    if (expunges) {
      for (let at = this.view.length - 1; at >= 0; at -= 1) if (!now.has(this.view[at] ?? 0)) lines.push(`* ${at + 1} EXPUNGE`);
      this.view = this.view.filter((uid) => now.has(uid));
    }
    const last = this.view.at(-1) ?? 0;
    const fresh = folder.messages.filter((message) => message.uid > last).map((message) => message.uid);
    if (fresh.length > 0) {
      this.view.push(...fresh);
      lines.push(`* ${this.view.length} EXISTS`);
    }
    const freshUids = new Set(fresh);
    for (const { uid, flags, modseq } of folder.messages) {
      if (modseq <= this.seenModseq || freshUids.has(uid)) continue;
      lines.push(`* ${this.view.indexOf(uid) + 1} FETCH (UID ${uid} FLAGS (${[...flags].join(' ')}) MODSEQ (${modseq}))`);
    }
    this.seenModseq = folder.modseq;
    if (lines.length > 0) await this.parts.connection.send(`${lines.join('\r\n')}\r\n`);
  }

  private chosen(set: Token | undefined, byUid: boolean): { message: StoredMessage; sequence: number }[] {
    const { folder } = this;
    const within = inSet(textOf(set), byUid ? (folder.messages.at(-1)?.uid ?? 0) : this.view.length);
    const sequences = new Map(this.view.map((uid, at) => [uid, at + 1]));
    return folder.messages.flatMap((message) => {
      const sequence = sequences.get(message.uid);
      return sequence !== undefined && within(byUid ? message.uid : sequence) ? [{ message, sequence }] : [];
    });
  }

  async search(args: Token[], byUid: boolean): Promise<string> {
    const { folder } = this;
    const keys = textOf(args[0]).toUpperCase() === 'CHARSET' ? args.slice(2) : args;
    const test = searchTest(keys, folder);
    const sequences = new Map(this.view.map((uid, at) => [uid, at + 1]));
    const found = folder.messages.filter((message) => sequences.has(message.uid) && test(message, sequences.get(message.uid) ?? 0));
    await this.parts.connection.line(
      `* SEARCH ${found.map((message) => (byUid ? message.uid : sequences.get(message.uid))).join(' ')}`.trimEnd(),
    );
    return 'OK Done';
  }

  async fetch(args: Token[], byUid: boolean): Promise<string> {
    const items = fetchItems(args[1], byUid);
    const modifier = Array.isArray(args[2]) ? args[2].map(textOf) : [];
    const since = modifier[0]?.toUpperCase() === 'CHANGEDSINCE' ? Number(modifier[1]) : -1;
    for (const { message, sequence } of this.chosen(args[0], byUid)) {
      if (message.modseq <= since) continue;
      if (this.faults().expungeWhileReading && message.uid % 3 === 0) continue;
      if (this.parts.faults.takeBrokenAnswer(this.account.address)) {
        await this.parts.connection.line(`* ${sequence} FETCH (UID ${message.uid} BODY[] {${message.raw.length}} FETCH ((`);
        this.parts.connection.end();
        return 'NO Broken';
      }
      const parts = items.map((item) => renderItem(item, message));
      if (items.some((item) => item.marksSeen) && !this.readOnly && !message.flags.has('\\Seen'))
        this.parts.store.setFlags(this.account, this.folder, message, [...message.flags, '\\Seen']);
      const pieces = parts.flatMap((part, at) => [Buffer.from(at > 0 ? ' ' : '', 'latin1'), part]);
      await this.parts.connection.send(
        Buffer.concat([Buffer.from(`* ${sequence} FETCH (`, 'latin1'), ...pieces, Buffer.from(')\r\n', 'latin1')]),
      );
      if (this.parts.connection.closed) return 'NO Gone';
    }
    return 'OK Done';
  }

  async storeFlags(args: Token[], byUid: boolean): Promise<string> {
    if (this.readOnly) return 'NO [READ-ONLY] The folder is open for reading';
    const [action = ''] = [args.map(textOf).find((value) => /^[+-]?FLAGS/i.test(value))];
    const list = args.at(-1);
    const flags = (Array.isArray(list) ? list : list ? [list] : []).map(textOf);
    for (const { message, sequence } of this.chosen(args[0], byUid)) {
      const before = [...message.flags];
      const after = action.startsWith('+')
        ? [...before, ...flags]
        : action.startsWith('-')
          ? before.filter((value) => !flags.includes(value))
          : flags;
      this.parts.store.setFlags(this.account, this.folder, message, after);
      if (!/SILENT$/i.test(action))
        await this.parts.connection.line(`* ${sequence} FETCH (UID ${message.uid} FLAGS (${[...message.flags].join(' ')}))`);
    }
    this.seenModseq = this.folder.modseq;
    return 'OK Done';
  }

  async copy(args: Token[], target: Folder | undefined, byUid: boolean, moving: boolean): Promise<string> {
    const { account, folder } = this;
    if (!target) return 'NO [TRYCREATE] There is no such folder';
    if (moving && this.readOnly) return 'NO [READ-ONLY] The folder is open for reading';
    const chosen = this.chosen(args[0], byUid).map((item) => item.message);
    if (chosen.length === 0) return 'OK Nothing chosen';
    const copies = chosen.map(({ raw, internalDate: at, flags }) => this.parts.store.append(account, target, raw, { at, flags }));
    const code = `[COPYUID ${target.uidValidity} ${chosen.map((message) => message.uid).join(',')} ${copies.map((copy) => copy.uid).join(',')}]`;
    if (!moving) return `OK ${code} Copied`;
    await this.parts.connection.line(`* OK ${code} Moved`);
    this.parts.store.expunge(account, folder, new Set(chosen.map((message) => message.uid)));
    return 'OK Moved';
  }

  expunge(set: string | null): Promise<string> {
    if (this.readOnly) return Promise.resolve('NO [READ-ONLY] The folder is open for reading');
    this.removeDeleted(set === null ? () => true : inSet(set, this.folder.messages.at(-1)?.uid ?? 0));
    return Promise.resolve('OK Done');
  }

  /** Removes what is marked as deleted, as far as it may be written to. */
  removeDeleted(within: (uid: number) => boolean): void {
    const { account, folder } = this;
    if (this.readOnly) return;
    const gone = folder.messages.filter((message) => message.flags.has('\\Deleted') && within(message.uid)).map((message) => message.uid);
    this.parts.store.expunge(account, folder, new Set(gone));
  }

  private faults(): Faults {
    return this.parts.faults.of(this.account.address);
  }
}
