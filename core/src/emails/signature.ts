import { isSupportedCountry, parsePhoneNumberFromString } from 'libphonenumber-js/min';
import type { CountryCode } from 'libphonenumber-js/min';
import { bodyParts } from './bodyParts';
import { companyNameFromDomain } from '../person/companyName';
import { nameKey } from '../person/nameKey';
import { personName, plainWords } from '../person/personName';

/** What a signature block says of the person who wrote; empty where it is not certain. */
export interface SignatureFacts {
  title: string;
  /** International form, such as `+44 20 7946 0018`. */
  phones: string[];
  company: string;
}

const NOTHING: SignatureFacts = { title: '', phones: [], company: '' };
const MAX_LINES = 12;
const PHONE_LINE = /(?:\+|\b00|\(0|\b0)[\d\s().\/-]{6,}\d/;
const FAX = /\bfax\b|^\s*f\s*[:.]/i;
/** Words by which a line says where someone is, not what they are. */
const PLACE = /\b(?:street|strasse|straße|road|rue|avenue|p\.?\s?o\.? box|postbus|floor|gate|harbour road|vat|reg\.? no)\b/i;

/**
 * Reads title, telephone numbers and company from the signature under an email's own text.
 *
 * Certain only: the signature must hold the person's name; the title stands right under it or behind it; a company counts where it fits
 * the domain; numbers count in international form, or in national form where the domain names the country.
 *
 * @param name the person's name as it is known
 */
export function readSignature(text: string, name: string, domain: string): SignatureFacts {
  const lines = linesOf(text);
  const key = nameKey(name);
  const at = key === '' ? -1 : lines.findIndex((line) => startsWithName(line, key));
  if (at < 0) return NOTHING;
  const own = afterName(lines[at] ?? '', key);
  const company = companyNameFromDomain(domain);
  const found = (own ? [own] : lines.slice(at + 1, at + 2))
    .map((line) => titleAndCompany(line, company))
    .find((item) => item.title || item.company);
  const later = lines.slice(at + 1).find((line) => company !== null && nameKey(line) === nameKey(company));
  return {
    title: found?.title ?? '',
    company: found?.company || later || '',
    phones: [...new Set(lines.slice(at).flatMap((line) => phonesIn(line, countryOf(domain))))],
  };
}

/** The lines of the signature, without what decorates them. */
function linesOf(text: string): string[] {
  const block = bodyParts(text)
    .filter((part) => part.kind === 'signature')
    .map((part) => part.text)
    .join('\n');
  return block
    .split('\n')
    .map((line) => line.replace(/^[\s*_>|-]+|[\s*_|-]+$/g, '').trim())
    .filter(Boolean)
    .slice(0, MAX_LINES);
}

const NAME = /^\p{L}[\p{L}'’.-]*(?: \p{L}[\p{L}'’.-]*){1,3}$/u;
/** Below the name stand title and company; the name is one of the first lines. */
const NAME_LINES = 3;

/**
 * The name with which the sender of an email signs, or an empty string. Certain only: one of the first lines of the signature, and the local part of
 * the address is made of it (`ida.brandt`, `ibrandt`, `brandt`, `ib`).
 */
export function nameInSignature(text: string, address: string): string {
  const local = plainWords(address.slice(0, address.lastIndexOf('@'))).join('');
  if (local.length < 2) return '';
  for (const line of linesOf(text).slice(0, NAME_LINES)) {
    const written = (line.split(/[,|•·(]|\s[-–—]\s/)[0] ?? '').trim();
    if (NAME.test(written) && formsOf(plainWords(written)).includes(local)) return personName(written, address).name;
  }
  return '';
}

/** Local parts that people make of a name. */
function formsOf(words: readonly string[]): string[] {
  const [first = '', ...others] = words;
  const f = first.charAt(0);
  // A family name of several words stands whole, or is its last word.
  const families = [...new Set([others.join(''), words.at(-1) ?? ''])].filter(Boolean);
  return [
    first,
    ...families.flatMap((last) => [first + last, last + first, f + last, last + f, first + last.charAt(0), f + last.charAt(0), last]),
  ];
}

/** "Ida Brandt", or with something behind a comma or a bar. */
function startsWithName(line: string, key: string): boolean {
  return nameKey(line) === key || nameKey(line.split(/[,|•·]|\s[-–—]\s/)[0] ?? '') === key;
}

function afterName(line: string, key: string): string {
  if (nameKey(line) === key) return '';
  const parts = line.split(/\s*[,|•·]\s*|\s[-–—]\s/);
  return nameKey(parts[0] ?? '') === key ? parts.slice(1).join(', ') : '';
}

function titleAndCompany(line: string, company: string | null): { title: string; company: string } {
  if (line.length > 90 || /[@\d]|https?:|www\./i.test(line) || PLACE.test(line)) return { title: '', company: '' };
  const parts = line.split(/\s*[,|•·]\s*|\s[-–—]\s|\s+(?:at|bei|chez)\s+/).filter(Boolean);
  const isCompany = (part: string): boolean => company !== null && nameKey(part) === nameKey(company);
  const theirs = parts.find(isCompany) ?? '';
  const title = parts.filter((part) => !isCompany(part)).join(', ');
  // Without the company beside it, one plain phrase is a title; more is a guess.
  const plain = /^\p{L}[\p{L}\s.&/'’()-]{2,58}$/u.test(title) && title.split(/\s+/).length <= 6;
  return { title: plain || (theirs !== '' && title.length <= 60) ? title : '', company: theirs };
}

function countryOf(domain: string): CountryCode | null {
  const last = domain.slice(domain.lastIndexOf('.') + 1).toUpperCase();
  const code = last === 'UK' ? 'GB' : last;
  return isSupportedCountry(code) ? code : null;
}

function phonesIn(line: string, country: CountryCode | null): string[] {
  if (FAX.test(line)) return [];
  const written = PHONE_LINE.exec(line)?.[0];
  if (!written) return [];
  const number = parsePhoneNumberFromString(written, country ?? undefined);
  if (number?.isValid()) return [number.formatInternational()];
  // A country code that no plan knows: kept as written where it can only be an international number (E.164: 8 to 15 digits).
  const digits = written.replace(/\D/g, '');
  return written.startsWith('+') && digits.length >= 8 && digits.length <= 15
    ? [
        written
          .replace(/[().\/-]/g, ' ')
          .replace(/\s+/g, ' ')
          .trim(),
      ]
    : [];
}
