import type { Decision } from '@fulvet/core';
import type { Tx } from '../base/db/database';
import { seenDomains } from '../base/db/schema';

/** Notes the external domains of decided mail: a domain is known from when mail with it was first decided. */
export async function noteDomains(tx: Tx, decided: readonly Pick<Decision, 'externalDomains'>[]): Promise<void> {
  const domains = [...new Set(decided.flatMap(({ externalDomains }) => externalDomains))].sort();
  if (domains.length > 0)
    await tx
      .insert(seenDomains)
      .values(domains.map((domain) => ({ domain })))
      .onConflictDoNothing();
}
