/** Letters that have no mark to take off, as people write them in addresses. */
const WRITTEN: Readonly<Record<string, string>> = { ß: 'ss', ł: 'l', ø: 'o', đ: 'd', ð: 'd', þ: 'th', æ: 'ae', œ: 'oe', ı: 'i' };
const SPECIAL = /[ßłøđðþæœı]/g;

/** A text in small letters without marks: `Łukasz Sjöqvara` as `lukasz sjoqvara`. */
export const plainLetters = (text: string): string =>
  text
    .normalize('NFKD')
    .toLowerCase()
    .replace(/\p{M}/gu, '')
    .replace(SPECIAL, (letter) => WRITTEN[letter] ?? letter);
