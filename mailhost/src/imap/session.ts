import { TLSSocket } from 'node:tls';
import type { SecureContext } from 'node:tls';
import type { Socket } from 'node:net';
import type { FaultPlan, Faults } from '../faults';
import type { Account, Folder, MailStore, StoredMessage } from '../mailStore';
import type { SignIn } from '../signIn';
import { Connection } from './connection';
import { fetchItems, renderItem } from './fetchItems';
import { parseImapDate } from './messageParts';
import { searchTest } from './search';
import type { Token } from './tokens';
import { inSet, sent, textOf, tokenize } from './tokens';

export interface SessionParts {
  store: MailStore;
  faults: FaultPlan;
  signIn: SignIn;
  secureContext: SecureContext;
  /** The connection is under TLS from its start. */
  secure: boolean;
}

type Step = (tag: string, args: Token[]) => Promise<string | null>;

const BASE = ['IMAP4rev1', 'LITERAL+', 'ID', 'NAMESPACE', 'UIDPLUS', 'MOVE', 'SPECIAL-USE', 'ENABLE', 'CONDSTORE', 'UNSELECT'];
const IMAP_OFF = 'NO [ALERT] Mail programs are not let into this mailbox. Open Doors in your Longshore settings and switch on “IMAP door”.';

/** One IMAP4rev1 session (RFC 3501, with RFC 2177, 4315, 6154, 6851 and 7162 as far as the capabilities say). */
export class ImapSession {
  private readonly connection: Connection;
  private account: Account | null = null;
  private folder: Folder | null = null;
  private readOnly = true;
  private secure: boolean;
  private condstore = false;
  /** UIDs in the order of their sequence numbers as the client knows them. */
  private view: number[] = [];
  private seenModseq = 0;
  private idling = false;
  private commands = 0;
  private readonly onChange = (path: string): void => {
    if (this.idling && path === this.folder?.path) void this.tellChanges(true);
  };

  constructor(
    socket: Socket,
    private readonly parts: SessionParts,
  ) {
    this.secure = parts.secure;
    this.connection = new Connection(
      socket,
      () => this.faults(),
      (command) => this.run(command),
    );
    socket.on('close', () => this.leave());
    void this.connection.line(`* OK [CAPABILITY ${this.capabilities()}] Longshore mail ready`);
  }

  private faults(): Faults {
    return this.parts.faults.of(this.account?.address ?? null);
  }

  private capabilities(): string {
    const more = this.account ? [] : this.secure ? ['AUTH=PLAIN', 'AUTH=XOAUTH2', 'SASL-IR'] : ['STARTTLS', 'LOGINDISABLED'];
    return [...BASE, ...(this.faults().noIdle ? [] : ['IDLE']), ...more].join(' ');
  }

  private async run(command: string): Promise<void> {
    let words: Token[];
    try {
      words = tokenize(command);
    } catch {
      await this.connection.line('* BAD This is no command');
      return;
    }
    const tag = textOf(words[0]) || '*';
    const name = textOf(words[1]).toUpperCase();
    this.commands += 1;
    const limit = this.faults().throttleAfter;
    if (limit > 0 && this.commands > limit) {
      await this.connection.line('* BYE [UNAVAILABLE] Too many requests; come back in a few minutes');
      this.connection.end();
      return;
    }
    const byUid = name === 'UID';
    const step = byUid ? this.uidStep(textOf(words[2]).toUpperCase()) : this.steps[name];
    if (!step) return this.connection.line(`${tag} BAD Unknown command ${name}`);
    if (!this.account && !WITHOUT_SIGN_IN.has(name)) return this.connection.line(`${tag} NO Sign in first`);
    let answer: string | null;
    try {
      answer = await step(tag, words.slice(byUid ? 3 : 2));
    } catch (error) {
      answer = error instanceof SyntaxError ? `BAD ${error.message}` : 'NO [SERVERBUG] This could not be done';
    }
    if (answer === null) return;
    // Sequence numbers must not change under a client that uses them (RFC 3501, section 7.4.1).
    if (this.folder) await this.tellChanges(byUid || !['FETCH', 'STORE', 'SEARCH'].includes(name));
    await this.connection.line(`${tag} ${answer}`);
  }

  private uidStep(name: string): Step | undefined {
    switch (name) {
      case 'FETCH':
        return (_, args) => this.fetch(args, true);
      case 'SEARCH':
        return (_, args) => this.search(args, true);
      case 'STORE':
        return (_, args) => this.storeFlags(args, true);
      case 'COPY':
        return (_, args) => this.copy(args, true, false);
      case 'MOVE':
        return (_, args) => this.copy(args, true, true);
      case 'EXPUNGE':
        return (_, args) => this.expunge(textOf(args[0]));
      default:
        return undefined;
    }
  }

  private readonly steps: Record<string, Step | undefined> = {
    CAPABILITY: async () => {
      await this.connection.line(`* CAPABILITY ${this.capabilities()}`);
      return 'OK Done';
    },
    NOOP: () => Promise.resolve('OK Done'),
    CHECK: () => Promise.resolve('OK Done'),
    ID: async () => {
      await this.connection.line('* ID ("name" "Longshore Mail" "version" "1")');
      return 'OK Done';
    },
    NAMESPACE: async () => {
      await this.connection.line('* NAMESPACE (("" "/")) NIL NIL');
      return 'OK Done';
    },
    ENABLE: async (_, args) => {
      this.condstore ||= args.some((arg) => textOf(arg).toUpperCase() === 'CONDSTORE');
      await this.connection.line('* ENABLED CONDSTORE');
      return 'OK Done';
    },
    STARTTLS: async (tag) => {
      if (this.secure) return 'BAD TLS is on already';
      await this.connection.line(`${tag} OK Begin TLS`);
      this.connection.moveTo((socket) => new TLSSocket(socket, { isServer: true, secureContext: this.parts.secureContext }));
      this.secure = true;
      return null;
    },
    LOGIN: (_, args) => this.signIn(() => this.parts.signIn.byPassword(utf8(args[0]), utf8(args[1]))),
    AUTHENTICATE: (_, args) => this.authenticate(args),
    LOGOUT: async (tag) => {
      await this.connection.line('* BYE Until next time');
      await this.connection.line(`${tag} OK Done`);
      this.connection.end();
      return null;
    },
    LIST: (_, args) => this.list(args, 'LIST'),
    LSUB: (_, args) => this.list(args, 'LSUB'),
    SUBSCRIBE: () => Promise.resolve('OK Done'),
    UNSUBSCRIBE: () => Promise.resolve('OK Done'),
    STATUS: async (_, args) => {
      const folder = this.folderNamed(args[0]);
      if (!folder) return 'NO [NONEXISTENT] There is no such folder';
      const items = (Array.isArray(args[1]) ? args[1] : []).map((token) => statusItem(folder, textOf(token).toUpperCase()));
      await this.connection.line(`* STATUS ${sent(folder.path)} (${items.filter(Boolean).join(' ')})`);
      return 'OK Done';
    },
    SELECT: (_, args) => this.open(args, false),
    EXAMINE: (_, args) => this.open(args, true),
    CLOSE: () => this.closeFolder(true),
    UNSELECT: () => this.closeFolder(false),
    CREATE: (_, args) => {
      if (this.folderNamed(args[0])) return Promise.resolve('NO [ALREADYEXISTS] The folder is there already');
      if (this.account) this.parts.store.addFolder(this.account, textOf(args[0]).replace(/\/$/, ''));
      return Promise.resolve('OK Done');
    },
    DELETE: (_, args) => {
      const folder = this.folderNamed(args[0]);
      if (!folder || !this.account || folder.path === 'INBOX') return Promise.resolve('NO [NONEXISTENT] This folder cannot be deleted');
      this.parts.store.removeFolder(this.account, folder.path);
      return Promise.resolve('OK Done');
    },
    RENAME: (_, args) => {
      const folder = this.folderNamed(args[0]);
      if (!folder || !this.account) return Promise.resolve('NO [NONEXISTENT] There is no such folder');
      this.parts.store.renameFolder(this.account, folder, textOf(args[1]));
      return Promise.resolve('OK Done');
    },
    APPEND: (_, args) => this.append(args),
    EXPUNGE: () => this.expunge(null),
    SEARCH: (_, args) => this.search(args, false),
    FETCH: (_, args) => this.fetch(args, false),
    STORE: (_, args) => this.storeFlags(args, false),
    COPY: (_, args) => this.copy(args, false, false),
    MOVE: (_, args) => this.copy(args, false, true),
    IDLE: async () => {
      if (this.faults().noIdle) return 'BAD Unknown command IDLE';
      this.idling = true;
      const done = this.connection.prompt('idling');
      await this.tellChanges(true);
      await done;
      this.idling = false;
      return 'OK Done';
    },
  };

  private async authenticate(args: Token[]): Promise<string> {
    const kind = textOf(args[0]).toUpperCase();
    if (kind !== 'PLAIN' && kind !== 'XOAUTH2') return 'NO [CANNOT] This way of signing in is not offered';
    const given = textOf(args[1]) || (await this.connection.prompt(''));
    const text = Buffer.from(given === '=' ? '' : given, 'base64').toString('utf8');
    if (kind === 'PLAIN') {
      const [, name = '', password = ''] = text.split('\0');
      return this.signIn(() => this.parts.signIn.byPassword(name, password));
    }
    const user = /user=([^\x01]*)\x01/.exec(text)?.[1] ?? '';
    const token = /auth=Bearer ([^\x01]*)\x01/i.exec(text)?.[1] ?? '';
    const account = this.parts.signIn.byToken(user, token);
    // The refusal comes as a prompt that says why, answered by an empty line.
    if (!account) await this.connection.prompt(Buffer.from('{"status":"400","schemes":"Bearer"}').toString('base64'));
    return this.signIn(() => account);
  }

  private signIn(find: () => Account | null): Promise<string> {
    if (!this.secure) return Promise.resolve('NO [PRIVACYREQUIRED] Begin TLS first');
    const account = find();
    if (!account || this.parts.faults.of(account.address).refuseSignIn)
      return Promise.resolve('NO [AUTHENTICATIONFAILED] The address or the password is wrong');
    if (this.parts.faults.of(account.address).imapOff) return Promise.resolve(IMAP_OFF);
    this.account = account;
    account.on('change', this.onChange);
    return Promise.resolve(`OK [CAPABILITY ${this.capabilities()}] Signed in`);
  }

  private folderNamed(token: Token | undefined): Folder | undefined {
    const name = textOf(token);
    return this.account?.folders.get(name.toUpperCase() === 'INBOX' ? 'INBOX' : name);
  }

  private async list(args: Token[], word: string): Promise<string> {
    const lists = args.filter((arg) => !Array.isArray(arg)).map(textOf);
    const pattern = `${lists[0] ?? ''}${lists[1] ?? ''}`;
    if (lists[1] === '') {
      await this.connection.line(`* ${word} (\\Noselect) "/" ""`);
      return 'OK Done';
    }
    const escaped = pattern
      .replace(/[.+?^${}()|[\]\\]/g, '\\$&')
      .replace(/\*/g, '.*')
      .replace(/%/g, '[^/]*');
    const wanted = new RegExp(`^${escaped}$`, 'i');
    const paths = [...(this.account?.folders.values() ?? [])];
    for (const folder of paths.filter((path) => wanted.test(path.path))) {
      const children = paths.some((path) => path.path.startsWith(`${folder.path}/`));
      const attributes = [children ? '\\HasChildren' : '\\HasNoChildren', ...(folder.specialUse ? [folder.specialUse] : [])];
      await this.connection.line(`* ${word} (${attributes.join(' ')}) "/" ${sent(folder.path)}`);
    }
    return 'OK Done';
  }

  private async open(args: Token[], readOnly: boolean): Promise<string> {
    const folder = this.folderNamed(args[0]);
    this.folder = null;
    if (!folder) return 'NO [NONEXISTENT] There is no such folder';
    this.condstore ||= Array.isArray(args[1]) && args[1].some((token) => textOf(token).toUpperCase() === 'CONDSTORE');
    this.view = folder.messages.map((message) => message.uid);
    this.seenModseq = folder.modseq;
    this.readOnly = readOnly;
    await this.connection.send(
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
    this.folder = folder;
    return `OK [${readOnly ? 'READ-ONLY' : 'READ-WRITE'}] Open`;
  }

  private closeFolder(expunging: boolean): Promise<string> {
    if (expunging && !this.readOnly) this.removeDeleted(() => true);
    this.folder = null;
    return Promise.resolve('OK Done');
  }

  /** Untagged answers that bring the client's view up to date. */
  private async tellChanges(expunges: boolean): Promise<void> {
    const { folder } = this;
    if (!folder) return;
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
    if (lines.length > 0) await this.connection.send(`${lines.join('\r\n')}\r\n`);
  }

  private chosen(set: Token | undefined, byUid: boolean): { message: StoredMessage; sequence: number }[] {
    const { folder } = this;
    if (!folder) throw new SyntaxError('Select a folder first');
    const within = inSet(textOf(set), byUid ? (folder.messages.at(-1)?.uid ?? 0) : this.view.length);
    const sequences = new Map(this.view.map((uid, at) => [uid, at + 1]));
    return folder.messages.flatMap((message) => {
      const sequence = sequences.get(message.uid);
      return sequence !== undefined && within(byUid ? message.uid : sequence) ? [{ message, sequence }] : [];
    });
  }

  private async search(args: Token[], byUid: boolean): Promise<string> {
    const { folder } = this;
    if (!folder) return 'BAD Select a folder first';
    const keys = textOf(args[0]).toUpperCase() === 'CHARSET' ? args.slice(2) : args;
    const test = searchTest(keys, folder);
    const sequences = new Map(this.view.map((uid, at) => [uid, at + 1]));
    const found = folder.messages.filter((message) => sequences.has(message.uid) && test(message, sequences.get(message.uid) ?? 0));
    await this.connection.line(
      `* SEARCH ${found.map((message) => (byUid ? message.uid : sequences.get(message.uid))).join(' ')}`.trimEnd(),
    );
    return 'OK Done';
  }

  private async fetch(args: Token[], byUid: boolean): Promise<string> {
    const items = fetchItems(args[1], byUid);
    const modifier = Array.isArray(args[2]) ? args[2].map(textOf) : [];
    const since = modifier[0]?.toUpperCase() === 'CHANGEDSINCE' ? Number(modifier[1]) : -1;
    for (const { message, sequence } of this.chosen(args[0], byUid)) {
      if (message.modseq <= since) continue;
      if (this.faults().expungeWhileReading && message.uid % 3 === 0) continue;
      if (this.parts.faults.takeBrokenAnswer(this.account?.address ?? null)) {
        await this.connection.line(`* ${sequence} FETCH (UID ${message.uid} BODY[] {${message.raw.length}} FETCH ((`);
        this.connection.end();
        return 'NO Broken';
      }
      const parts = items.map((item) => renderItem(item, message));
      if (items.some((item) => item.marksSeen) && !this.readOnly && this.account && this.folder && !message.flags.has('\\Seen'))
        this.parts.store.setFlags(this.account, this.folder, message, [...message.flags, '\\Seen']);
      const pieces = parts.flatMap((part, at) => [Buffer.from(at > 0 ? ' ' : '', 'latin1'), part]);
      await this.connection.send(
        Buffer.concat([Buffer.from(`* ${sequence} FETCH (`, 'latin1'), ...pieces, Buffer.from(')\r\n', 'latin1')]),
      );
      if (this.connection.closed) return 'NO Gone';
    }
    return 'OK Done';
  }

  private async storeFlags(args: Token[], byUid: boolean): Promise<string> {
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
      if (this.account && this.folder) this.parts.store.setFlags(this.account, this.folder, message, after);
      if (!/SILENT$/i.test(action))
        await this.connection.line(`* ${sequence} FETCH (UID ${message.uid} FLAGS (${[...message.flags].join(' ')}))`);
    }
    if (this.folder) this.seenModseq = this.folder.modseq;
    return 'OK Done';
  }

  private async copy(args: Token[], byUid: boolean, moving: boolean): Promise<string> {
    const { account, folder } = this;
    const target = this.folderNamed(args[1]);
    if (!account || !folder || !target) return 'NO [TRYCREATE] There is no such folder';
    if (moving && this.readOnly) return 'NO [READ-ONLY] The folder is open for reading';
    const chosen = this.chosen(args[0], byUid).map((item) => item.message);
    if (chosen.length === 0) return 'OK Nothing chosen';
    const copies = chosen.map(({ raw, internalDate: at, flags }) => this.parts.store.append(account, target, raw, { at, flags }));
    const code = `[COPYUID ${target.uidValidity} ${chosen.map((message) => message.uid).join(',')} ${copies.map((copy) => copy.uid).join(',')}]`;
    if (!moving) return `OK ${code} Copied`;
    await this.connection.line(`* OK ${code} Moved`);
    this.parts.store.expunge(account, folder, new Set(chosen.map((message) => message.uid)));
    return 'OK Moved';
  }

  private append(args: Token[]): Promise<string> {
    const folder = this.folderNamed(args[0]);
    if (!folder || !this.account) return Promise.resolve('NO [TRYCREATE] There is no such folder');
    const flags = args.find((arg) => Array.isArray(arg));
    const rest = args
      .slice(1)
      .filter((arg) => !Array.isArray(arg))
      .map(textOf);
    const at = rest.length > 1 ? parseImapDate(rest[0] ?? '') : NaN;
    const message = this.parts.store.append(this.account, folder, Buffer.from(rest.at(-1) ?? '', 'latin1'), {
      flags: Array.isArray(flags) ? flags.map(textOf) : [],
      ...(Number.isNaN(at) ? {} : { at: new Date(at) }),
    });
    return Promise.resolve(`OK [APPENDUID ${folder.uidValidity} ${message.uid}] Done`);
  }

  private expunge(set: string | null): Promise<string> {
    if (this.readOnly) return Promise.resolve('NO [READ-ONLY] The folder is open for reading');
    this.removeDeleted(set === null ? () => true : inSet(set, this.folder?.messages.at(-1)?.uid ?? 0));
    return Promise.resolve('OK Done');
  }

  private removeDeleted(within: (uid: number) => boolean): void {
    const { account, folder } = this;
    if (!account || !folder) return;
    const gone = folder.messages.filter((message) => message.flags.has('\\Deleted') && within(message.uid)).map((message) => message.uid);
    this.parts.store.expunge(account, folder, new Set(gone));
  }

  private leave(): void {
    this.account?.off('change', this.onChange);
    this.idling = false;
  }
}

const WITHOUT_SIGN_IN = new Set(['CAPABILITY', 'NOOP', 'ID', 'STARTTLS', 'LOGIN', 'AUTHENTICATE', 'LOGOUT']);

function statusItem(folder: Folder, item: string): string {
  switch (item) {
    case 'MESSAGES':
      return `MESSAGES ${folder.messages.length}`;
    case 'UIDNEXT':
      return `UIDNEXT ${folder.uidNext}`;
    case 'UIDVALIDITY':
      return `UIDVALIDITY ${folder.uidValidity}`;
    case 'UNSEEN':
      return `UNSEEN ${folder.messages.filter((message) => !message.flags.has('\\Seen')).length}`;
    case 'HIGHESTMODSEQ':
      return `HIGHESTMODSEQ ${folder.modseq}`;
    case 'RECENT':
      return 'RECENT 0';
    default:
      return '';
  }
}

function utf8(token: Token | undefined): string {
  return Buffer.from(textOf(token), 'latin1').toString('utf8');
}
