/** A word of an IMAP command: an atom, a string (quoted or literal) or a list. */
export type Token = { atom: string } | { text: string } | Token[];

/**
 * Splits an IMAP command (RFC 3501, section 9) into its words. Literals stand in it as `{n}` CRLF and n characters; the command is
 * in latin1, one character a byte.
 *
 * @throws {SyntaxError} on input that is no command
 */
export function tokenize(command: string): Token[] {
  let at = 0;
  const fail = (what: string): never => {
    throw new SyntaxError(what);
  };

  const quoted = (): Token => {
    let text = '';
    for (at += 1; command[at] !== '"'; at += 1) {
      if (at >= command.length) fail('A quoted string has no end');
      if (command[at] === '\\') at += 1;
      text += command[at] ?? '';
    }
    at += 1;
    return { text };
  };

  const literal = (): Token => {
    const head = /^\{(\d+)\+?\}\r\n/.exec(command.slice(at, at + 32));
    if (!head) return atom();
    const start = at + head[0].length;
    at = start + Number(head[1]);
    return { text: command.slice(start, at) };
  };

  const atom = (): Token => {
    const start = at;
    while (at < command.length && !' ()"'.includes(command[at] ?? '')) {
      // The section of a FETCH item holds spaces and parentheses: BODY[HEADER.FIELDS (Date From)].
      if (command[at] === '[') at = Math.max(at, command.indexOf(']', at));
      at += 1;
    }
    if (at === start) fail(`Unexpected “${command[at] ?? ''}”`);
    return { atom: command.slice(start, at) };
  };

  const list = (closing: boolean): Token[] => {
    const words: Token[] = [];
    for (;;) {
      while (command[at] === ' ') at += 1;
      const next = command[at];
      if (next === undefined) return closing ? fail('A list has no end') : words;
      if (next === ')') {
        at += 1;
        return closing ? words : fail('A list has no beginning');
      }
      if (next === '(') {
        at += 1;
        words.push(list(true));
      } else if (next === '"') words.push(quoted());
      else if (next === '{') words.push(literal());
      else words.push(atom());
    }
  };
  return list(false);
}

/** The text of an atom or a string; of a list, nothing. */
export function textOf(token: Token | undefined): string {
  if (!token || Array.isArray(token)) return '';
  return 'atom' in token ? token.atom : token.text;
}

/** Whether a number lies in a sequence set such as `1:4,7,9:*`; `*` is the highest in use. */
export function inSet(set: string, highest: number): (value: number) => boolean {
  const ranges = set.split(',').map((part) => {
    const [from = '', to = from] = part.split(':');
    const low = from === '*' ? highest : Number(from);
    const high = to === '*' ? highest : Number(to);
    return low <= high ? [low, high] : [high, low];
  });
  const single = new Set(ranges.filter(([low, high]) => low === high).map(([low]) => low));
  const wide = ranges.filter(([low, high]) => low !== high);
  return (value) => single.has(value) || wide.some(([low = 0, high = 0]) => value >= low && value <= high);
}

/** A string as the server sends it: quoted where that can be, else a literal. */
export function sent(text: string): string {
  return /^[\x20-\x7e]*$/.test(text) ? `"${text.replace(/["\\]/g, '\\$&')}"` : `{${Buffer.byteLength(text, 'latin1')}}\r\n${text}`;
}
