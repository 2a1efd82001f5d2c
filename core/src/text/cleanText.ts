/**
 * Text that every store can hold: NUL and lone surrogates become U+FFFD (PostgreSQL refuses the first in text and the
 * second in JSON).
 */
export function cleanText(text: string): string {
  const wellFormed = text.isWellFormed() ? text : text.toWellFormed();
  return wellFormed.includes('\u0000') ? wellFormed.replaceAll('\u0000', '\ufffd') : wellFormed;
}
