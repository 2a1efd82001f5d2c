import { sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import { z } from 'zod';
import type { Db } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import type { FoundEvent } from '../../base/reading/readTasks';
import type { CalendarPlace } from './calendarPlace';

/** An event on its way into the store, with what is stored of it. */
export interface StoredEvent extends FoundEvent {
  href: string;
  identity: string;
  before: KnownEvent | null;
}

const digest = (...parts: readonly (string | number | null)[]): string => createHash('sha256').update(parts.join('\0')).digest('hex');

/** By what an event is one and the same in all calendars: its UID, which occurrence it is, and who invites. */
export function identityOf({ facts }: FoundEvent): string {
  const [meeting] = facts.meetings;
  const organizer = facts.participants.find(({ role }) => role === 'from')?.address ?? '';
  return `event:${digest(meeting?.uid ?? '', meeting?.occursAt ?? null, organizer)}`;
}

export const ownIdentityOf = (event: FoundEvent, { mailboxId }: CalendarPlace): string => `${identityOf(event)}:${mailboxId}`;

const knownRow = z.object({
  id: z.number(),
  identity: z.string(),
  blob: z.string().nullable(),
  sequence: z.number().nullable(),
  cancelled: z.boolean().nullable(),
  people: z.array(z.string()),
  /** It lies in this mailbox already. */
  here: z.boolean(),
  /** It lies in the mailbox of whoever invites. */
  organizers: z.boolean(),
});
export type KnownEvent = z.infer<typeof knownRow>;

const letGoRow = z.object({ identity: z.string() });

export async function knownEvents(
  db: Db,
  identities: readonly string[],
  { mailboxId, calendarId }: CalendarPlace,
): Promise<{ events: Map<string, KnownEvent>; letGo: Set<string> }> {
  if (identities.length === 0) return { events: new Map(), letGo: new Set() };
  const wanted = sql`${sql.param([...identities])}::text[]`;
  const rows = await rowsOf(
    db,
    knownRow,
    sql`SELECT e.id, e.identity, e.blob, m.sequence, m.cancelled, ARRAY(SELECT p.address FROM participants p WHERE p.email_id = e.id) AS people,
      EXISTS (SELECT FROM sightings s WHERE s.email_id = e.id AND s.mailbox_id = ${mailboxId}) AS here,
      EXISTS (SELECT FROM sightings s WHERE s.email_id = e.id AND s.is_senders) AS organizers
    FROM emails e LEFT JOIN meetings m ON m.email_id = e.id WHERE e.identity = ANY(${wanted})`,
  );
  const gone = await rowsOf(
    db,
    letGoRow,
    sql`SELECT identity FROM calendar_events WHERE calendar_id = ${calendarId} AND email_id IS NULL AND identity = ANY(${wanted})`,
  );
  return { events: new Map(rows.map((row) => [row.identity, row])), letGo: new Set(gone.map(({ identity }) => identity)) };
}

export const isVouchedFor = ({ here, people }: KnownEvent, { addresses }: CalendarPlace): boolean =>
  here || people.some((address) => addresses.includes(address));

/** Whether a copy says more than what is stored: by who keeps it, then by its sequence, then by what it says. */
export function isNewer({ raw, facts }: StoredEvent, before: KnownEvent, { addresses }: CalendarPlace): boolean {
  const [meeting] = facts.meetings;
  if (!meeting || createHash('sha256').update(raw).digest('hex') === before.blob)
    return before.cancelled === true && meeting?.cancelled === false;
  const isOrganizers = facts.participants.some(({ role, address }) => role === 'from' && addresses.includes(address));
  if (isOrganizers) return true;
  if (before.organizers) return false;
  if (before.sequence === null) return before.here;
  return meeting.sequence > before.sequence || (meeting.sequence === before.sequence && before.here);
}
