/** A number of a record of an own kind, as a text has it. */
export interface WrittenNumber {
  /** In its one form: `CASE-12`. */
  code: string;
  /** Only a blank stands between prefix and number, as in “in case 12 gauges are missing”. */
  isLoose: boolean;
}

/** A prefix of letters and digits, what may stand before the number, and the number; neither within a longer word nor within a longer number. */
const NUMBER = /(?<![\p{L}\p{N}])(\p{L}[\p{L}\p{N}]{1,9}?)([-_/.#:]|[ \t])?([1-9]\d{0,8})(?![\p{L}\p{N}])(?!-\d)/giu;

/** Whatever in a text may be the number of a record of an own kind, however it is written. @param text with hyphens for all dashes */
export function numbersIn(text: string): WrittenNumber[] {
  if (!/\d/.test(text)) return [];
  return [...text.matchAll(NUMBER)].map(([, prefix = '', between = '', number = '']) => ({
    code: `${prefix.toUpperCase()}-${number}`,
    isLoose: between.trim() === '' && between !== '',
  }));
}
