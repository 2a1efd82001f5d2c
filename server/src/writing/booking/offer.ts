import type { Offered, User } from '@fulvet/contract';
import type { RecordKind } from '@fulvet/core';
import { someOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { demandSeen } from '../../records/seenRecords';
import { linkAddressOf, newToken, tokenHash } from '../documents/links';
import { sendersOf } from '../senders/queries';
import { freeTimesOf, kindsWhere } from './queries';

/** Where guests book, below the address of the installation. */
export const BOOKING_PATH = '/m';

interface OfferOrder {
  /** How many free times. */
  times: number;
  record: { kind: RecordKind; id: number } | null;
  days: number;
}

/** Makes a link by which one guest books a time, and finds some free times. Who invites needs a mailbox to invite from. */
export async function offerTimes(
  { database }: Services,
  user: User,
  id: number,
  { times, record, days }: OfferOrder,
): Promise<Offered | Refusal> {
  const checked = await database.as(user.id, async (tx) => {
    const refused = record ? await demandSeen(tx, [record]) : null;
    if (refused) return refused;
    if ((await sendersOf(tx, user.id)).length === 0)
      return new Refusal('conflict', 'no-sender', 'Guests are invited from your mailbox. Connect it first, under Mailboxes.');
    const address = await linkAddressOf(tx);
    return (
      address ??
      new Refusal(
        'conflict',
        'no-link-address',
        'The link needs the address under which guests reach Fulvet. An administrator sets it under Workspace.',
      )
    );
  });
  if (isRefusal(checked)) return checked;
  const db = database.worker;
  const [kind] = await kindsWhere(db, sql`k.id = ${id} AND k.removed_at IS NULL`);
  if (!kind || kind.members.length === 0) return notFound('kind of meeting');
  const token = newToken();
  const endsAt = new Date(Date.now() + days * 86_400_000);
  await db.execute(
    sql`INSERT INTO booking_links (token_hash, kind_id, maker_id, kind, record_id, ends_at) VALUES (${tokenHash(token)}, ${id}, ${user.id}, ${record?.kind ?? null}, ${record?.id ?? null}, ${endsAt})`,
  );
  const url = `${checked}${BOOKING_PATH}/${token}`;
  const free = times === 0 ? [] : await freeTimesOf(db, kind);
  const { zone } = kind.times;
  return {
    url,
    endsAt: endsAt.toISOString(),
    zone,
    times: someOf(
      free.map(({ at }) => ({ at, members: [] })),
      times,
      zone,
    ).map(({ at }) => ({ at: new Date(at).toISOString(), url: `${url}?at=${Math.floor(at / 60_000)}` })),
  };
}
