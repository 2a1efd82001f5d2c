const ENTITIES: Record<string, string> = {
  amp: '&',
  lt: '<',
  gt: '>',
  quot: '"',
  apos: "'",
  nbsp: ' ',
  auml: 'ä',
  ouml: 'ö',
  uuml: 'ü',
  Auml: 'Ä',
  Ouml: 'Ö',
  Uuml: 'Ü',
  szlig: 'ß',
  eacute: 'é',
  egrave: 'è',
  agrave: 'à',
  ccedil: 'ç',
  ndash: '–',
  mdash: '—',
  hellip: '…',
  euro: '€',
  lsquo: '‘',
  rsquo: '’',
  ldquo: '“',
  rdquo: '”',
  bull: '•',
  copy: '©',
  deg: '°',
};
const BLOCK = /^(?:p|div|br|tr|li|h[1-6]|table|ul|ol|pre|hr|section|article|header|footer|dd|dt)$/;
const HIDDEN = /^(?:style|script|head|title|template|noscript)$/;

/**
 * The readable text of an HTML body: for search, previews and the plain view. Quoted blocks become `>` lines, so that the
 * quote is recognised as in plain text. It is not a sanitiser: its result is text and must be shown as text.
 */
export function htmlToText(html: string): string {
  const lines: string[] = [''];
  let quoteDepth = 0;
  let hiddenUntil: string | null = null;
  const breakLine = (): void => {
    if (lines.at(-1) !== '') lines.push('');
  };
  const write = (text: string): void => {
    const last = lines.length - 1;
    const line = lines[last] ?? '';
    const plain = line === '' ? text.replace(/^\s+/, '') : text;
    if (plain === '') return;
    lines[last] = line === '' && quoteDepth > 0 ? `${'>'.repeat(quoteDepth)} ${plain}` : line + plain;
  };

  for (const piece of pieces(html)) {
    if (!piece.startsWith('<')) {
      if (hiddenUntil === null) write(decodeEntities(piece.replace(/\s+/g, ' ')));
      continue;
    }
    const tag = /^<(\/?)([a-z][a-z0-9]*)/i.exec(piece);
    if (!tag) continue;
    const closing = tag[1] === '/';
    const name = (tag[2] ?? '').toLowerCase();
    if (hiddenUntil !== null) {
      if (closing && name === hiddenUntil) hiddenUntil = null;
      continue;
    }
    if (HIDDEN.test(name) && !closing && !piece.endsWith('/>')) hiddenUntil = name;
    else if (name === 'blockquote') {
      breakLine();
      quoteDepth = Math.max(0, Math.min(20, quoteDepth + (closing ? -1 : 1)));
    } else if (BLOCK.test(name)) {
      if (name === 'br') lines.push('');
      else if (name === 'p' && closing) lines.push('', '');
      else breakLine();
    } else if (name === 'td' || name === 'th') write(' ');
  }
  return lines
    .map((line) => line.trimEnd())
    .join('\n')
    .replace(/\n{3,}/g, '\n\n')
    .trim();
}

/** Tags and the text between them; a comment or an unclosed tag is skipped. */
function* pieces(html: string): Generator<string> {
  let at = 0;
  while (at < html.length) {
    const open = html.indexOf('<', at);
    if (open < 0) {
      yield html.slice(at);
      return;
    }
    if (open > at) yield html.slice(at, open);
    if (html.startsWith('<!--', open)) {
      const end = html.indexOf('-->', open + 4);
      if (end < 0) return;
      at = end + 3;
      continue;
    }
    const close = html.indexOf('>', open + 1);
    if (close < 0) return;
    yield html.slice(open, close + 1);
    at = close + 1;
  }
}

function decodeEntities(text: string): string {
  if (!text.includes('&')) return text;
  return text.replace(/&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|([a-z]{2,8}));/gi, (whole, decimal?: string, hex?: string, name?: string) => {
    if (name) return ENTITIES[name] ?? ENTITIES[name.toLowerCase()] ?? whole;
    const code = decimal ? Number(decimal) : Number.parseInt(hex ?? '', 16);
    return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : whole;
  });
}
