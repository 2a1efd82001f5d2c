import { EventEmitter } from 'node:events';
import { appendFileSync, closeSync, existsSync, mkdirSync, openSync, readSync } from 'node:fs';
import { join } from 'node:path';

/** One message in one folder. */
export interface StoredMessage {
  uid: number;
  raw: Buffer;
  flags: Set<string>;
  internalDate: Date;
  modseq: number;
}

export interface Folder {
  path: string;
  /** `\Sent`, `\Drafts` and so on (RFC 6154), or null. */
  specialUse: string | null;
  uidValidity: number;
  uidNext: number;
  modseq: number;
  /** In order of UID. */
  messages: StoredMessage[];
}

/** One mailbox of the provider. Emits `change` with a folder's path. */
export class Account extends EventEmitter {
  readonly folders = new Map<string, Folder>();
  /** Calendars by their names, each with its objects (iCalendar) by theirs. */
  readonly calendars = new Map<string, Map<string, string>>();
  /** Addresses that deliver here too. */
  aliases: string[] = [];
  /** Addresses of accounts that may send as this one and read it. */
  sharedWith: string[] = [];
  /** Whether the provider vouches for the address to whom its account signs in elsewhere. */
  verified = true;

  constructor(
    readonly address: string,
    public password: string,
  ) {
    super();
    this.setMaxListeners(0);
  }
}

const STANDARD: readonly [string, string | null][] = [
  ['INBOX', null],
  ['Sent', '\\Sent'],
  ['Drafts', '\\Drafts'],
  ['Archive', '\\Archive'],
  ['Spam', '\\Junk'],
  ['Bin', '\\Trash'],
];

type Entry =
  | { op: 'account'; address: string; password: string; aliases: string[]; sharedWith: string[] }
  | { op: 'folder'; address: string; path: string; use: string | null; validity: number }
  | { op: 'drop folder'; address: string; path: string }
  | { op: 'append'; address: string; path: string; uid: number; at: number; flags: string[]; raw: string }
  | { op: 'flags'; address: string; path: string; uid: number; flags: string[] }
  | { op: 'expunge'; address: string; path: string; uids: number[] }
  | { op: 'calendar'; address: string; path: string; name: string; text: string | null }
  | { op: 'validity'; address: string; path: string; validity: number };

/** All mailboxes of the provider, in memory, with a journal on disk when a folder is given. */
export class MailStore {
  readonly accounts = new Map<string, Account>();
  private readonly journal: string | null;
  private lastValidity: number;

  constructor(folder: string | null = null) {
    this.lastValidity = Math.floor(Date.now() / 1000);
    this.journal = folder === null ? null : join(folder, 'journal.jsonl');
    if (folder !== null) mkdirSync(folder, { recursive: true, mode: 0o700 });
    if (this.journal && existsSync(this.journal)) this.replay(this.journal);
  }

  /** Makes a mailbox with the usual folders, or changes the password of one that is there. */
  addAccount(address: string, password: string, more: { aliases?: string[]; sharedWith?: string[] } = {}): Account {
    const account = this.putAccount(address, password, more.aliases ?? [], more.sharedWith ?? []);
    this.write({ op: 'account', address: account.address, password, aliases: account.aliases, sharedWith: account.sharedWith });
    for (const [path, use] of STANDARD) if (!account.folders.has(path)) this.addFolder(account, path, use);
    return account;
  }

  addFolder(account: Account, path: string, specialUse: string | null = null): Folder {
    this.lastValidity += 1;
    const folder = putFolder(account, path, specialUse, this.lastValidity);
    this.write({ op: 'folder', address: account.address, path, use: specialUse, validity: folder.uidValidity });
    return folder;
  }

  removeFolder(account: Account, path: string): void {
    account.folders.delete(path);
    this.write({ op: 'drop folder', address: account.address, path });
    account.emit('change', path);
  }

  renameFolder(account: Account, from: Folder, path: string): void {
    const renamed = this.addFolder(account, path, from.specialUse);
    for (const message of from.messages) this.append(account, renamed, message.raw, { at: message.internalDate, flags: message.flags });
    this.removeFolder(account, from.path);
  }

  /** Puts an object into a calendar, in place of one of the same name; null takes it out. */
  putEvent(account: Account, calendar: string, name: string, text: string | null): void {
    putEvent(account, calendar, name, text);
    this.write({ op: 'calendar', address: account.address, path: calendar, name, text });
  }

  /** The account that an address delivers to; a `+tag` and aliases lead to it. */
  accountFor(address: string): Account | undefined {
    const key = withoutTag(address.toLowerCase());
    return this.accounts.get(key) ?? [...this.accounts.values()].find((account) => account.aliases.includes(key));
  }

  hosts(domain: string): boolean {
    const tail = `@${domain.toLowerCase()}`;
    return [...this.accounts.keys()].some((address) => address.endsWith(tail));
  }

  append(account: Account, folder: Folder, raw: Buffer, more: { at?: Date; flags?: Iterable<string> } = {}): StoredMessage {
    const message = putMessage(folder, folder.uidNext, raw, more.at ?? new Date(), more.flags ?? []);
    this.write({
      op: 'append',
      address: account.address,
      path: folder.path,
      uid: message.uid,
      at: message.internalDate.getTime(),
      flags: [...message.flags],
      raw: raw.toString('base64'),
    });
    account.emit('change', folder.path);
    return message;
  }

  setFlags(account: Account, folder: Folder, message: StoredMessage, flags: Iterable<string>): void {
    message.flags = new Set(flags);
    folder.modseq += 1;
    message.modseq = folder.modseq;
    this.write({ op: 'flags', address: account.address, path: folder.path, uid: message.uid, flags: [...message.flags] });
    account.emit('change', folder.path);
  }

  expunge(account: Account, folder: Folder, uids: ReadonlySet<number>): void {
    if (uids.size === 0) return;
    folder.messages = folder.messages.filter((message) => !uids.has(message.uid));
    folder.modseq += 1;
    this.write({ op: 'expunge', address: account.address, path: folder.path, uids: [...uids] });
    account.emit('change', folder.path);
  }

  /** Gives a folder a new UIDVALIDITY and its messages new UIDs, as after a restored backup. */
  renumber(account: Account, folder: Folder): void {
    this.lastValidity += 1;
    renumbered(folder, this.lastValidity);
    this.write({ op: 'validity', address: account.address, path: folder.path, validity: this.lastValidity });
    account.emit('change', folder.path);
  }

  private putAccount(address: string, password: string, aliases: string[], sharedWith: string[]): Account {
    const key = address.toLowerCase();
    const account = this.accounts.get(key) ?? new Account(key, password);
    account.password = password;
    account.aliases = aliases.map((alias) => alias.toLowerCase());
    account.sharedWith = sharedWith.map((value) => value.toLowerCase());
    this.accounts.set(key, account);
    return account;
  }

  private write(entry: Entry): void {
    if (this.journal) appendFileSync(this.journal, `${JSON.stringify(entry)}\n`, { mode: 0o600 });
  }

  private replay(file: string): void {
    for (const line of linesOf(file)) {
      const entry = entryOf(line);
      if (!entry) continue;
      if (entry.op === 'account') {
        this.putAccount(entry.address, entry.password, entry.aliases, entry.sharedWith);
        continue;
      }
      const account = this.accounts.get(entry.address);
      if (account) this.redo(account, entry);
    }
  }

  private redo(account: Account, entry: Exclude<Entry, { op: 'account' }>): void {
    const folder = account.folders.get(entry.path);
    if (entry.op === 'calendar') putEvent(account, entry.path, entry.name, entry.text);
    else if (entry.op === 'folder') {
      this.lastValidity = Math.max(this.lastValidity, entry.validity);
      putFolder(account, entry.path, entry.use, entry.validity);
    } else if (entry.op === 'drop folder') account.folders.delete(entry.path);
    else if (!folder) return;
    else if (entry.op === 'append') putMessage(folder, entry.uid, Buffer.from(entry.raw, 'base64'), new Date(entry.at), entry.flags);
    else if (entry.op === 'validity') renumbered(folder, entry.validity);
    else if (entry.op === 'flags') {
      const message = folder.messages.find((item) => item.uid === entry.uid);
      if (message) message.flags = new Set(entry.flags);
    } else {
      const gone = new Set(entry.uids);
      folder.messages = folder.messages.filter((message) => !gone.has(message.uid));
    }
  }
}

export function withoutTag(address: string): string {
  return address.replace(/\+[^@]*@/, '@');
}

/** The lines of a file that may be larger than a string can be. */
function* linesOf(file: string): Generator<string> {
  const chunk = Buffer.alloc(1024 * 1024);
  const handle = openSync(file, 'r');
  let parts: Buffer[] = [];
  try {
    for (let size = readSync(handle, chunk); size > 0; size = readSync(handle, chunk)) {
      let from = 0;
      for (let end = chunk.subarray(0, size).indexOf(10); end >= 0; end = chunk.subarray(0, size).indexOf(10, from)) {
        yield Buffer.concat([...parts, chunk.subarray(from, end)]).toString('utf8');
        parts = [];
        from = end + 1;
      }
      parts.push(Buffer.from(chunk.subarray(from, size)));
    }
    yield Buffer.concat(parts).toString('utf8');
  } finally {
    closeSync(handle);
  }
}

/** A line that was cut off by a crash is left out. */
function entryOf(line: string): Entry | null {
  try {
    return line === '' ? null : (JSON.parse(line) as Entry);
  } catch {
    return null;
  }
}

function putEvent(account: Account, calendar: string, name: string, text: string | null): void {
  const objects = account.calendars.get(calendar) ?? new Map<string, string>();
  if (text === null) objects.delete(name);
  else objects.set(name, text);
  account.calendars.set(calendar, objects);
}

function putFolder(account: Account, path: string, specialUse: string | null, uidValidity: number): Folder {
  const folder: Folder = { path, specialUse, uidValidity, uidNext: 1, modseq: 1, messages: [] };
  account.folders.set(path, folder);
  return folder;
}

function putMessage(folder: Folder, uid: number, raw: Buffer, internalDate: Date, flags: Iterable<string>): StoredMessage {
  folder.modseq += 1;
  const message: StoredMessage = { uid, raw, internalDate, flags: new Set(flags), modseq: folder.modseq };
  folder.messages.push(message);
  folder.uidNext = Math.max(folder.uidNext, uid + 1);
  return message;
}

function renumbered(folder: Folder, validity: number): void {
  folder.uidValidity = validity;
  folder.messages.forEach((message, at) => (message.uid = at + 1));
  folder.uidNext = folder.messages.length + 1;
  folder.modseq += 1;
}
