import type { Folder, StoredMessage } from '../mailStore';
import { fieldOf, headerOf, parseImapDate, textPartOf } from './messageParts';
import type { Token } from './tokens';
import { inSet, textOf } from './tokens';

type Test = (message: StoredMessage, sequence: number) => boolean;
const DAY = 86_400_000;

/**
 * Compiles search keys (RFC 3501, section 6.4.4) to one test; all keys have to hold.
 *
 * @throws {SyntaxError} on a key that this server does not know
 */
export function searchTest(keys: readonly Token[], folder: Folder): Test {
  const tests: Test[] = [];
  let at = 0;
  const next = (): string => textOf(keys[at++]);
  const sentAt = (message: StoredMessage): number => Date.parse(fieldOf(message.raw, 'date'));
  const day = (): number => parseImapDate(next());
  const header = (name: string): Test => {
    const wanted = next().toLowerCase();
    return (message) => fieldOf(message.raw, name).toLowerCase().includes(wanted);
  };

  const call = (): Test => {
    const token = keys[at];
    at += 1;
    if (Array.isArray(token)) return searchTest(token, folder);
    const key = textOf(token).toUpperCase();
    const flag = FLAG_KEYS[key];
    if (flag) return (message) => message.flags.has(flag.flag) === flag.set;
    switch (key) {
      case 'ALL':
        return () => true;
      case 'UID': {
        const within = inSet(next(), folder.messages.at(-1)?.uid ?? 0);
        return (message) => within(message.uid);
      }
      case 'SINCE': {
        const from = day();
        return (message) => message.internalDate.getTime() >= from;
      }
      case 'BEFORE': {
        const until = day();
        return (message) => message.internalDate.getTime() < until;
      }
      case 'ON': {
        const on = day();
        return (message) => message.internalDate.getTime() >= on && message.internalDate.getTime() < on + DAY;
      }
      case 'SENTSINCE': {
        const from = day();
        return (message) => sentAt(message) >= from;
      }
      case 'SENTBEFORE': {
        const until = day();
        return (message) => sentAt(message) < until;
      }
      case 'KEYWORD':
      case 'UNKEYWORD': {
        const word = next();
        return (message) => message.flags.has(word) === (key === 'KEYWORD');
      }
      case 'LARGER':
      case 'SMALLER': {
        const size = Number(next());
        return (message) => (key === 'LARGER' ? message.raw.length > size : message.raw.length < size);
      }
      case 'MODSEQ': {
        const since = Number(next());
        return (message) => message.modseq >= since;
      }
      case 'HEADER':
        return header(next());
      case 'FROM':
      case 'TO':
      case 'CC':
      case 'BCC':
      case 'SUBJECT':
        return header(key);
      case 'BODY':
      case 'TEXT': {
        const wanted = next().toLowerCase();
        return (message) =>
          textPartOf(message.raw).toString('latin1').toLowerCase().includes(wanted) ||
          (key === 'TEXT' && headerOf(message.raw).toString('latin1').toLowerCase().includes(wanted));
      }
      case 'NOT': {
        const inner = call();
        return (message, sequence) => !inner(message, sequence);
      }
      case 'OR': {
        const first = call();
        const second = call();
        return (message, sequence) => first(message, sequence) || second(message, sequence);
      }
      default: {
        if (!/^[\d:,*]+$/.test(key)) throw new SyntaxError(`Unknown search key ${key}`);
        const within = inSet(key, folder.messages.length);
        return (_, sequence) => within(sequence);
      }
    }
  };
  while (at < keys.length) tests.push(call());
  return (message, sequence) => tests.every((test) => test(message, sequence));
}

const FLAG_KEYS: Record<string, { flag: string; set: boolean }> = Object.fromEntries(
  ['Seen', 'Answered', 'Deleted', 'Draft', 'Flagged'].flatMap((name) => [
    [name.toUpperCase(), { flag: `\\${name}`, set: true }],
    [`UN${name.toUpperCase()}`, { flag: `\\${name}`, set: false }],
  ]),
);
