/** The form in which codes are compared: `QH-2041`, `qh 2041` and `QH2041` are one. */
export const codeKey = (code: string): string => code.toUpperCase().replace(/[-_/.#:\s]/g, '');

const isSeparator = (unit: number): boolean =>
  unit === 0x2d || unit === 0x5f || unit === 0x2f || unit === 0x2e || unit === 0x23 || unit === 0x3a || unit === 0x20;

/** How long the key of a code is, without making it; null for what is not plain ASCII, where case and spaces may change lengths. */
export function codeKeyLength(code: string): number | null {
  let length = 0;
  for (let at = 0; at < code.length; at += 1) {
    const unit = code.charCodeAt(at);
    if (unit > 0x7e || unit < 0x20) return null;
    if (!isSeparator(unit)) length += 1;
  }
  return length;
}
