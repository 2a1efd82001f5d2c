import type { ImapFlow } from 'imapflow';
import { lookAtFolders } from '../connect/lookAtFolders';
import { farewellOf } from '../connect/mailConnection';
import { failureOf, MailFailure } from '../../base/network/mailFailure';
import type { MailboxRow } from '../mailbox';
import { announceMailbox, clearProblem, noteEvent, noteProblem } from '../mailboxLog';
import { loadFolders, loadMailbox } from '../mailbox';
import { signedIn } from '../connect/signedIn';
import type { LiveRulebook } from '../../rulebook/liveRulebook';
import { liveRulebook } from '../../rulebook/liveRulebook';
import type { AtServer } from './folderLook';
import { askForStatus, lookInto, nextFolder } from './folderLook';
import { FolderState, sequenceSet } from './folderState';
import { FolderWatch, KeptWatch } from './folderWatch';
import type { Lease } from './lease';
import { LeaseLost } from './lease';
import { markFiled } from './marking';
import { NewsWatch } from './newsWatch';
import { noteContact, notePending } from './queries';
import { BatchStore } from './batchStore';
import type { TurnServices } from './batchStore';
import type { ProviderRoom, TurnEnd, TurnLimits } from './turnLimits';
import { NO_SLOT_MS, TurnOver } from './turnLimits';
import type { Fetched } from './storeFetched';

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
/** One that gave way comes back later than that, so that those that wait are first. */
const GIVE_WAY_MS = NO_SLOT_MS + 1500;

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
  private readonly storing: BatchStore;
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
    this.storing = new BatchStore(services, lease, this.begunAt);
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
      await this.storing.settled().catch(() => undefined);
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
  private readonly mail: AtServer = async (work) => {
    const { client } = this;
    if (!client?.usable) throw failureOf(new MailFailure('dropped'), client ? farewellOf(client) : '');
    try {
      return await work(client);
    } catch (error) {
      throw failureOf(error, farewellOf(client));
    }
  };

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
      const folder = nextFolder(this.folders);
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
      for (const folder of this.folders) if (!folder.changed) await askForStatus(folder, this.mail);
      this.lookedAt = Date.now();
    }
    for (const folder of this.folders.filter((state) => state.changed)) await this.lookOrDrop(folder);
  }

  /** A folder that was deleted or renamed in the meantime is left; the mailbox goes on. */
  private async lookOrDrop(folder: FolderState): Promise<void> {
    try {
      await lookInto(folder, this.mail, { db: this.db, lease: this.lease, mailbox: this.mailbox });
    } catch (error) {
      if (!(error instanceof MailFailure) || !this.client?.usable) throw error;
      await this.reload();
      if (this.folders.includes(folder)) throw error;
    }
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
    if (this.storing.undecided >= DECIDE_EVERY || this.isLive(batch)) await this.storing.decide();
  }

  private isLive(batch: readonly Fetched[]): boolean {
    return batch.some((fetched) => fetched.internalDate >= this.begunAt - 60_000);
  }

  private async store(folder: FolderState, batch: readonly Fetched[], missing: readonly number[]): Promise<void> {
    const { mailbox, rulebook } = this;
    if (rulebook) await this.storing.store({ mailbox, folder, rulebook: rulebook.compiled }, batch, missing);
  }

  /** All is read: it is decided, marked where that is wanted, and reported. */
  private async settleDown(): Promise<void> {
    await this.storing.settled();
    if (this.storing.undecided > 0) await this.storing.decide();
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
    const pending = this.folders.map((folder) => ({ id: folder.row.id, pending: folder.waiting.length }));
    const backlog = pending.reduce((sum, folder) => sum + folder.pending, 0);
    if (!(await noteContact(this.db, this.mailbox.id, this.lease, backlog))) return;
    await notePending(this.db, pending);
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
