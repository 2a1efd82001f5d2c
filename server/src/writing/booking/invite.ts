import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { CalendarEvent, Guest } from '@fulvet/core';
import { domainOf, eventCalendar } from '@fulvet/core';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { escapedText } from '../cleanHtml';
import { newMessageId } from '../composeMail';
import { linkAddressOf } from '../documents/links';
import { sendersOf } from '../senders/queries';
import type { BookedMeeting, FoundLink } from './foundLink';
import { BOOKING_PATH } from './offer';
import { spanIn } from './spanIn';

const memberRow = z.object({ id: z.number(), name: z.string(), email: z.string() });

/** Of these members, those who may send from a mailbox in which a copy of what is sent may be put. */
export async function whoInvites(tx: Tx, memberIds: readonly number[]): Promise<number[]> {
  const found: number[] = [];
  for (const id of memberIds) if (await inviterOf(tx, id)) found.push(id);
  return found;
}

async function inviterOf(tx: Tx, memberId: number) {
  const agreed = await rowsOf(tx, idRow, sql`SELECT id FROM mailboxes WHERE copies_agreed_at IS NOT NULL`);
  const mailboxes = new Set(agreed.map(({ id }) => id));
  return (await sendersOf(tx, memberId)).find(({ mailboxId }) => mailboxes.has(mailboxId)) ?? null;
}

/**
 * Puts an invitation, a change of it or its cancellation (RFC 5546, 6047) on its way from the mailbox of whoever invites, to the guest and the members. It is
 * due in the same transaction, so that what is booked and what is said of it are one.
 */
export async function invite(
  tx: Tx,
  link: FoundLink,
  booking: BookedMeeting,
  method: 'REQUEST' | 'CANCEL',
  isMoved = false,
): Promise<void> {
  const sender = await inviterOf(tx, booking.hostId);
  if (!sender) return;
  const members = await rowsOf(
    tx,
    memberRow,
    sql`SELECT id, name, email FROM users WHERE id = ANY(${sql.param(booking.memberIds)}::bigint[]) AND active ORDER BY array_position(${sql.param(booking.memberIds)}::bigint[], id)`,
  );
  const base = await linkAddressOf(tx);
  const { kind } = link;
  const { guest, from, to, zone, note } = booking;
  const name = kind?.name ?? 'Meeting';
  const title = `${name}: ${guest.name}`;
  const manage = link.token === null || base === null ? '' : `${base}${BOOKING_PATH}/${link.token}`;
  const others = members.filter(({ email }) => email !== sender.address);
  const event: CalendarEvent = {
    uid: booking.uid,
    occursAt: null,
    sequence: booking.sequence,
    cancelled: method === 'CANCEL',
    startsAt: from,
    endsAt: to,
    wholeDay: false,
    summary: title,
    location: kind?.place ?? '',
    description: [kind?.about, note && `${guest.name} writes: ${note}`].filter(Boolean).join('\n\n'),
    organizer: null,
    guests: [asGuest(guest.name, guest.address, 'none'), ...others.map((member) => asGuest(member.name, member.email, 'accepted'))],
    rooms: [],
    isFree: false,
    isPrivate: false,
  };
  const recipients = [guest, ...members.map((member) => ({ name: member.name, address: member.email }))];
  const said = method === 'CANCEL' ? 'is cancelled' : isMoved ? 'is moved' : 'is booked';
  const lines = [
    `${name} with ${members.map((member) => member.name).join(' and ') || sender.name} ${said}.`,
    `${spanIn(zone, from, to)}${kind?.place ? `, ${kind.place}` : ''}`,
    ...(kind?.about && method === 'REQUEST' ? [kind.about] : []),
    ...(note ? [`${guest.name} writes: ${note}`] : []),
  ];
  const change = manage && method === 'REQUEST' ? `<p><a href="${escapedText(manage)}">Move or cancel the meeting</a></p>` : '';
  const html = `${lines.map((line) => `<p>${escapedText(line).replace(/\n/g, '<br>')}</p>`).join('')}${change}`;
  const subject = method === 'CANCEL' ? `Cancelled: ${title}` : isMoved ? `Moved: ${title}` : title;
  const calendar = eventCalendar(event, { name: sender.name, address: sender.address }, { method, stampAt: Date.now() });
  const records = link.record ? JSON.stringify([link.record]) : '[]';
  await tx.execute(sql`INSERT INTO outgoing (writer_id, mailbox_id, from_address, kind, state, "to", subject, html, with_signature, calendar, filing_how, filing_records, message_id, due_at)
    VALUES (${booking.hostId}, ${sender.mailboxId}, ${sender.isAlias ? sender.address : null}, 'new', 'due', ${JSON.stringify(recipients)}::jsonb, ${subject}, ${html}, false, ${calendar},
      ${link.record ? 'records' : 'rules'}, ${records}::jsonb, ${newMessageId(sender.address)}, now())`);
}

const asGuest = (name: string, address: string, answer: Guest['answer']): Guest => ({
  name,
  address,
  domain: domainOf(address),
  answer,
  optional: false,
});
