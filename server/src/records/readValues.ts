import { addressKey, domainToAscii, registrableDomain } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';

/** Addresses separated by semicolons in comparable form, or why they cannot be taken. */
export function readAddresses(text: string, rulebook: CompiledRulebook): string[] | string {
  const found: string[] = [];
  for (const written of text
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean)) {
    const key = addressKey(written, { tagsTellApart: rulebook.tagsTellApart });
    if (!key || /\s/.test(written) || !key.domain.includes('.')) return `“${written}” is not an address such as ida@harbour.example.`;
    if (rulebook.isOurs(key.key, key.domain)) return `${written} is one of ours; colleagues are not kept as contacts or leads.`;
    if (!found.includes(key.key)) found.push(key.key);
  }
  return found;
}

/** Domains separated by semicolons, also written as links, or why they cannot be taken. */
export function readDomains(text: string, rulebook: CompiledRulebook): string[] | string {
  const found: string[] = [];
  for (const written of text
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean)) {
    const domain = domainToAscii(
      written
        .replace(/^https?:\/\//i, '')
        .replace(/^www\./i, '')
        .replace(/[/?#].*$/, '')
        .replace(/^@/, ''),
    );
    if (!domain || registrableDomain(domain) === null) return `“${written}” is not a domain such as harbour.example.`;
    if (rulebook.isPublicProvider(domain)) return `${domain} is a public mail provider and cannot stand for a company.`;
    if (rulebook.isOurs(`x@${domain}`, domain)) return `${domain} is one of our own domains.`;
    if (!found.includes(domain)) found.push(domain);
  }
  return found;
}

/** Puts open, amount and date into their one form in place; returns the reason where one cannot be read. */
export function normaliseDeal(values: Record<string, string>): string | null {
  for (const date of [values.opened_on, values.closed_on])
    if (date && (!/^\d{4}-\d{2}-\d{2}$/.test(date) || Number.isNaN(Date.parse(date)))) return `“${date}” is not a date such as 2026-05-04.`;
  if (values.amount) {
    const amount = readAmount(values.amount);
    if (amount === null) return `“${values.amount}” is not an amount such as 12500.50.`;
    values.amount = String(amount);
  }
  const open = (values.open ?? '').toLowerCase();
  if (/^(?:yes|y|true|1|open)$/.test(open)) values.open = 'yes';
  else if (/^(?:no|n|false|0|closed)$/.test(open)) values.open = 'no';
  else if (open !== '') return `“${values.open ?? ''}” is not yes or no.`;
  else values.open = values.closed_on ? 'no' : 'yes';
  return null;
}

/** `12,500.50`, `12.500,50`, `12 500`, `12500.5`. */
function readAmount(text: string): number | null {
  let plain = text.replace(/[\s'’\u00a0]/g, '').replace(/^[^\d-]{1,3}/, '');
  const comma = plain.lastIndexOf(',');
  const dot = plain.lastIndexOf('.');
  if (comma >= 0 && dot >= 0) plain = comma > dot ? plain.replaceAll('.', '').replace(',', '.') : plain.replaceAll(',', '');
  else if (comma >= 0) plain = /,\d{3}(?:,|$)/.test(plain) ? plain.replaceAll(',', '') : plain.replace(',', '.');
  else if ((plain.match(/\./g) ?? []).length > 1) plain = plain.replaceAll('.', '');
  return /^-?\d+(?:\.\d+)?$/.test(plain) ? Number(plain) : null;
}
