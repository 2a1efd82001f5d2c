import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { sql } from 'drizzle-orm';
import type { ImapFlow } from 'imapflow';
import type { Db } from '../../base/db/database';
import { sequenceSet } from './folderState';

/** The keyword that marks an email as filed, for any mail program to show. */
export const FILED_KEYWORD = 'Fulvet-filed';
const AT_ONCE = 500;

const changeRow = z.object({ folder_id: z.number(), path: z.string(), uid_validity: z.number(), uid: z.number(), filed: z.boolean() });

/**
 * Sets the keyword on emails that are filed and takes it off those that are no longer. The only thing that is ever changed in
 * anybody's mailbox, and only where an administrator has switched it on.
 *
 * @param allowed false where the marks of earlier times are to be taken off
 * @returns false when the server takes no keywords
 */
export async function markFiled(db: Db, client: ImapFlow, mailboxId: number, allowed: boolean): Promise<boolean> {
  const rows = await rowsOf(
    db,
    changeRow,
    sql`
    SELECT f.id AS folder_id, f.path, m.uid_validity, m.uid, (e.outcome = 'filed' AND ${allowed}) AS filed
    FROM mailbox_folders f JOIN folder_messages m ON m.folder_id = f.id AND m.uid_validity = f.uid_validity AND m.gone_at IS NULL JOIN emails e ON e.id = m.email_id
    WHERE f.mailbox_id = ${mailboxId} AND f.present AND e.decided_at IS NOT NULL AND m.marked <> (e.outcome = 'filed' AND ${allowed}) ORDER BY f.path, m.uid DESC LIMIT ${AT_ONCE}`,
  );
  for (const path of new Set(rows.map((row) => row.path))) {
    const opened = await client.mailboxOpen(path);
    if (!opened.permanentFlags?.has('\\*') && !opened.permanentFlags?.has(FILED_KEYWORD)) return false;
    for (const filed of [true, false]) {
      const chosen = rows.filter((row) => row.path === path && row.filed === filed && row.uid_validity === Number(opened.uidValidity));
      if (chosen.length === 0) continue;
      const set = sequenceSet(chosen.map((row) => row.uid));
      await (filed
        ? client.messageFlagsAdd(set, [FILED_KEYWORD], { uid: true })
        : client.messageFlagsRemove(set, [FILED_KEYWORD], { uid: true }));
      await db.execute(
        sql`UPDATE folder_messages SET marked = ${filed} WHERE folder_id = ${chosen[0]?.folder_id ?? 0} AND uid_validity = ${chosen[0]?.uid_validity ?? 0} AND uid = ANY(${sql.param(chosen.map((row) => row.uid))}::bigint[])`,
      );
    }
  }
  return true;
}
