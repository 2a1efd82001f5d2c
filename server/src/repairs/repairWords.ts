import type { RecordKind } from '@fulvet/contract';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { PinReach } from '@fulvet/contract';
import type { Pin } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { SecondAddress } from './secondAddresses';
import { nounOf } from '../records/kinds';

interface Deed {
  does: Pin['does'];
  kind: RecordKind | null;
  id: number | null;
}

/** What a repair did, in words: "Filed 3 emails under the deal Outer harbour". */
export async function repairWords(
  tx: Tx,
  order: { emails: readonly number[]; reach: PinReach; secondAddresses: readonly SecondAddress[] },
  conversations: number,
  deeds: readonly Deed[],
): Promise<string> {
  const things = thingsOf(order, conversations);
  const parts: string[] = [];
  const filed = await named(
    tx,
    deeds.filter((deed) => deed.does === 'file'),
  );
  const off = await named(
    tx,
    deeds.filter((deed) => deed.does === 'takeOff'),
  );
  if (filed.length > 0 && off.length > 0) parts.push(`Moved ${things} from ${listed(off)} to ${listed(filed)}`);
  else if (filed.length > 0) parts.push(`Filed ${things} under ${listed(filed)}`);
  else if (off.length > 0) parts.push(`Took ${things} off ${listed(off)}`);
  const principal = await named(
    tx,
    deeds.filter((deed) => deed.does === 'principal'),
  );
  if (principal.length > 0) parts.push(`Made ${listed(principal)} the principal record of ${things}`);
  for (const secondAddress of order.secondAddresses) {
    const [who = ''] = await named(tx, [{ does: 'file', kind: secondAddress.kind, id: secondAddress.id }]);
    parts.push(`Noted ${secondAddress.address} as an address of ${who}`);
  }
  if (deeds.some((deed) => deed.does === 'settle')) parts.push(`Left ${things} as it stands`);
  if (deeds.some((deed) => deed.does === 'seal')) parts.push(`Sealed ${things}`);
  return parts.join('; ');
}

function thingsOf({ emails, reach }: { emails: readonly number[]; reach: PinReach }, conversations: number): string {
  const mails = emails.length === 1 ? 'an email' : `${emails.length} emails`;
  if (reach === 'email') return mails;
  if (reach === 'onward') return `${mails} and what follows`;
  return conversations === 1 ? 'a conversation' : `${conversations} conversations`;
}

const namedRow = z.object({ name: z.string() });

async function named(tx: Tx, deeds: readonly Deed[]): Promise<string[]> {
  const words: string[] = [];
  for (const { kind, id } of deeds) {
    if (kind === null) words.push('every record');
    else if (id === null) words.push(`every ${nounOf(kind)}`);
    else {
      const rows = await rowsOf(tx, namedRow, sql`SELECT name FROM records WHERE kind = ${kind} AND id = ${id}`);
      // The number of a record of an own kind says of which kind it is.
      words.push(kind === 'own' && rows[0] ? rows[0].name : `the ${nounOf(kind)} ${rows[0]?.name ?? 'that is gone'}`);
    }
  }
  return words;
}

function listed(words: readonly string[]): string {
  return words.length > 3 ? `${words.slice(0, 2).join(', ')} and ${words.length - 2} more` : words.join(' and ');
}
