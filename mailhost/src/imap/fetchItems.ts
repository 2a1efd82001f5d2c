import type { StoredMessage } from '../mailStore';
import { envelopeOf, headerOf, internalDate, sectionOf, textPartOf } from './messageParts';
import type { Token } from './tokens';
import { textOf } from './tokens';

/** One thing that a FETCH asks for. */
export interface FetchItem {
  /** As the answer names it. */
  name: string;
  section: string | null;
  /** First byte and number of bytes of a partial fetch. */
  partial: [number, number] | null;
  marksSeen: boolean;
}

const MACROS: Record<string, string[]> = {
  ALL: ['FLAGS', 'INTERNALDATE', 'RFC822.SIZE', 'ENVELOPE'],
  FAST: ['FLAGS', 'INTERNALDATE', 'RFC822.SIZE'],
  FULL: ['FLAGS', 'INTERNALDATE', 'RFC822.SIZE', 'ENVELOPE'],
};

/** @throws {SyntaxError} on an item that this server does not know */
export function fetchItems(asked: Token | undefined, withUid: boolean): FetchItem[] {
  const words = Array.isArray(asked) ? asked.map(textOf) : (MACROS[textOf(asked).toUpperCase()] ?? [textOf(asked)]);
  const items = words.map(itemOf);
  return withUid && !items.some((item) => item.name === 'UID') ? [itemOf('UID'), ...items] : items;
}

function itemOf(word: string): FetchItem {
  const body = /^(BODY|BODY\.PEEK)\[(.*)\](?:<(\d+)\.(\d+)>)?$/i.exec(word);
  if (body) {
    const section = body[2] ?? '';
    const partial: [number, number] | null = body[3] === undefined ? null : [Number(body[3]), Number(body[4])];
    return {
      name: `BODY[${section.toUpperCase()}]${partial ? `<${partial[0]}>` : ''}`,
      section,
      partial,
      marksSeen: body[1]?.toUpperCase() === 'BODY',
    };
  }
  const name = word.toUpperCase();
  const plain = { name, partial: null, section: null, marksSeen: false };
  if (['UID', 'FLAGS', 'INTERNALDATE', 'RFC822.SIZE', 'ENVELOPE', 'MODSEQ', 'RFC822.HEADER'].includes(name)) return plain;
  if (name === 'RFC822' || name === 'RFC822.TEXT') return { ...plain, marksSeen: true };
  throw new SyntaxError(`FETCH ${word} is not known here`);
}

/** The item's name and value as an answer holds them. */
export function renderItem(item: FetchItem, message: StoredMessage): Buffer {
  switch (item.name) {
    case 'UID':
      return ascii(`UID ${message.uid}`);
    case 'FLAGS':
      return ascii(`FLAGS (${[...message.flags].join(' ')})`);
    case 'INTERNALDATE':
      return ascii(`INTERNALDATE "${internalDate(message.internalDate)}"`);
    case 'RFC822.SIZE':
      return ascii(`RFC822.SIZE ${message.raw.length}`);
    case 'MODSEQ':
      return ascii(`MODSEQ (${message.modseq})`);
    case 'ENVELOPE':
      return ascii(`ENVELOPE ${envelopeOf(message)}`);
    case 'RFC822':
      return literal(item.name, message.raw);
    case 'RFC822.HEADER':
      return literal(item.name, headerOf(message.raw));
    case 'RFC822.TEXT':
      return literal(item.name, textPartOf(message.raw));
    default: {
      const whole = sectionOf(message.raw, item.section ?? '');
      if (whole === null) return ascii(`${item.name} NIL`);
      return literal(item.name, item.partial ? whole.subarray(item.partial[0], item.partial[0] + item.partial[1]) : whole);
    }
  }
}

const ascii = (text: string): Buffer => Buffer.from(text, 'latin1');

function literal(name: string, bytes: Buffer): Buffer {
  return Buffer.concat([ascii(`${name} {${bytes.length}}\r\n`), bytes]);
}
