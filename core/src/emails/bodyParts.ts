/** A stretch of an email's text. */
export interface BodyPart {
  kind: 'own' | 'quote' | 'signature';
  text: string;
}

const QUOTED_LINE = /^\s{0,3}(?:>|\|)/;
// "On 4 May, Ida Brandt wrote:", and the same in other languages; may run over two lines.
const ATTRIBUTION =
  /(?:\b(?:wrote|writes|schrieb|a écrit|ha scritto|escribió|escreveu|skrev|schreef|kirjoitti|napisał\(?a?\)?|napsal\(?a?\)?)\b.{0,120}|<[^<>\s]+@[^<>\s]+>\s*)[:：]\s*$/iu;
const ATTRIBUTION_START = /^\s*(?:On|Am|Le|El|Il|Em|Den|Op|Dne|W dniu)\b|^\s*\d{1,4}[./-]\d{1,2}[./-]\d{1,4}/u;
const ORIGINAL_MARK =
  /^\s*-{2,}\s*(?:original message|ursprüngliche nachricht|message d'origine|mensaje original|messaggio originale|forwarded message|weitergeleitete nachricht|oorspronkelijk bericht|original-nachricht)\s*-{2,}\s*$/iu;
const HEADER_LINE = /^\s*\*?(?:From|Von|De|Da|Van|Fra|Från)\*?\s?:\s.*\S/u;
const HEADER_FOLLOWS =
  /^\s*\*?(?:Sent|Date|To|Subject|Gesendet|Datum|An|Betreff|Envoyé|Date|À|Objet|Enviado|Para|Asunto|Inviato|A|Oggetto|Verzonden|Aan|Onderwerp|Sendt|Til|Emne|Skickat|Till|Ämne)\*?\s?:/u;
const SIGNATURE_MARK = /^--\s?$/;
const CLOSING =
  /^\s*(?:(?:kind|best|warm|many|with (?:kind|best)|warmest)\s+(?:regards|wishes|thanks)|regards|cheers|sincerely|yours(?: \w+)?|thanks(?: and regards)?|thank you|best|all the best|mit freundlichen grüßen|freundliche grüße|viele grüße|beste grüße|herzliche grüße|gruß|mfg|cordialement|bien cordialement|saludos(?: cordiales)?|un saludo|atentamente|cordiali saluti|met vriendelijke groet(?:en)?|med vennlig hilsen|med vänlig hälsning|hälsningar|mvh|sent from my .{1,40})\s*[,.!]?\s*$/iu;
const MAX_SIGNATURE_LINES = 10;
const MAX_LINES = 20_000;

/**
 * Tells what the sender wrote in this email from what it quotes and from the signature.
 *
 * A quote is a run of `>` lines with the attribution line before it, or everything behind an "Original message" mark or a
 * copied header block. The signature begins at `-- ` (RFC 3676 section 4.3) or at a closing phrase near the end of the own
 * text. Answers written between quoted lines stay own text, in their place. Joined, the parts give the whole text again,
 * apart from line ends.
 */
export function bodyParts(text: string): BodyPart[] {
  const lines = text.split(/\r\n|\n|\r/);
  const parts: { kind: BodyPart['kind']; lines: string[] }[] = [];
  const add = (kind: BodyPart['kind'], line: string): void => {
    const last = parts.at(-1);
    if (last?.kind === kind) last.lines.push(line);
    else parts.push({ kind, lines: [line] });
  };

  const lastFilled = lines.findLastIndex((line) => line.trim() !== '');
  let restIsQuote = false;
  let inSignature = false;
  lines.forEach((line, at) => {
    restIsQuote ||= at >= MAX_LINES || startsQuotedRest(lines, at);
    if (restIsQuote || QUOTED_LINE.test(line) || leadsToQuote(lines, at)) {
      inSignature = false;
      add('quote', line);
      return;
    }
    if (SIGNATURE_MARK.test(line)) inSignature = true;
    if (line.trim() === '' && parts.at(-1)?.kind === 'quote' && (at > lastFilled || nextFilledIsQuote(lines, at))) add('quote', line);
    else add(inSignature ? 'signature' : 'own', line);
  });
  return splitClosing(parts).map((part) => ({ kind: part.kind, text: part.lines.join('\n') }));
}

/** The own text alone, trimmed: for previews and for rules about the text. */
export function ownText(text: string): string {
  return bodyParts(text)
    .filter((part) => part.kind === 'own')
    .map((part) => part.text.trim())
    .filter(Boolean)
    .join('\n\n');
}

function startsQuotedRest(lines: readonly string[], at: number): boolean {
  const line = lines[at] ?? '';
  if (ORIGINAL_MARK.test(line)) return true;
  if (!HEADER_LINE.test(line)) return false;
  const following = lines.slice(at + 1, at + 5).filter((next) => HEADER_FOLLOWS.test(next));
  return following.length >= 2;
}

/** True for an attribution (of one or two lines) that a quoted line follows. */
function leadsToQuote(lines: readonly string[], at: number): boolean {
  const line = lines[at] ?? '';
  if (line.length > 300 || line.trim() === '') return false;
  if (ATTRIBUTION.test(line)) return nextFilledIsQuote(lines, at);
  if (!ATTRIBUTION_START.test(line)) return false;
  return ATTRIBUTION.test(`${line} ${lines[at + 1] ?? ''}`) && nextFilledIsQuote(lines, at + 1);
}

function nextFilledIsQuote(lines: readonly string[], at: number): boolean {
  for (let next = at + 1; next < Math.min(lines.length, at + 4); next += 1) {
    const line = lines[next] ?? '';
    if (line.trim() !== '') return QUOTED_LINE.test(line);
  }
  return false;
}

/** Cuts the last stretch of own text at a closing phrase when only a few short lines follow it. */
function splitClosing(parts: { kind: BodyPart['kind']; lines: string[] }[]): { kind: BodyPart['kind']; lines: string[] }[] {
  if (parts.some((part) => part.kind === 'signature')) return parts;
  return parts.flatMap((part, position) => {
    const isLastOwn =
      part.kind === 'own' && !parts.slice(position + 1).some((later) => later.kind === 'own' && later.lines.some((line) => line.trim()));
    if (!isLastOwn) return [part];
    const from = part.lines.findLastIndex((line) => CLOSING.test(line));
    if (from < 1) return [part];
    const tail = part.lines.slice(from).filter((line) => line.trim());
    if (tail.length > MAX_SIGNATURE_LINES || tail.some((line) => line.length > 100)) return [part];
    if (!part.lines.slice(0, from).some((line) => line.trim())) return [part];
    return [
      { kind: 'own' as const, lines: part.lines.slice(0, from) },
      { kind: 'signature' as const, lines: part.lines.slice(from) },
    ];
  });
}
