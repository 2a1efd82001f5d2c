import { registrableDomain } from '../domain/domain';
import { LEGAL_FORMS } from './legalForms';

/**
 * A company's name as its domain tells it: `kestrel-sound-harbour.example` gives "Kestrel Sound Harbour". Short names
 * without a vowel are taken for initials.
 *
 * @returns null when no one can register the domain
 */
export function companyNameFromDomain(domain: string): string | null {
  const registrable = registrableDomain(domain);
  const label = registrable?.split('.')[0];
  if (!label || label.startsWith('xn--')) return registrable;
  return label
    .split(/[-_]+/)
    .filter(Boolean)
    .map((word) => (word.length <= 4 && !/[aeiouy]/.test(word) ? word.toUpperCase() : word.charAt(0).toUpperCase() + word.slice(1)))
    .join(' ');
}

const LEGAL_FORM = new RegExp(`\\b(?:${LEGAL_FORMS.join('|')})\\b`, 'g');

/** The form in which the names of companies are compared with domains: `Quay Works Ltd.` and `quay-works.example` are one. */
export const companyKey = (name: string): string =>
  name
    .toLowerCase()
    .replace(LEGAL_FORM, '')
    .replace(/[ \-_.,&']/g, '');

/** The same of a domain, or an empty string where it tells no company. */
export function companyKeyOfDomain(domain: string): string {
  const label = registrableDomain(domain)?.split('.')[0] ?? '';
  return companyKey(label.replace(/[-_]/g, ' '));
}
