import type { BlobPlace } from '../../base/blobs/blobStore';
import type { Db, Tx } from '../../base/db/database';
import type { FoundEvent } from '../../base/reading/readTasks';
import type { Sources } from '../../base/reading/sources';
import { ownersIn } from '../../emails/owners';
import type { ReadMessage } from '../../emails/store/readMessage';
import { storeBatch } from '../../emails/store/storeBatch';
import type { CalendarPlace, ReadObject } from './calendarPlace';
import { changesOf, rewrite } from './changedEvents';
import type { StoredEvent } from './knownEvents';
import { identityOf, isNewer, isVouchedFor, knownEvents, ownIdentityOf } from './knownEvents';
import { noteObjects } from './noteObjects';

/**
 * Stores the events of some objects of a calendar in one transaction. Doing it again changes nothing.
 *
 * An event is one, in however many calendars it lies. The copy of whoever invites says what it is; without that, the one with the highest sequence does. Someone
 * is taken for its guest only where what is stored of it names them: whoever writes the UID of an event into a calendar of theirs gets an event of
 * their own, and reads nothing of the other.
 *
 * Not taken in: what is private by its owner's word, what its owner declined, what no one else than us takes part in, and what was cancelled before it was
 * known here.
 */
export async function storeEvents(db: Db, blobs: Sources, place: CalendarPlace, objects: readonly ReadObject[]): Promise<void> {
  const found = objects.flatMap((object) =>
    object.events.filter((event) => isWanted(event, place)).map((event) => ({ ...event, href: object.href })),
  );
  const known = await knownEvents(
    db,
    found.flatMap((event) => [identityOf(event), ownIdentityOf(event, place)]),
    place,
  );
  const items = new Map<string, StoredEvent>();
  for (const event of found) {
    const shared = known.events.get(identityOf(event));
    const identity = !shared || isVouchedFor(shared, place) ? identityOf(event) : ownIdentityOf(event, place);
    const before = known.events.get(identity) ?? null;
    const comesIn = before !== null || (event.facts.meetings[0]?.cancelled === false && !known.letGo.has(identity));
    if (comesIn && !items.has(identity)) items.set(identity, { ...event, identity, before });
  }
  const stored = [...items.values()];
  const changed = await changesOf(
    db,
    blobs,
    stored.filter((item) => item.before && isNewer(item, item.before, place)),
    place,
  );
  const outdated: BlobPlace[] = [];
  const also = async (tx: Tx, ids: readonly number[]): Promise<void> => {
    const events = stored.map(({ href, identity }, at) => ({ href, identity, id: ids[at] ?? 0 }));
    outdated.push(...(await rewrite(tx, changed)), ...(await noteObjects(tx, place, objects, events)));
  };
  if (stored.length === 0) await db.transaction((tx) => also(tx, []));
  else
    await storeBatch(
      db,
      blobs,
      stored.map(({ raw, facts, identity }, at): ReadMessage => ({
        raw,
        facts,
        identity,
        file: '',
        position: at + 1,
        ownerIds: ownersIn(place.readers, facts),
      })),
      { mailboxId: place.mailboxId, folder: place.folder, importId: null, arrivedAt: Date.now() },
      place.rulebook,
      also,
    );
  await blobs.erase(outdated);
}

function isWanted({ facts }: FoundEvent, { addresses, rulebook }: CalendarPlace): boolean {
  const [meeting] = facts.meetings;
  if (!meeting) return false;
  if (addresses.some((address) => meeting.answers[address] === 'declined')) return false;
  return facts.participants.some(({ address, domain }) => !rulebook.isOurs(address, domain));
}
