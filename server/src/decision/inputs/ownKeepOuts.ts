import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { Participant } from '@fulvet/core';
import { domainAndParents, withoutTag } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';

/** What members keep out of their own mail, by the member's id: `@address` and domains. */
export type OwnKeepOuts = ReadonlyMap<number, ReadonlySet<string>>;

const ownKeepOutRow = z.object({ user_id: z.number(), keys: z.array(z.string()) });

export async function loadOwnKeepOuts(tx: Tx): Promise<OwnKeepOuts> {
  const rows = await rowsOf(
    tx,
    ownKeepOutRow,
    sql`SELECT user_id, array_agg(CASE kind WHEN 'address' THEN '@' || value ELSE value END) AS keys FROM own_keep_outs GROUP BY 1`,
  );
  return new Map(rows.map((row) => [row.user_id, new Set(row.keys)]));
}

/** Under which keys members say something of a participant: `@address`, with and without its +tag, and the domains above it. */
export const keysOfParticipant = ({ address, domain }: Pick<Participant, 'address' | 'domain'>): string[] => [
  `@${address}`,
  `@${withoutTag(address)}`,
  ...domainAndParents(domain),
];

const NOBODY: readonly string[] = [];

/** Participants whom everyone in whose mailbox an email lies keeps out; a colleague who does not has it come in. */
export function keptOutByOwners(
  ownerIds: readonly number[],
  participants: readonly Participant[],
  keepOuts: OwnKeepOuts,
): readonly string[] {
  if (keepOuts.size === 0 || ownerIds.length === 0) return NOBODY;
  const all = ownerIds.flatMap((id) => keepOuts.get(id) ?? []);
  if (all.length < ownerIds.length) return NOBODY;
  const isOut = ({ address, domain }: Participant): boolean => {
    const keys = keysOfParticipant({ address, domain });
    return all.every((set) => keys.some((key) => set.has(key)));
  };
  return [...new Set(participants.filter(isOut).map((participant) => participant.address))];
}
