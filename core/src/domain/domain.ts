import { getDomain } from 'tldts';

const PLAIN_ASCII_HOST = /^[a-z0-9_](?:[a-z0-9_-]*[a-z0-9_])?(?:\.[a-z0-9_](?:[a-z0-9_-]*[a-z0-9_])?)*$/;

/**
 * A domain in lower-case ASCII form (IDNA, RFC 5891), without a final dot.
 *
 * @returns an empty string when the text cannot be a domain; an address literal such as `[192.0.2.1]` is kept as it is
 */
export function domainToAscii(domain: string): string {
  const lower = domain.trim().toLowerCase().replace(/\.$/, '');
  if (PLAIN_ASCII_HOST.test(lower)) return lower;
  if (/^\[[0-9a-f:.]+\]$/.test(lower)) return lower;
  if (lower === '' || /[\s/?#@:\\%<>[\]^|]/.test(lower)) return '';
  try {
    return new URL(`http://${lower}/`).hostname;
  } catch {
    return '';
  }
}

/**
 * The part of a domain that a company registers, by the Public Suffix List: `mail.north.harbour.example` gives
 * `harbour.example`.
 *
 * @param domain ASCII domain
 * @returns null for a public suffix itself, a bare host name or an address literal
 */
export function registrableDomain(domain: string): string | null {
  return getDomain(domain, { allowPrivateDomains: true, validateHostname: false });
}

/** The domain and the domains above it, longest first, down to two labels: `a.b.c.example` gives `a.b.c.example`, `b.c.example`, `c.example`. */
export function* domainAndParents(domain: string): Generator<string> {
  yield domain;
  let at = domain.indexOf('.');
  while (at >= 0) {
    const rest = domain.slice(at + 1);
    if (!rest.includes('.')) return;
    yield rest;
    at = domain.indexOf('.', at + 1);
  }
}
