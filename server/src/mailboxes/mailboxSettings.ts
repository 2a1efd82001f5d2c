import { gestures } from '../base/db/schema';
import { idRow, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal } from '../base/refusal';
import type { mailboxSettings, User } from '@fulvet/contract';
import { FOLDER_ROLES, isFollowedAtFirst } from '@fulvet/core';
import { sql, eq, and } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { takeMailLock } from '../base/db/mailLock';
import { writeDown } from '../base/audit';
import { refuseSelf } from './mailboxRights';
import { storedRulebook } from '../rulebook/liveRulebook';
import type { Services } from '../base/services';
import { mailboxKey } from './mailboxKey';
import type { MailboxRow } from './mailbox';
import { noteEvent } from './mailboxLog';
import { resetReaders } from '../emails/owners';
import { nounOf, tableOf } from '../records/kinds';

type Settings = z.output<typeof mailboxSettings>;

/** Changes what is given of a mailbox's settings, in one transaction; emails that this concerns are decided again. */
export async function putSettings(services: Services, user: User, mailbox: MailboxRow, settings: Settings): Promise<Refusal | null> {
  const refused = await services.database.as(user.id, (tx) => demandRecords(tx, settings));
  if (isRefusal(refused)) return refused;
  if (settings.markFiled !== undefined && user.role !== 'admin')
    return new Refusal('forbidden', 'not-allowed', 'Marking emails in a mailbox is switched on by an administrator.');
  const unchanged = await services.database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(tx, standingRow, sql`SELECT share, take_in FROM mailboxes WHERE id = ${mailbox.id} FOR UPDATE`);
    const standing = rows[0] ?? { share: 'rules', take_in: 'rules' };
    const refused = (await demandUnlocked(tx, settings, standing)) ?? (await demandOwnersChoice(tx, user, mailbox, settings, standing));
    if (isRefusal(refused)) return refused;
    await changeMailbox(tx, mailbox, settings);
    if (settings.direction !== undefined && settings.direction !== mailbox.direction) await refollow(tx, mailbox, settings.direction);
    if (settings.userIds) {
      const badUsers = await changeUsers(tx, user, mailbox, settings.userIds);
      if (isRefusal(badUsers)) return badUsers;
    }
    for (const folder of settings.folders ?? []) {
      const badFolder = await changeFolder(tx, mailbox, folder);
      if (isRefusal(badFolder)) return badFolder;
    }
    const changed = (value: string | undefined, was: string): boolean => value !== undefined && value !== was;
    if (changed(settings.share, standing.share) || changed(settings.takeIn, standing.take_in)) await decideAnew(tx, mailbox.id);
    await noteEvent(tx, mailbox.id, 'note', `${user.name} changed: ${changedWords(settings)}.`);
    return null;
  });
  if (isRefusal(unchanged)) return unchanged;
  if (
    settings.share !== undefined ||
    settings.takeIn !== undefined ||
    settings.userIds !== undefined ||
    settings.folders?.some((folder) => folder.fileAs !== undefined)
  )
    await services.jobs.decidePending();
  return null;
}

const standingRow = z.object({ share: z.string(), take_in: z.string() });
type Standing = z.infer<typeof standingRow>;

/** What the rulebook locks is not changed by a mailbox's owner. @returns a refusal otherwise */
async function demandUnlocked(tx: Tx, settings: Settings, standing: Standing): Promise<Refusal | null> {
  const { personal } = (await storedRulebook(tx)).rulebook;
  const locked = (what: string): Refusal =>
    new Refusal('conflict', 'locked', `${what} is locked by the rulebook, for every mailbox. An administrator can unlock it.`);
  if (personal.share === 'locked' && settings.share !== undefined && settings.share !== standing.share)
    return locked('Who sees filed mail');
  if (personal.takeIn === 'locked' && settings.takeIn !== undefined && settings.takeIn !== standing.take_in) return locked('What comes in');
  return null;
}

const TAKE_INS = ['byHand', 'known', 'rules'];

/** Whose mailbox it is, alone lets more of it be seen or more of it in; what others change is told to them. @returns a refusal otherwise */
async function demandOwnersChoice(
  tx: Tx,
  user: User,
  mailbox: MailboxRow,
  settings: Settings,
  standing: Standing,
): Promise<Refusal | null> {
  const { share = standing.share, takeIn = standing.take_in, userIds } = settings;
  if (user.id !== mailbox.owner_id) {
    const rows = await rowsOf(tx, idRow, sql`SELECT user_id AS id FROM mailbox_users WHERE mailbox_id = ${mailbox.id}`);
    const added = (userIds ?? []).filter((id) => id !== mailbox.owner_id && !rows.some((row) => row.id === id));
    const refused = refuseSelf(user, mailbox.owner_id, added.includes(user.id));
    if (isRefusal(refused)) return refused;
    const widens =
      (share !== standing.share && share === 'rules') ||
      settings.usersSend === true ||
      settings.measures === true ||
      TAKE_INS.indexOf(takeIn) > TAKE_INS.indexOf(standing.take_in);
    if (widens || (added.length > 0 && (mailbox.kind === 'person' || mailbox.kind === 'imported')))
      return new Refusal(
        'forbidden',
        'owners-choice',
        'Only the owner of the mailbox lets more of it in, has openings counted, or lets others see more of it or send from it. Nothing was changed; ask them.',
      );
  }
  if (share !== standing.share || takeIn !== standing.take_in)
    await writeDown(tx, user, {
      kind: 'mailbox',
      about: `set the mailbox ${mailbox.address}: ${share === 'rules' ? 'seen as the rulebook says' : 'seen by its owner only'}, ${{ rules: 'all comes in that the rulebook takes in', known: 'mail with known people comes in', byHand: 'mail comes in by hand only' }[takeIn as 'rules']}`,
      subjectId: mailbox.owner_id,
    });
  return null;
}

const SETTING_WORDS: Record<keyof Settings, string> = {
  direction: 'sent or received',
  readSinceDays: 'how far back',
  share: 'who sees it',
  takeIn: 'what comes in',
  markFiled: 'marking what is filed',
  usersSend: 'who may send from it',
  measures: 'counting openings',
  aliases: 'other addresses',
  userIds: 'who uses it',
  folders: 'folders',
};

function changedWords(settings: Settings): string {
  return (Object.keys(settings) as (keyof Settings)[])
    .filter((key) => settings[key] !== undefined)
    .map((key) => SETTING_WORDS[key])
    .join(', ');
}

async function changeMailbox(tx: Tx, mailbox: MailboxRow, settings: Settings): Promise<void> {
  const since =
    settings.readSinceDays === undefined
      ? sql`read_since`
      : settings.readSinceDays === null
        ? sql`NULL`
        : sql`date_trunc('day', now()) - make_interval(days => ${settings.readSinceDays})`;
  const aliases = settings.aliases === undefined ? sql`aliases` : sql`${sql.param([...new Set(settings.aliases.map(mailboxKey))])}::text[]`;
  await tx.execute(sql`UPDATE mailboxes SET direction = coalesce(${settings.direction ?? null}, direction), read_since = ${since}, share = coalesce(${settings.share ?? null}, share), take_in = coalesce(${settings.takeIn ?? null}, take_in),
    mark_filed = coalesce(${settings.markFiled ?? null}::boolean, mark_filed), users_send = coalesce(${settings.usersSend ?? null}::boolean, users_send), measures = coalesce(${settings.measures ?? null}::boolean, measures), aliases = ${aliases} WHERE id = ${mailbox.id}`);
}

const mailboxFolderRow = z.object({ id: z.number(), role: z.enum(FOLDER_ROLES) });

/** Another direction has other folders by itself; a person can change them after. */
async function refollow(tx: Tx, mailbox: MailboxRow, direction: MailboxRow['direction']): Promise<void> {
  const rows = await rowsOf(tx, mailboxFolderRow, sql`SELECT id, role FROM mailbox_folders WHERE mailbox_id = ${mailbox.id}`);
  const followed = rows.filter((row) => isFollowedAtFirst(row.role, direction)).map((row) => row.id);
  await tx.execute(sql`UPDATE mailbox_folders SET followed = id = ANY(${sql.param(followed)}::bigint[]) WHERE mailbox_id = ${mailbox.id}`);
  // What was passed over for its direction may be wanted now.
  await tx.execute(
    sql`DELETE FROM folder_messages m USING mailbox_folders f WHERE f.id = m.folder_id AND f.mailbox_id = ${mailbox.id} AND m.note = 'passed over'`,
  );
}

async function changeUsers(
  tx: Tx,
  user: User,
  { id: mailboxId, address, owner_id: ownerId }: MailboxRow,
  userIds: readonly number[],
): Promise<Refusal | null> {
  const rows = await rowsOf(tx, idRow, sql`SELECT user_id AS id FROM mailbox_users WHERE mailbox_id = ${mailboxId}`);
  const before = rows.map((row) => row.id);
  const refused = refuseSelf(user, ownerId, userIds.includes(user.id) && !before.includes(user.id));
  if (isRefusal(refused)) return refused;
  if (before.length !== userIds.length || before.some((value) => !userIds.includes(value)))
    await writeDown(tx, user, { kind: 'mailbox', about: `changed who uses the mailbox ${address}`, subjectId: ownerId });
  await tx.execute(
    sql`DELETE FROM mailbox_users WHERE mailbox_id = ${mailboxId} AND NOT user_id = ANY(${sql.param([...userIds])}::bigint[])`,
  );
  await tx.execute(
    sql`INSERT INTO mailbox_users (mailbox_id, user_id) SELECT ${mailboxId}::bigint, id FROM users WHERE id = ANY(${sql.param([...userIds])}::bigint[]) ON CONFLICT DO NOTHING`,
  );
  await resetReaders(tx, mailboxId);
  return null;
}

const pathRow = z.object({ path: z.string() });

async function changeFolder(tx: Tx, mailbox: MailboxRow, change: NonNullable<Settings['folders']>[number]): Promise<Refusal | null> {
  const rows = await rowsOf(
    tx,
    pathRow,
    sql`UPDATE mailbox_folders SET followed = coalesce(${change.followed ?? null}::boolean, followed) WHERE id = ${change.id} AND mailbox_id = ${mailbox.id} RETURNING path`,
  );
  const folder = rows[0];
  if (!folder) return new Refusal('unknown', 'not-found', 'This mailbox has no such folder.');
  if (change.fileAs === undefined) return null;
  const target = change.fileAs?.target ?? null;
  const recordId = change.fileAs && 'recordId' in change.fileAs ? change.fileAs.recordId : null;
  await tx.execute(
    sql`UPDATE mailbox_folders SET file_as = ${target}, file_record_id = ${recordId}, followed = followed OR ${target !== null} WHERE id = ${change.id}`,
  );
  const detail = `${folder.path} of ${mailbox.address}`;
  await tx.execute(
    sql`UPDATE emails SET decided_at = NULL WHERE id IN (SELECT email_id FROM gestures WHERE via = 'folder' AND detail = ${detail})`,
  );
  await tx.delete(gestures).where(and(eq(gestures.via, 'folder'), eq(gestures.detail, detail)));
  if (target === null) return null;
  await tx.execute(sql`WITH there AS (
      INSERT INTO gestures (email_id, via, target, record_id, detail, user_id, trusted)
      SELECT DISTINCT m.email_id, 'folder', ${target}, ${recordId}::bigint, ${detail}, ${mailbox.owner_id}::bigint, true FROM folder_messages m
      WHERE m.folder_id = ${change.id} AND m.email_id IS NOT NULL AND m.gone_at IS NULL ON CONFLICT DO NOTHING RETURNING email_id)
    UPDATE emails SET decided_at = NULL WHERE id IN (SELECT email_id FROM there)`);
  return null;
}

/** A folder stands for a record that whoever says so sees. @returns a refusal otherwise */
async function demandRecords(tx: Tx, settings: Settings): Promise<Refusal | null> {
  for (const { fileAs } of settings.folders ?? []) {
    if (!fileAs || !('recordId' in fileAs)) continue;
    const { rowCount } = await tx.execute(sql`SELECT FROM ${tableOf(fileAs.target)} WHERE id = ${fileAs.recordId}`);
    if (!rowCount) return new Refusal('unfit', 'bad-input', `There is no such ${nounOf(fileAs.target)}.`);
  }
  return null;
}

async function decideAnew(tx: Tx, mailboxId: number): Promise<void> {
  await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id IN (SELECT email_id FROM sightings WHERE mailbox_id = ${mailboxId})`);
}
