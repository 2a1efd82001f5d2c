import type { Folder } from '../mailStore';
import type { Token } from './tokens';
import { sent, textOf } from './tokens';

/** What LIST answers behind its word: the folders whose paths fit the pattern (RFC 3501, section 6.3.8), with their special use (RFC 6154). */
export function listLines(args: readonly Token[], folders: readonly Folder[]): string[] {
  const [reference = '', mailbox = ''] = args.filter((arg) => !Array.isArray(arg)).map(textOf);
  if (args.length > 1 && mailbox === '') return ['(\\Noselect) "/" ""'];
  const escaped = `${reference}${mailbox}`
    .replace(/[.+?^${}()|[\]\\]/g, '\\$&')
    .replace(/\*/g, '.*')
    .replace(/%/g, '[^/]*');
  const wanted = new RegExp(`^${escaped}$`, 'i');
  return folders
    .filter((folder) => wanted.test(folder.path))
    .map((folder) => {
      const hasChildren = folders.some((other) => other.path.startsWith(`${folder.path}/`));
      const attributes = [hasChildren ? '\\HasChildren' : '\\HasNoChildren', ...(folder.specialUse ? [folder.specialUse] : [])];
      return `(${attributes.join(' ')}) "/" ${sent(folder.path)}`;
    });
}

/** An item of the answer to STATUS; empty where it is not known. */
export function statusItem(folder: Folder, item: string): string {
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
