/** What someone typed to add a record that may not be there yet. */
export interface Typed {
  is: 'address' | 'domain' | 'name';
  /** What the record would be called. */
  name: string;
  /** The address, or the domain, in small letters; empty for a name. */
  value: string;
}

const ADDRESS = /^[^\s@,;<>]+@[^\s@,;<>]+\.[a-z0-9-]{2,}$/i;
const DOMAIN = /^(?:[a-z0-9](?:[a-z0-9-]*[a-z0-9])?\.)+[a-z0-9-]{2,}$/i;
/** Written as `Kim Aster <kim@reef.example>`. */
const NAMED = /^(.+?)\s*<([^<>\s]+)>$/;

/** Understands a name, an address with or without a name, or a domain. The names are proposals: they are changed on the record. */
export function whatIsTyped(text: string): Typed {
  const written = text.trim();
  const [, given = '', within = ''] = NAMED.exec(written) ?? [];
  const address = ADDRESS.test(within) ? within : written;
  if (ADDRESS.test(address)) {
    const [local = ''] = address.split('@');
    return {
      is: 'address',
      name: given.replace(/^"|"$/g, '').trim() || inCapitals(local.replace(/\+.*$/, '')),
      value: address.toLowerCase(),
    };
  }
  const domain = written
    .replace(/^https?:\/\//i, '')
    .replace(/^(?:www\.|@)/i, '')
    .replace(/\/.*$/, '');
  if (DOMAIN.test(domain)) return { is: 'domain', name: inCapitals(ownLabel(domain)), value: domain.toLowerCase() };
  return { is: 'name', name: written, value: '' };
}

/** `harbour` of `harbour.example` and of `mail.harbour.co.example`. */
function ownLabel(domain: string): string {
  const labels = domain.toLowerCase().split('.').slice(0, -1);
  const last = labels.at(-1) ?? '';
  return labels.length > 1 && last.length <= 3 ? (labels.at(-2) ?? last) : last;
}

const inCapitals = (words: string): string =>
  words
    .split(/[._-]+/)
    .filter(Boolean)
    .map((word) => `${word[0]?.toUpperCase() ?? ''}${word.slice(1)}`)
    .join(' ');
