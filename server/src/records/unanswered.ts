import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import { answeredByHand, reachedUsSince } from './activities/queries';

/** A conversation that rests longer with us is not waited for any more. */
export const UNANSWERED_DAYS = 60;

/** Whether an email may end a wait: people wrote it, to or from outside. A notice, an automatic reply or a colleague's forward answers no one. */
const isBetweenPeople = (email: SQL): SQL =>
  sql`(${email}.mail_class = 'person' AND ${email}.direction IN ('sent', 'received') AND ${email}.sent_at <= now())`;

const isAsking = (email: SQL, days: number): SQL =>
  sql`(${email}.direction = 'received' AND ${email}.sent_at > now() - make_interval(days => ${days}))`;

/**
 * The emails that wait for an answer: the last one between people in its conversation came from outside, within so many days, and no one wrote down since
 * that its sender was reached in another way.
 *
 * @param mail a query of `id, conversation_id, sent_at, direction, mail_class`, and `record_id` where `per` names it
 * @param per what conversations are told apart by, as columns of the query
 */
export const unansweredOf = (mail: SQL, days: number, per: SQL = sql`conversation_id`): SQL =>
  sql`SELECT * FROM (SELECT DISTINCT ON (${per}) x.* FROM (${mail}) x WHERE ${isBetweenPeople(sql`x`)} ORDER BY ${per}, x.sent_at DESC, x.id DESC) ends WHERE ${isAsking(sql`ends`, days)} AND NOT ${answeredByHand(sql`ends`)}`;

/** The same condition on one email of the table, among all that the reader may know of. */
export const isUnanswered = (email: SQL, days: number): SQL =>
  sql`(${isBetweenPeople(email)} AND ${isAsking(email, days)} AND NOT EXISTS (SELECT FROM emails later WHERE later.conversation_id = ${email}.conversation_id
    AND (later.sent_at, later.id) > (${email}.sent_at, ${email}.id) AND ${isBetweenPeople(sql`later`)}) AND NOT ${answeredByHand(email)})`;

/** Whether an external person wrote in the conversation of a sent email after it, or it was written down since that one of its recipients reached us. */
export const isAnswered = (email: SQL): SQL =>
  sql`(EXISTS (SELECT FROM emails later WHERE later.conversation_id = ${email}.conversation_id AND later.sent_at > ${email}.sent_at
    AND later.direction = 'received' AND ${isBetweenPeople(sql`later`)}) OR ${reachedUsSince(email)})`;
