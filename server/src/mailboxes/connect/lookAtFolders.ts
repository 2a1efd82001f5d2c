import { folderRoles, isFollowedAtFirst } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { ImapFlow } from 'imapflow';
import type { MailboxRow, MailServices } from '../mailbox';

/** A folder as it was found at the server. */
export interface FoundFolder {
  path: string;
  role: string;
}

/**
 * Looks which folders there are and brings what is stored of them up to date. New ones are followed as is usual for their role;
 * what a person chose stays.
 */
export async function lookAtFolders(services: MailServices, mailbox: MailboxRow, client: ImapFlow): Promise<FoundFolder[]> {
  const listed = (await client.list()).filter((response) => !response.flags.has('\\Noselect') && !response.flags.has('\\NonExistent'));
  const roles = folderRoles(
    listed.map((response) => ({
      path: response.path,
      name: response.name,
      specialUse: response.specialUseSource === 'name' ? null : (response.specialUse ?? null),
    })),
    services.presets.roles(mailbox.connection?.preset ?? 'general'),
  );
  const found = [...roles].map(([path, role]) => ({ path, role, followed: isFollowedAtFirst(role, mailbox.direction) }));
  await storeFolders(services, mailbox.id, found);
  return found;
}

async function storeFolders(
  services: MailServices,
  mailboxId: number,
  found: readonly (FoundFolder & { followed: boolean })[],
): Promise<void> {
  await services.database.worker.execute(sql`WITH found AS (
      SELECT path, role, followed FROM json_to_recordset(${JSON.stringify(found)}::json) AS f(path text, role text, followed boolean)),
    gone AS (UPDATE mailbox_folders SET present = false WHERE mailbox_id = ${mailboxId} AND path NOT IN (SELECT path FROM found))
    INSERT INTO mailbox_folders (mailbox_id, path, role, followed) SELECT ${mailboxId}::bigint, path, role, followed FROM found
    ON CONFLICT (mailbox_id, path) DO UPDATE SET role = excluded.role, present = true`);
}
