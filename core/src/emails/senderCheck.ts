import { domainToAscii, registrableDomain } from '../domain/domain';
import type { HeaderField } from './headers';

/** What a receiving server found when it checked who sent a message. */
export const SENDER_CHECKS = ['passed', 'failed', 'none'] as const;
export type SenderCheck = (typeof SENDER_CHECKS)[number];

/** For whom a message was received: whose lists are ours, and whose servers’ results count. */
export interface Receiver {
  /** Domains of the team. */
  ownDomains: readonly string[];
  /** Domains of the servers that receive for the mailbox, in ASCII. */
  servers: readonly string[];
}

/** Where a mailbox receives: under the team's domains, that of its address, and that of the server from which it is read. */
export function receiverOf(ownDomains: readonly string[], address: string, imapHost: string | null): Receiver {
  const own = ownDomains.map(domainToAscii);
  const host = imapHost === null ? '' : domainToAscii(imapHost);
  const servers = [...own, domainToAscii(address.slice(address.lastIndexOf('@') + 1)), registrableDomain(host) ?? host];
  return { ownDomains: own, servers: [...new Set(servers)].filter((domain) => domain !== '') };
}

const FIELD = 'authentication-results';
/** More than servers write. */
const LONGEST = 10_000;
const RESULT = /^([a-z][a-z0-9-]*)(?:\/\d+)?\s*=\s*([a-z]+)/i;
const PROPERTY = /\b(header\.(?:d|from|i)|smtp\.(?:mailfrom|mail))\s*=\s*"?([^\s";]+)/gi;

interface MethodResult {
  method: string;
  result: string;
  /** Domains that the result is about. */
  domains: string[];
}

/**
 * Whether the server that received a message could confirm its sender (RFC 8601): DMARC where it was checked, else DKIM or SPF for the domain that From
 * shows. “none” where it found nothing, or no server that is believed says anything.
 *
 * A field counts by the name of the server that wrote it, and only above the next Received field: what stands below came with the message. A server takes
 * out what others wrote in its name (RFC 8601, section 5).
 */
export function senderCheck(fields: readonly HeaderField[], fromDomain: string, servers: readonly string[]): SenderCheck {
  const results = believedResults(fields, servers);
  const dmarc = results.find(({ method }) => method === 'dmarc');
  if (dmarc?.result === 'pass') return 'passed';
  if (dmarc?.result === 'fail') return 'failed';
  const proofs = results.filter(({ method }) => method === 'dkim' || method === 'spf');
  if (proofs.some(({ result, domains }) => result === 'pass' && domains.some((domain) => isAligned(domain, fromDomain)))) return 'passed';
  const failed = (method: string): boolean => {
    const found = proofs.filter((proof) => proof.method === method);
    return found.length > 0 && found.every(({ result }) => result === 'fail' || result === 'policy' || result === 'softfail');
  };
  return failed('dkim') && failed('spf') ? 'failed' : 'none';
}

/** Whether two domains are of one company (relaxed alignment, RFC 7489, section 3.1). */
export function isAligned(domain: string, other: string): boolean {
  if (domain === '' || other === '') return false;
  return domain === other || (registrableDomain(domain) ?? domain) === (registrableDomain(other) ?? other);
}

export const isUnder = (domain: string, tops: readonly string[]): boolean =>
  tops.some((top) => domain === top || domain.endsWith(`.${top}`));

function believedResults(fields: readonly HeaderField[], servers: readonly string[]): MethodResult[] {
  const results: MethodResult[] = [];
  let found = false;
  for (const { name, value } of fields) {
    if (found && name === 'received') break;
    if (name !== FIELD) continue;
    const [server = '', ...parts] = withoutComments(value.slice(0, LONGEST)).split(';');
    const id = domainToAscii(server.trim().split(/\s+/)[0] ?? '');
    if (id === '' || !isUnder(id, servers)) continue;
    found = true;
    results.push(...parts.flatMap(readResult));
  }
  return results;
}

function readResult(part: string): MethodResult[] {
  const [, method, result] = RESULT.exec(part.trim()) ?? [];
  if (method === undefined || result === undefined) return [];
  const domains = [...part.matchAll(PROPERTY)].map(([, , value = '']) => domainToAscii(value.slice(value.lastIndexOf('@') + 1)));
  return [{ method: method.toLowerCase(), result: result.toLowerCase(), domains: domains.filter((domain) => domain !== '') }];
}

/** Comments in brackets are for people; they nest. */
function withoutComments(value: string): string {
  let depth = 0;
  let plain = '';
  for (const character of value) {
    if (character === '(') depth += 1;
    else if (character === ')') depth = Math.max(0, depth - 1);
    else if (depth === 0) plain += character;
  }
  return plain;
}
