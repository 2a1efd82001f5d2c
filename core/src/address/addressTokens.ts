/** A word of an address header (RFC 5322, section 3.2), or a mark between words. */
export type Token =
  | { kind: 'text'; value: string }
  | { kind: 'quoted'; value: string }
  | { kind: 'comment'; value: string }
  | { kind: 'angle'; value: string }
  | { kind: 'mark'; value: ',' | ';' | ':' };

/** No address, nor a route to it, is longer: what is not closed within these characters is not closed. */
const LONGEST_ANGLE = 1_000;

/**
 * The words of an address header, in their order, in time that grows with its length alone: where a quotation and a comment end is found
 * for all of them at once. What is never closed is read as if its first character stood there by itself.
 */
export function* addressTokens(value: string): Generator<Token> {
  const quoteEnds = value.includes('"') ? endsOfQuotes(value) : null;
  const commentEnds = value.includes('(') ? endsOfComments(value) : null;
  let at = 0;
  let text = '';
  const flush = function* (): Generator<Token> {
    if (text) yield { kind: 'text', value: text };
    text = '';
  };
  while (at < value.length) {
    const char = value.charAt(at);
    if (char === '"') {
      const end = quoteEnds?.[at + 1] ?? value.length;
      yield* flush();
      const isClosed = end < value.length;
      yield { kind: 'quoted', value: isClosed ? value.slice(at + 1, end).replace(/\\([^])/g, '$1') : '' };
      at = isClosed ? end + 1 : at + 1;
    } else if (char === '(') {
      const end = commentEnds?.get(at);
      yield* flush();
      const comment = end === undefined ? '' : value.slice(at + 1, end).trim();
      if (comment) yield { kind: 'comment', value: comment };
      at = end === undefined ? at + 1 : end + 1;
    } else if (char === '<') {
      yield* flush();
      const [inside, next] = readAngle(value, at);
      yield { kind: 'angle', value: inside };
      at = next;
    } else if (char === ',' || char === ';' || (char === ':' && !/^mailto$/i.test(text))) {
      yield* flush();
      yield { kind: 'mark', value: char };
      at += 1;
    } else if (/\s/.test(char)) {
      yield* flush();
      at += 1;
    } else {
      text += char;
      at += 1;
    }
  }
  yield* flush();
}

/** For each place, where a quotation that has come to it ends; the length where it never does. */
function endsOfQuotes(value: string): Int32Array {
  const ends = new Int32Array(value.length + 2).fill(value.length);
  for (let at = value.length - 1; at >= 0; at -= 1) {
    const char = value.charAt(at);
    ends[at] = char === '"' ? at : (ends[char === '\\' ? at + 2 : at + 1] ?? value.length);
  }
  return ends;
}

/** Where each comment ends, by its beginning: comments stand in each other (RFC 5322, section 3.2.2). */
function endsOfComments(value: string): Map<number, number> {
  const ends = new Map<number, number>();
  const open: number[] = [];
  for (let at = 0; at < value.length; at += 1) {
    const char = value.charAt(at);
    if (char === '\\') at += 1;
    else if (char === '(') open.push(at);
    else if (char === ')') {
      const begin = open.pop();
      if (begin !== undefined) ends.set(begin, at);
    }
  }
  return ends;
}

function readAngle(value: string, start: number): [string, number] {
  const limit = Math.min(value.length, start + LONGEST_ANGLE);
  let quoted = false;
  for (let at = start + 1; at < limit; at += 1) {
    const char = value.charAt(at);
    if (char === '\\' && quoted) at += 1;
    else if (char === '"') quoted = !quoted;
    else if (char === '>' && !quoted) return [value.slice(start + 1, at), at + 1];
    else if (char === '<' && !quoted) return [value.slice(start + 1, at), at];
  }
  const rest = value.slice(start + 1, limit);
  const end = rest.search(/[,;\s]/);
  return end < 0 ? [rest, limit] : [rest.slice(0, end), start + 1 + end];
}
