import type { ImapFlow } from 'imapflow';
import type { Db } from '../../base/db/database';
import type { MailboxRow } from '../mailbox';
import { noteEvent } from '../mailboxLog';
import type { FolderState } from './folderState';
import type { Lease } from './lease';

/** Runs something at the mail server; what goes wrong there has a name. */
export type AtServer = <T>(work: (client: ImapFlow) => Promise<T>) => Promise<T>;

/** Asks for a sign of change in a folder that the server does not tell about by itself. */
export async function askForStatus(folder: FolderState, mail: AtServer): Promise<void> {
  const status = await mail((client) => client.status(folder.row.path, { messages: true, uidNext: true, uidValidity: true }));
  if (!status) return;
  const { uidNext = folder.next, messages = folder.exists } = status;
  const renumbered = status.uidValidity !== undefined && Number(status.uidValidity) !== folder.uidValidity;
  folder.changed = renumbered || uidNext !== folder.next || messages !== folder.exists;
}

/** Looks into a folder that changed: finds what is new, and compares everything where emails are gone or were renumbered. */
export async function lookInto(
  folder: FolderState,
  mail: AtServer,
  { db, lease, mailbox }: { db: Db; lease: Lease; mailbox: MailboxRow },
): Promise<void> {
  const { path } = folder.row;
  const opened = await mail((client) => client.mailboxOpen(path, { readOnly: true }));
  const uidValidity = Number(opened.uidValidity);
  // Fewer emails lie there than those that came in explain: some are gone.
  folder.wholeLook ||= opened.exists - folder.exists !== opened.uidNext - folder.next;
  Object.assign(folder, { changed: false, next: opened.uidNext, exists: opened.exists });
  if (!folder.wholeLook && uidValidity === folder.uidValidity) {
    const found = await mail((client) => client.search({ uid: `${folder.top + 1}:*` }, { uid: true }));
    folder.append(found || []);
    return;
  }
  folder.wholeLook = false;
  const since = mailbox.read_since;
  const found =
    opened.exists === 0
      ? []
      : await mail((client) => client.search(since === null ? { all: true } : { since: new Date(since) }, { uid: true }));
  const renumbered = await folder.compare(db, lease, { uidValidity, present: found || [] });
  if (renumbered) await noteEvent(db, mailbox.id, 'note', `The server has renumbered ${path}. It is read again; nothing is doubled.`);
}

/** The folder whose turn it is: what has just come in goes first, then the one that has waited longest. */
export function nextFolder(folders: readonly FolderState[]): FolderState | undefined {
  const waiting = folders.filter((folder) => folder.waiting.length > 0);
  const live = waiting.find((state) => (state.waiting[0] ?? 0) > state.firstTop);
  return live ?? waiting.sort((first, second) => first.readAt - second.readAt)[0];
}
