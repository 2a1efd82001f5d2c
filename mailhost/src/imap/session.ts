import { TLSSocket } from 'node:tls';
import type { SecureContext } from 'node:tls';
import type { Socket } from 'node:net';
import type { FaultPlan, Faults } from '../faults';
import type { Account, Folder, MailStore } from '../mailStore';
import type { SignIn } from '../signIn';
import { Connection } from './connection';
import { listLines, statusItem } from './folderList';
import { parseImapDate } from './messageParts';
import { OpenFolder } from './openFolder';
import type { Token } from './tokens';
import { sent, textOf, tokenize } from './tokens';

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
  private opened: OpenFolder | null = null;
  private secure: boolean;
  private condstore = false;
  private idling = false;
  private commands = 0;
  private readonly onChange = (path: string): void => {
    if (this.idling && path === this.opened?.folder.path) void this.opened.tellChanges(true);
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
    await this.opened?.tellChanges(byUid || !['FETCH', 'STORE', 'SEARCH'].includes(name));
    await this.connection.line(`${tag} ${answer}`);
  }

  private uidStep(name: string): Step | undefined {
    switch (name) {
      case 'FETCH':
        return (_, args) => this.inFolder((opened) => opened.fetch(args, true));
      case 'SEARCH':
        return (_, args) => this.inFolder((opened) => opened.search(args, true));
      case 'STORE':
        return (_, args) => this.inFolder((opened) => opened.storeFlags(args, true));
      case 'COPY':
        return (_, args) => this.copy(args, true, false);
      case 'MOVE':
        return (_, args) => this.copy(args, true, true);
      case 'EXPUNGE':
        return (_, args) => this.inFolder((opened) => opened.expunge(textOf(args[0])));
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
    EXPUNGE: () => this.inFolder((opened) => opened.expunge(null)),
    SEARCH: (_, args) => this.inFolder((opened) => opened.search(args, false)),
    FETCH: (_, args) => this.inFolder((opened) => opened.fetch(args, false)),
    STORE: (_, args) => this.inFolder((opened) => opened.storeFlags(args, false)),
    COPY: (_, args) => this.copy(args, false, false),
    MOVE: (_, args) => this.copy(args, false, true),
    IDLE: async () => {
      if (this.faults().noIdle) return 'BAD Unknown command IDLE';
      this.idling = true;
      const done = this.connection.prompt('idling');
      await this.opened?.tellChanges(true);
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
    for (const line of listLines(args, [...(this.account?.folders.values() ?? [])])) await this.connection.line(`* ${word} ${line}`);
    return 'OK Done';
  }

  private async open(args: Token[], readOnly: boolean): Promise<string> {
    const folder = this.folderNamed(args[0]);
    this.opened = null;
    if (!folder || !this.account) return 'NO [NONEXISTENT] There is no such folder';
    this.condstore ||= Array.isArray(args[1]) && args[1].some((token) => textOf(token).toUpperCase() === 'CONDSTORE');
    const { store, faults } = this.parts;
    const opened = new OpenFolder({ store, faults, connection: this.connection }, this.account, folder, readOnly);
    await opened.tellOpened();
    this.opened = opened;
    return `OK [${readOnly ? 'READ-ONLY' : 'READ-WRITE'}] Open`;
  }

  private closeFolder(expunging: boolean): Promise<string> {
    if (expunging) this.opened?.removeDeleted(() => true);
    this.opened = null;
    return Promise.resolve('OK Done');
  }

  private inFolder(step: (opened: OpenFolder) => Promise<string>): Promise<string> {
    return this.opened ? step(this.opened) : Promise.resolve('BAD Select a folder first');
  }

  private copy(args: Token[], byUid: boolean, moving: boolean): Promise<string> {
    return this.inFolder((opened) => opened.copy(args, this.folderNamed(args[1]), byUid, moving));
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

  private leave(): void {
    this.account?.off('change', this.onChange);
    this.idling = false;
  }
}

const WITHOUT_SIGN_IN = new Set(['CAPABILITY', 'NOOP', 'ID', 'STARTTLS', 'LOGIN', 'AUTHENTICATE', 'LOGOUT']);

function utf8(token: Token | undefined): string {
  return Buffer.from(textOf(token), 'latin1').toString('utf8');
}
