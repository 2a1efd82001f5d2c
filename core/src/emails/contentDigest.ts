import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

/** What an email says, as its parts were read. */
export interface EmailContent {
  subject: string;
  /** Plain text part, or an empty string. */
  text: string;
  /** Text of the HTML part, or an empty string. */
  htmlText: string;
  /** The HTML part, for the addresses that its links lead to. */
  html: string;
  /** Contents of all attachments, inline ones too. */
  attachments: readonly Uint8Array[];
}

export interface ContentDigest {
  digest: string;
  isGuessable: boolean;
}

/**
 * A digest of what an email says, the same for all its copies.
 *
 * Copies travel by different ways: lines are folded, characters encoded in another way, a plain part is added to HTML. So the words count
 * (letters and digits), the targets of links, and the bytes of attachments; white space and punctuation do not. What mailing lists and
 * gateways add is left out ({@link withoutAdditions}, {@link linkTarget}). Whoever does not have the whole content cannot make a copy with the
 * same digest.
 *
 * @returns 64 hexadecimal digits, and whether so little is said that a stranger could guess it
 */
export function contentDigest(content: EmailContent): ContentDigest {
  const text = withoutAdditions(content.text);
  const plain = wordsOf(text);
  const html = wordsOf(withoutAdditions(content.htmlText));
  const links = new Set([...linksIn(text), ...linksIn(content.html)].map(linkTarget).filter((target) => !OF_LIST.test(target)));
  const whole = digest([
    wordsOf(content.subject.replace(LIST_MARK, '')),
    plain === html || html === '' ? plain : plain === '' ? html : `${plain}|${html}`,
    [...links].sort().join(' '),
    content.attachments
      .map((bytes) => bytesToHex(sha256(bytes)))
      .sort()
      .join(' '),
  ]);
  return { digest: whole, isGuessable: content.attachments.length === 0 && Math.max(plain.length, html.length) < GUESSABLE };
}

/** Fewer letters and digits than this can be guessed. */
const GUESSABLE = 80;

export function digest(parts: readonly string[]): string {
  return bytesToHex(sha256(utf8ToBytes(parts.join('\n'))));
}

/** Letters and digits of a text, without links. */
function wordsOf(text: string): string {
  return text
    .normalize('NFKC')
    .replace(LINK, ' ')
    .replace(/\[(?:cid|image):[^\]\n]{0,200}\]/gi, ' ')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '');
}

const LINK = /\bhttps?:\/\/[^\s<>"'()[\]]+/gi;
const MOST_LINKS = 2_000;
/** Links that a list puts under its emails. */
const OF_LIST = /unsubscribe|listinfo/i;

function linksIn(text: string): string[] {
  const links: string[] = [];
  for (const [link] of text.matchAll(LINK)) if (links.push(link) === MOST_LINKS) break;
  return links;
}

/**
 * Where a link leads. Gateways that check links at the click wrap them: `https://check.example/?url=https%3A%2F%2F…`. Then the wrapped one
 * counts.
 */
export function linkTarget(link: string): string {
  let target = link.replace(/&amp;/g, '&');
  for (let depth = 0; depth < 3; depth += 1) {
    const wrapped = /[?&/=](https?(?:%3a|:)(?:%2f|\/){2}[^&]+)/i.exec(target.slice(8));
    if (!wrapped?.[1]) break;
    target = decoded(wrapped[1]);
  }
  return target.replace(/[.,;:!?]+$/, '').replace(/\/$/, '');
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** `[pumps] ` before a subject: the mark of a mailing list, or of a gateway (`[EXTERNAL]`). */
const LIST_MARK = /\[[^\]\n]{1,40}\]/g;

/**
 * A text without what is added on the way, where it can be recognised for certain:
 * - a mailing list's footer: a line of underscores or dashes, and after it at most ten lines that name the list or how to leave it;
 * - a gateway's warning in the first five lines: that the email came from another organisation;
 * - the notice at the end that a gateway puts under every email: that it is confidential, or was scanned.
 */
export function withoutAdditions(text: string): string {
  const lines = text.split('\n');
  return withoutNotice(withoutFooter(withoutWarning(lines))).join('\n');
}

const WARNING =
  /^\W*(?:\[?external\]?\W*$|(?:(?:caution|warning|attention|achtung|vorsicht|external)\b\W*)?(?:external e-?mail|externe e-?mail|this (?:e-?mail|message) (?:originated|was sent|came|comes|is) from (?:outside|an external)|diese (?:e-?mail|nachricht) (?:stammt|kommt|wurde) von (?:einem |au)|ce (?:message|courriel|mail) provient (?:de l.|d.un)))/i;
const FOOTER_LINE = /^\s*(?:_{10,}|-{10,})\s*$/;
const FOOTER_WORDS = /mailing list|\bunsubscribe|\blistinfo\b|abbestellen|abmelden|désabonner|se désinscrire/i;
const NOTICE =
  /^\W*(?:(?:this|the) (?:e-?mail|message|communication|information)\b|confidentiality notice|disclaimer|diese (?:e-?mail|nachricht)\b|ce (?:message|courriel|mail)\b)/i;
/** What every such notice says: what to do for those whom the email was not meant for. */
const RECEIVED_IN_ERROR =
  /received (?:this|it) .{0,40}(?:in error|by mistake)|not (?:the|an) (?:intended recipient|addressee)|nicht der (?:richtige|beabsichtigte|vorgesehene) (?:adressat|empfänger)|irrtümlich erhalten|reçu .{0,40}par erreur|pas (?:le|son) destinataire/is;
const SCANNED =
  /^\W*(?:this (?:e-?mail|message) (?:has been|was) (?:scanned|checked) (?:for|by|with)\b[\w .,-]{0,80}|scanned (?:for viruses )?by [\w .-]{1,60}|virenfrei\W*)$/i;
const MOST_WARNING = 400;
const MOST_FOOTER = 10;
const MOST_NOTICE = 30;
const MOST_NOTICE_TEXT = 3_000;

function withoutWarning(lines: readonly string[]): readonly string[] {
  const first = lines.findIndex((line) => line.trim() !== '');
  if (first < 0 || !WARNING.test((lines[first] ?? '').slice(0, MOST_WARNING))) return lines;
  const blank = lines.findIndex((line, at) => at > first && line.trim() === '');
  const end = blank < 0 ? first + 1 : blank;
  return lines.slice(first, end).join('\n').length > MOST_WARNING ? lines : lines.slice(end);
}

function withoutFooter(lines: readonly string[]): readonly string[] {
  const from = Math.max(0, lines.length - MOST_FOOTER - 1);
  const at = lines.findIndex((line, place) => place >= from && FOOTER_LINE.test(line));
  if (at < 0 || !lines.slice(at + 1).some((line) => FOOTER_WORDS.test(line.slice(0, 1000)))) return lines;
  return lines.slice(0, at);
}

function withoutNotice(lines: readonly string[]): readonly string[] {
  const kept = lines.filter((line, at) => at < lines.length - 5 || !SCANNED.test(line.slice(0, 200)));
  const from = Math.max(0, kept.length - MOST_NOTICE);
  const at = kept.findIndex((line, place) => place >= from && NOTICE.test(line.slice(0, 200)));
  if (at <= 0) return kept;
  const end = kept.slice(at).join('\n');
  return end.length <= MOST_NOTICE_TEXT && RECEIVED_IN_ERROR.test(end) ? kept.slice(0, at) : kept;
}
