import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { LookBackChoice } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { MailboxRow, MailServices } from '../mailbox';
import { loadFolders } from '../mailbox';
import { signedIn } from './signedIn';

const DAY = 86_400_000;
/** Choices in days; null for everything. */
const CHOICES = [30, 90, 365, null] as const;
/** Storing and deciding is no faster than this, in emails a second, however fast the server hands them out. */
const STORE_RATE = 150;
const ASSUMED_FETCH_RATE = 60;

const mailboxRow = z.object({ fetch_rate: z.number().nullable() });

/**
 * Counts the emails that each choice would read, at the server, and estimates how long that takes.
 *
 * @throws {MailFailure}
 */
export async function lookBackChoices(services: MailServices, mailbox: MailboxRow): Promise<LookBackChoice[]> {
  const db = services.database.worker;
  const folders = (await loadFolders(db, mailbox.id)).filter((folder) => folder.followed);
  const rows = await rowsOf(db, mailboxRow, sql`SELECT fetch_rate FROM mailboxes WHERE id = ${mailbox.id}`);
  const rate = Math.min(STORE_RATE, rows[0]?.fetch_rate ?? ASSUMED_FETCH_RATE);
  const { client } = await signedIn(services, mailbox);
  const counts = new Map<number | null, number>(CHOICES.map((days) => [days, 0]));
  try {
    for (const folder of folders) {
      const { exists } = await client.mailboxOpen(folder.path, { readOnly: true });
      for (const days of CHOICES) {
        const found =
          days === null || exists === 0 ? exists : await client.search({ since: new Date(Date.now() - days * DAY) }, { uid: true });
        counts.set(days, (counts.get(days) ?? 0) + (typeof found === 'number' ? found : found ? found.length : 0));
      }
    }
  } finally {
    client.close();
  }
  return [...counts].map(([days, emails]) => ({ days, emails, seconds: Math.ceil(emails / rate) }));
}
