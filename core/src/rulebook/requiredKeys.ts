import { domainAndParents, domainToAscii } from '../domain/domain';
import type { Participant } from '../emails/emailFacts';
import type { Condition, Leaf } from './condition';
import { membersOf } from './condition';

/**
 * Keys of which an email must have at least one for the condition to hold, or null where it can hold without any. By them the
 * rules that can speak are found without asking all.
 */
export function requiredKeys(condition: Condition, personKey: (address: string) => string): ReadonlySet<string> | null {
  const group = membersOf(condition);
  if (group === null) {
    const leaf = condition as Leaf;
    if (leaf.fact !== 'participant') return null;
    if (leaf.test.is === 'address') return new Set([`@${personKey(leaf.test.value.toLowerCase())}`]);
    return leaf.test.is === 'domain' ? new Set([domainToAscii(leaf.test.value)]) : null;
  }
  const keys = group.members.map((member) => requiredKeys(member, personKey));
  if (group.how === 'none') return null;
  if (group.how === 'any') {
    if (keys.length === 0 || keys.includes(null)) return null;
    return new Set(keys.flatMap((key) => [...(key ?? [])]));
  }
  return keys.reduce((best, key) => (key !== null && (best === null || key.size < best.size) ? key : best), null);
}

/** The keys that an email's participants have. */
export function keysOf(externals: readonly Participant[], personKey: (address: string) => string): Set<string> {
  const keys = new Set<string>();
  for (const external of externals) {
    keys.add(`@${personKey(external.address)}`);
    for (const domain of domainAndParents(external.domain)) keys.add(domain);
  }
  return keys;
}
