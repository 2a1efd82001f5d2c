import { registrableDomain } from '../domain/domain';

/**
 * A company's name as its domain tells it: `kestrel-sound-harbour.example` gives "Kestrel Sound Harbour". Short names
 * without a vowel are taken for initials.
 *
 * @returns null when nobody can register the domain
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
