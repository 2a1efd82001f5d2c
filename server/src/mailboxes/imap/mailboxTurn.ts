import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { loadReaders } from '../../emails/owners';
import { sql } from 'drizzle-orm';
import type { ImapFlow } from 'imapflow';
import type { Sources } from '../../base/reading/sources';
import { runDecisions } from '../../decision/decideRun';
import { lookAtFolders } from '../connect/lookAtFolders';
import { farewellOf } from '../connect/mailConnection';
import { failureOf, MailFailure } from '../../base/network/mailFailure';
import type { MailboxRow, MailServices } from '../mailbox';
import { announceMailbox, clearProblem, noteEvent, noteProblem } from '../mailboxLog';
import { loadFolders, loadMailbox } from '../mailbox';
import { signedIn } from '../connect/signedIn';
import type { LiveRulebook } from '../../rulebook/liveRulebook';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { FolderState, sequenceSet } from './folderState';
import { FolderWatch, KeptWatch } from './folderWatch';
import type { Lease } from './lease';
import { LeaseLost } from './lease';
import { markFiled } from './marking';
import { NewsWatch } from './newsWatch';
import type { Fetched } from './storeFetched';
import { storeFetched } from './storeFetched';

export interface TurnServices extends MailServices {
  blobs: Sources;
}

/** How a turn ended: when the next one is due, or null when a person has to act first. */
export interface TurnEnd {
  againInMs: number | null;
}

/** What a turn may use of the connections to its provider. */
export interface ProviderRoom {
  /** Other mailboxes of the provider wait for a connection. */
  othersWait: () => boolean;
  /** One more connection, where no one waits for it. */
  takeSlot: () => Promise<(() => Promise<void>) | null>;
}

export interface TurnLimits {
  /** Between looks at the folders that are not watched. */
  lookMs: number;
  /** A turn gives way after this, so that its mailbox is taken up afresh. */
  longestMs: number;
  /** Where other mailboxes wait, a turn with nothing to do gives way after this. */
  restMs: number;
}

export const TURN_LIMITS: TurnLimits = { lookMs: 10_000, longestMs: 60 * 60_000, restMs: 15_000 };

const BATCH_MESSAGES = 100;
const BATCH_BYTES = 6 * 1024 * 1024;
/** Sent mail that could not be watched is asked for its status so often before that is tried again. */
const WATCH_AGAIN_LOOKS = 6;
/** Between comparisons of everything in a folder. */
const WHOLE_LOOK_MS = 10 * 60_000;
/** Read emails wait for their decision until there are so many, unless they have just come in. */
const DECIDE_EVERY = 400;
const REPORT_MS = 1000;
const INTERNAL_RETRY_MS = 10_000;
/** A mailbox that found no connection free tries again after this. */
export const NO_SLOT_MS = 3000;
/** One that gave way comes back later than that, so that those that wait are first. */
const GIVE_WAY_MS = NO_SLOT_MS + 1500;

/** Something of the turn's own came to a stop: it ends without a failure. */
class TurnOver extends Error {
  constructor(readonly againInMs = 0) {
    super();
  }
}

const mailboxRow = z.object({ changed: z.boolean() });

/**
 * One turn of work on a mailbox: connect, read what is new and what lies back, newest first, then stay and wait for news.
 * It can be broken off at any point; the next turn goes on from what is stored.
 */
export class MailboxTurn {
  private client: ImapFlow | null = null;
  private folders: FolderState[] = [];
  private readonly begunAt = Date.now();
  private lookedAt = 0;
  private wholeLookAt = 0;
  private reportedAt = 0;
  private restingSince = 0;
  private undecided = 0;
  private storing: Promise<void> = Promise.resolve();
  private rulebook: LiveRulebook | null = null;
  private woken = false;
  private marksLookedFor = false;
  private readonly watch = new NewsWatch();
  private readonly sentWatch: KeptWatch;

  constructor(
    private readonly services: TurnServices,
    private mailbox: MailboxRow,
    private readonly lease: Lease,
    private readonly signal: AbortSignal,
    private readonly limits: TurnLimits,
    private readonly provider: ProviderRoom,
  ) {
    signal.addEventListener('abort', () => this.watch.wake(), { once: true });
    this.sentWatch = new KeptWatch(() => this.watchSent(), WATCH_AGAIN_LOOKS * limits.lookMs);
  }

  /** Something about the mailbox was changed by a person: it is looked at afresh. */
  wake(): void {
    this.woken = true;
    this.watch.wake();
  }

  async run(): Promise<TurnEnd> {
    try {
      await this.connect();
      await this.follow();
      return { againInMs: 0 };
    } catch (error) {
      return await this.endOf(error);
    } finally {
      await this.storing.catch(() => undefined);
      this.client?.close();
      await this.sentWatch.close();
    }
  }

  private async endOf(error: unknown): Promise<TurnEnd> {
    if (error instanceof TurnOver) return { againInMs: error.againInMs };
    if (error instanceof LeaseLost || this.signal.aborted) return { againInMs: null };
    if (!(error instanceof MailFailure)) {
      this.services.log.error({ err: error, mailbox: this.mailbox.id }, 'mailbox turn');
      return { againInMs: INTERNAL_RETRY_MS };
    }
    const current = (await loadMailbox(this.services.database.worker, this.mailbox.id)) ?? this.mailbox;
    const retryAt = await noteProblem(this.services, current, error, Date.now());
    return { againInMs: retryAt === null ? null : Math.max(0, retryAt - Date.now()) };
  }

  private get db() {
    return this.services.database.worker;
  }

  /** Runs something at the mail server; what goes wrong there has a name. */
  private async mail<T>(work: (client: ImapFlow) => Promise<T>): Promise<T> {
    const { client } = this;
    if (!client?.usable) throw failureOf(new MailFailure('dropped'), client ? farewellOf(client) : '');
    try {
      return await work(client);
    } catch (error) {
      throw failureOf(error, farewellOf(client));
    }
  }

  private async connect(): Promise<void> {
    const { client } = await signedIn(this.services, this.mailbox);
    this.client = client;
    this.watch.attach(client, (path) => this.noteChange(path));
    await this.reload();
  }

  private async reload(): Promise<void> {
    const found = await this.mail((client) => lookAtFolders(this.services, this.mailbox, client));
    if (!found.some((folder) => folder.role === 'inbox')) throw new MailFailure('no-inbox');
    const before = new Map(this.folders.map((folder) => [folder.row.id, folder]));
    const rows = (await loadFolders(this.db, this.mailbox.id)).filter((folder) => folder.followed || folder.file_as !== null);
    this.folders = rows.map((row) => {
      const known = before.get(row.id);
      return known ? Object.assign(known, { row: { ...row, uid_validity: known.row.uid_validity } }) : new FolderState(row);
    });
    this.rulebook = await liveRulebook(this.services.database);
    for (const folder of this.folders) Object.assign(folder, { changed: true, wholeLook: true });
    this.lookedAt = 0;
  }

  private noteChange(path: string): void {
    for (const folder of this.folders) if (folder.row.path === path) folder.changed = true;
  }

  private async follow(): Promise<void> {
    let connected = false;
    for (;;) {
      await this.goOn();
      await this.lookIfDue();
      if (!connected) {
        // Only now it is known to work: it was signed in to, and its folders could be opened.
        await clearProblem(this.services, this.mailbox);
        connected = true;
      }
      const folder = this.nextFolder();
      if (folder) {
        this.restingSince = 0;
        await this.readBatch(folder);
        await this.report(false);
        continue;
      }
      await this.settleDown();
      if (this.client?.capabilities.has('IDLE')) this.sentWatch.keep(Date.now());
      this.restingSince ||= Date.now();
      if (this.provider.othersWait() && Date.now() - this.restingSince > this.limits.restMs) throw new TurnOver(GIVE_WAY_MS);
      await this.waitForNews();
    }
  }

  /** @throws when the turn is over, or a person has paused the mailbox */
  private async goOn(): Promise<void> {
    if (this.signal.aborted || Date.now() - this.begunAt > this.limits.longestMs) throw new TurnOver();
    if (!this.woken) return;
    this.woken = false;
    const current = await loadMailbox(this.db, this.mailbox.id);
    if (!current || current.state !== 'running') throw new LeaseLost();
    const changed = current.revision !== this.mailbox.revision;
    this.mailbox = current;
    this.marksLookedFor = false;
    if (changed) await this.reload();
  }

  private async lookIfDue(): Promise<void> {
    const now = Date.now();
    if (now - this.wholeLookAt > WHOLE_LOOK_MS) {
      if (this.wholeLookAt > 0) await this.reload();
      this.wholeLookAt = now;
    }
    if (now - this.lookedAt > this.limits.lookMs) {
      await this.askForStatus();
      this.lookedAt = Date.now();
    }
    for (const folder of this.folders.filter((state) => state.changed)) await this.lookOrDrop(folder);
  }

  /** A folder that was deleted or renamed in the meantime is left; the mailbox goes on. */
  private async lookOrDrop(folder: FolderState): Promise<void> {
    try {
      await this.look(folder);
    } catch (error) {
      if (!(error instanceof MailFailure) || !this.client?.usable) throw error;
      await this.reload();
      if (this.folders.includes(folder)) throw error;
    }
  }

  /** Asks for a sign of change in the folders that the server does not tell about by itself. */
  private async askForStatus(): Promise<void> {
    for (const folder of this.folders) {
      if (folder.changed) continue;
      const status = await this.mail((client) => client.status(folder.row.path, { messages: true, uidNext: true, uidValidity: true }));
      if (!status) continue;
      const { uidNext = folder.next, messages = folder.exists } = status;
      const renumbered = status.uidValidity !== undefined && Number(status.uidValidity) !== folder.uidValidity;
      folder.changed = renumbered || uidNext !== folder.next || messages !== folder.exists;
    }
  }

  private async look(folder: FolderState): Promise<void> {
    const { path } = folder.row;
    const opened = await this.mail((client) => client.mailboxOpen(path, { readOnly: true }));
    const uidValidity = Number(opened.uidValidity);
    // Fewer emails lie there than those that came in explain: some are gone.
    folder.wholeLook ||= opened.exists - folder.exists !== opened.uidNext - folder.next;
    Object.assign(folder, { changed: false, next: opened.uidNext, exists: opened.exists });
    if (!folder.wholeLook && uidValidity === folder.uidValidity) {
      const found = await this.mail((client) => client.search({ uid: `${folder.top + 1}:*` }, { uid: true }));
      folder.append(found || []);
      return;
    }
    folder.wholeLook = false;
    const since = this.mailbox.read_since;
    const found =
      opened.exists === 0
        ? []
        : await this.mail((client) => client.search(since === null ? { all: true } : { since: new Date(since) }, { uid: true }));
    const renumbered = await folder.compare(this.db, this.lease, { uidValidity, present: found || [] });
    if (renumbered)
      await noteEvent(this.db, this.mailbox.id, 'note', `The server has renumbered ${path}. It is read again; nothing is doubled.`);
  }

  /** The folder whose turn it is: what has just come in goes first, then the one that has waited longest. */
  private nextFolder(): FolderState | undefined {
    const waiting = this.folders.filter((folder) => folder.waiting.length > 0);
    const live = waiting.find((state) => (state.waiting[0] ?? 0) > state.firstTop);
    return live ?? waiting.sort((first, second) => first.readAt - second.readAt)[0];
  }

  private async readBatch(folder: FolderState): Promise<void> {
    const asked = folder.waiting.slice(0, BATCH_MESSAGES);
    folder.readAt = Date.now();
    const came = new Set<number>();
    let batch: Fetched[] = [];
    let bytes = 0;
    await this.mail(async (client) => {
      if (!client.mailbox || client.mailbox.path !== folder.row.path) await client.mailboxOpen(folder.row.path, { readOnly: true });
      if (client.mailbox && Number(client.mailbox.uidValidity) !== folder.uidValidity) {
        Object.assign(folder, { changed: true, wholeLook: true, waiting: [] });
        return;
      }
      for await (const message of client.fetch(sequenceSet(asked), { uid: true, source: true, internalDate: true }, { uid: true })) {
        if (!message.source || message.source.length === 0) continue;
        came.add(message.uid);
        batch.push({ uid: message.uid, raw: message.source, internalDate: new Date(message.internalDate ?? Date.now()).getTime() });
        bytes += message.source.length;
        if (bytes < BATCH_BYTES) continue;
        await this.store(folder, batch, []);
        batch = [];
        bytes = 0;
      }
    });
    if (folder.waiting.length === 0) return;
    const missing = asked.filter((uid) => !came.has(uid));
    if (batch.length > 0 || missing.length > 0) await this.store(folder, batch, missing);
    folder.waiting = folder.waiting.slice(asked.length);
    if (missing.length > 0) Object.assign(folder, { changed: true, wholeLook: true });
    if (this.undecided >= DECIDE_EVERY || this.isLive(batch)) await this.decide();
  }

  private isLive(batch: readonly Fetched[]): boolean {
    return batch.some((fetched) => fetched.internalDate >= this.begunAt - 60_000);
  }

  /** Stores a batch while the next one is being read; one at a time. */
  private async store(folder: FolderState, batch: readonly Fetched[], missing: readonly number[]): Promise<void> {
    await this.storing;
    const { rulebook } = this;
    if (!rulebook) return;
    const place = {
      db: this.db,
      blobs: this.services.blobs,
      lease: this.lease,
      mailbox: this.mailbox,
      folder: folder.row,
      uidValidity: folder.uidValidity,
      rulebook: rulebook.compiled,
      readers: await loadReaders(this.db, this.mailbox.id),
    };
    this.undecided += batch.length;
    this.storing = storeFetched(place, batch, missing).then(() => this.noteDelay(batch));
    // A failure is thrown by the next await of it; this only keeps it from counting as unhandled until then.
    this.storing.catch(() => undefined);
  }

  private async noteDelay(batch: readonly Fetched[]): Promise<void> {
    const live = batch.filter((fetched) => fetched.internalDate >= this.begunAt);
    if (batch.length === 0) return;
    const newest = Math.max(...batch.map((fetched) => fetched.internalDate));
    const delay = live.length === 0 ? null : Math.max(0, Date.now() - Math.max(...live.map((fetched) => fetched.internalDate)));
    await this.db.execute(
      sql`UPDATE mailboxes SET last_mail_at = greatest(last_mail_at, to_timestamp(${newest / 1000})), delay_ms = coalesce(${delay}::int, delay_ms) WHERE id = ${this.mailbox.id}`,
    );
  }

  private async decide(): Promise<void> {
    await this.storing;
    this.undecided = 0;
    await runDecisions(this.services.database, this.services.blobs, 'undecided');
  }

  /** All is read: it is decided, marked where that is wanted, and reported. */
  private async settleDown(): Promise<void> {
    await this.storing;
    if (this.undecided > 0) await this.decide();
    const marks = this.mailbox.mark_filed || !this.marksLookedFor;
    this.marksLookedFor = true;
    const takesMarks = !marks || (await this.mail((client) => markFiled(this.db, client, this.mailbox.id, this.mailbox.mark_filed)));
    if (!takesMarks && this.mailbox.mark_filed) {
      this.mailbox = { ...this.mailbox, mark_filed: false };
      await noteEvent(this.db, this.mailbox.id, 'note', 'The server takes no keywords: filed emails cannot be marked there.');
    }
    await this.report(true);
  }

  private async report(atRest: boolean): Promise<void> {
    const now = Date.now();
    if (!atRest && now - this.reportedAt < REPORT_MS) return;
    this.reportedAt = now;
    const backlog = this.folders.reduce((sum, folder) => sum + folder.waiting.length, 0);
    const pending = JSON.stringify(this.folders.map((folder) => ({ id: folder.row.id, pending: folder.waiting.length })));
    const rows = await rowsOf(
      this.db,
      mailboxRow,
      sql`
      WITH before AS (SELECT backlog, last_contact_at FROM mailboxes WHERE id = ${this.mailbox.id})
      UPDATE mailboxes m SET last_contact_at = now(), backlog = ${backlog} FROM before WHERE m.id = ${this.mailbox.id} AND m.lease_holder = ${this.lease.holder}
      RETURNING (before.backlog <> ${backlog} OR before.last_contact_at IS NULL) AS changed`,
    );
    if (!rows[0]) throw new LeaseLost();
    if (!rows[0].changed) return;
    await this.db.execute(
      sql`UPDATE mailbox_folders f SET pending = n.pending FROM json_to_recordset(${pending}::json) AS n(id bigint, pending int) WHERE f.id = n.id AND f.pending <> n.pending`,
    );
    if (backlog === 0) await noteEvent(this.db, this.mailbox.id, 'note', 'In step with the server.');
    await announceMailbox(this.db, this.mailbox.id);
  }

  /** Has sent mail watched too, where the provider has room for one more connection. */
  private async watchSent(): Promise<FolderWatch | null> {
    const sent = this.folders.find((folder) => folder.row.role === 'sent');
    const slot = sent ? await this.provider.takeSlot() : null;
    if (!sent || !slot) return null;
    return FolderWatch.open(this.services, this.mailbox, sent.row.path, slot, () => {
      this.noteChange(sent.row.path);
      this.watch.wake();
    });
  }

  /** Waits for word from the server about the inbox, from a person, or for the time of the next look. */
  private async waitForNews(): Promise<void> {
    const watched = this.folders.find((folder) => folder.row.role === 'inbox') ?? this.folders[0];
    if (!watched) throw new TurnOver();
    await this.mail(async (client) => {
      if (!client.mailbox || client.mailbox.path !== watched.row.path || !client.mailbox.readOnly) {
        const opened = await client.mailboxOpen(watched.row.path, { readOnly: true });
        // Something may have come in or gone while another folder was open.
        const renumbered = Number(opened.uidValidity) !== watched.uidValidity;
        if (renumbered || opened.uidNext !== watched.next || opened.exists !== watched.exists) {
          Object.assign(watched, { changed: true, wholeLook: true });
          return;
        }
      }
      await this.watch.news(client, Math.max(200, this.lookedAt + this.limits.lookMs - Date.now()));
    });
  }
}
