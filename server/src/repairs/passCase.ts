import { Refusal } from '../base/refusal';
import type { User } from '@fulvet/contract';
import type { Database } from '../base/db/database';
import { insertPasses, readableOf } from './queries';

/** Has a colleague decide about emails. Who cannot read an email cannot decide about it either. */
export async function passCase(database: Database, user: User, emails: number[], to: number): Promise<{ passed: number } | Refusal> {
  const wanted = new Set(emails).size;
  const readable = (userId: number): Promise<number> => database.as(userId, (tx) => readableOf(tx, emails));
  if ((await readable(user.id)) < wanted)
    return new Refusal('forbidden', 'not-yours', 'Some of these emails are not yours to read. Nothing was passed on.');
  if ((await readable(to)) < wanted)
    return new Refusal(
      'conflict',
      'not-theirs',
      'That colleague may not read these emails, so they cannot decide about them. Choose another colleague, or share the emails first.',
    );
  return { passed: await database.as(user.id, (tx) => insertPasses(tx, emails, to, user.id)) };
}
