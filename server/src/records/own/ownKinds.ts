import { KIND_ICONS } from '@fulvet/contract';
import type { OwnKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { json, rowsOf } from '../../base/db/rows';
import type { Db, Tx } from '../../base/db/database';

const ownKindRow = z.object({
  id: z.number(),
  key: z.string(),
  singular: z.string(),
  plural: z.string(),
  icon: z.enum(KIND_ICONS),
  prefix: z.string(),
  states: json<OwnKind['states']>(),
  has_people: z.boolean(),
  has_account: z.boolean(),
  has_addresses: z.boolean(),
  seen_by_teams: z.array(z.number()),
});

/** The kinds of records that the workspace defines, in order. */
export async function ownKinds(tx: Db | Tx): Promise<OwnKind[]> {
  const rows = await rowsOf(
    tx,
    ownKindRow,
    sql`SELECT id, key, singular, plural, icon, prefix, states, has_people, has_account, has_addresses, seen_by_teams::float8[] FROM own_kinds ORDER BY position, id`,
  );
  return rows.map(
    ({ has_people: hasPeople, has_account: hasAccount, has_addresses: hasAddresses, seen_by_teams: seenByTeams, ...row }) => ({
      ...row,
      hasPeople,
      hasAccount,
      hasAddresses,
      seenByTeams,
    }),
  );
}

/** The kind of this key, or of this name in the singular or plural; case does not count. */
export function kindNamed(kinds: readonly OwnKind[], name: string): OwnKind | undefined {
  const wanted = name.trim().toLowerCase();
  return (
    kinds.find((kind) => kind.key === wanted) ??
    kinds.find((kind) => kind.singular.toLowerCase() === wanted || kind.plural.toLowerCase() === wanted)
  );
}
