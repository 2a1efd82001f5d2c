import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { Refusal, isRefusal } from '../base/refusal';
import type { RepairRequest } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { RulebookInForce } from '../rulebook/rulebookInForce';
import { noteChanges } from '../records/recordLog';
import { outsideAddress } from '../rulebook/outsideAddress';

/** An address that a repair gave to someone on record. */
export interface SecondAddress {
  kind: 'contact' | 'lead';
  id: number;
  address: string;
}

const personAddressRow = z.object({ person_id: z.number(), name: z.string() });

/**
 * Gives known people further addresses of theirs. What is theirs already stays so and is left out.
 *
 * @returns those that are new, in comparable form
 */
export async function addSecondAddresses(
  tx: Tx,
  userId: number,
  wanted: NonNullable<RepairRequest['secondAddresses']>,
  inForce: RulebookInForce,
): Promise<SecondAddress[] | Refusal> {
  const added: SecondAddress[] = [];
  for (const { kind, id, address } of wanted) {
    const key = outsideAddress(address, inForce, '. Nothing was changed.');
    if (isRefusal(key)) return key;
    const taken = await rowsOf(
      tx,
      personAddressRow,
      sql`SELECT a.person_id, coalesce(c.name, l.name) AS name FROM person_addresses a LEFT JOIN contacts c ON a.kind = 'contact' AND c.id = a.person_id LEFT JOIN leads l ON a.kind = 'lead' AND l.id = a.person_id
        WHERE a.kind = ${kind} AND a.address = ${key}`,
    );
    const [owner] = taken;
    if (owner?.person_id === id) continue;
    if (owner)
      return new Refusal('conflict', 'taken', `${address} belongs to the ${kind} ${owner.name} already. Nothing was changed.`, {
        address: 'is already in a record',
      });
    await tx.execute(
      sql`INSERT INTO person_addresses (kind, person_id, address, position) SELECT ${kind}, ${id}::bigint, ${key}, coalesce(max(position) + 1, 0) FROM person_addresses WHERE kind = ${kind} AND person_id = ${id}`,
    );
    await noteChanges(tx, userId, kind, id, [{ field: 'address', before: '', after: key }]);
    added.push({ kind, id, address: key });
  }
  return added;
}

/** Takes addresses back that a repair gave; one that was moved to someone else since stays there. @returns those taken */
export async function removeSecondAddresses(tx: Tx, userId: number, given: readonly SecondAddress[]): Promise<SecondAddress[]> {
  const removed: SecondAddress[] = [];
  for (const address of given) {
    const { rows } = await tx.execute(
      sql`DELETE FROM person_addresses WHERE kind = ${address.kind} AND person_id = ${address.id} AND address = ${address.address} RETURNING address`,
    );
    if (rows.length === 0) continue;
    await noteChanges(tx, userId, address.kind, address.id, [{ field: 'address', before: address.address, after: '' }]);
    removed.push(address);
  }
  return removed;
}
