import { MailStore } from '@fulvet/mailhost';
import type { Ports } from '@fulvet/mailhost';
import type { Services } from '@fulvet/server';
import {
  beginMailbox,
  connectCalendars,
  followCalendar,
  loadMailbox,
  putSettings,
  runChecks,
  serversFor,
  startMailbox,
  storeConnection,
} from '@fulvet/server';
import { setTimeout as pause } from 'node:timers/promises';
import { fillCalendars } from './calendars';
import type { DemoPlan } from './plan';
import { taken } from './taken';
import type { Teammate, World } from './world';
import { OWN_DOMAIN } from './world';

/** Password of every mailbox at the made-up provider. */
export const MAIL_PASSWORD = 'harbour-light-7';
/** This mailbox lies at the provider and is not connected yet, for someone to try it. */
export const UNCONNECTED = `kenji.moorcrest@${OWN_DOMAIN}`;
/** Filing addresses lead here: `filing+CODE@…`. */
const FILING = `filing@${OWN_DOMAIN}`;
/** Keeps the own mail to herself: sharing is a person's choice. */
const PRIVATE = `freya.zandvoorde@${OWN_DOMAIN}`;
const SHARED_BY = ['nadia.okonjira', 'ines.marchetta', 'freya.zandvoorde'].map((value) => `${value}@${OWN_DOMAIN}`);

const stillHere = (world: World): Teammate[] => world.team.filter((teammate) => !teammate.left);

/**
 * Puts the demo's mail into the provider's mailboxes, before the provider starts.
 *
 * @param folder the provider's folder, empty
 */
export function fillPost(folder: string, { world, mailboxes, now }: DemoPlan): void {
  const store = new MailStore(folder);
  for (const { email } of stillHere(world)) store.addAccount(email, MAIL_PASSWORD);
  store.addAccount(world.shared, MAIL_PASSWORD, { sharedWith: SHARED_BY });
  store.addAccount(FILING, MAIL_PASSWORD);
  for (const { address, list } of mailboxes.messages()) {
    const account = store.accounts.get(address);
    if (!account) continue;
    for (const { at, sender, raw } of list) {
      const folderOf = account.folders.get(sender === address ? 'Sent' : 'INBOX');
      if (folderOf) store.append(account, folderOf, Buffer.from(raw), { at: new Date(at), flags: ['\\Seen'] });
    }
  }
  fillCalendars(store, world, now);
}

/** Connects the team's mailboxes as an administrator does, with all checks, and waits until they are read. */
export async function connectTeam(
  services: Services,
  world: World,
  userIds: ReadonlyMap<string, number>,
  say: (line: string) => void,
): Promise<void> {
  const hedda = world.team.find((teammate) => teammate.role === 'admin');
  const admin = { id: userIds.get('admin') ?? 0, email: hedda?.email ?? '', name: hedda?.name ?? '', role: 'admin' as const };
  const id = (email: string): number => userIds.get(email) ?? admin.id;
  const wanted = [
    ...stillHere(world)
      .filter((teammate) => teammate.email !== UNCONNECTED)
      .map(({ email }) => ({ address: email, kind: 'person' as const, ownerId: id(email), aliases: [], userIds: [] })),
    {
      address: world.shared,
      kind: 'shared' as const,
      ownerId: id(`matteo.brandvold@${OWN_DOMAIN}`),
      aliases: [],
      userIds: SHARED_BY.map(id),
    },
    { address: FILING, kind: 'filing' as const, ownerId: admin.id, aliases: [], userIds: [] },
  ];
  say(`Connecting ${wanted.length} mailboxes at Longshore Mail …`);
  const mailboxIds = await Promise.all(
    wanted.map(async (item) => {
      const mailboxId = taken(await beginMailbox(services, admin, item));
      const { imap, smtp, preset } = await serversFor(services, item.address);
      const mailbox = await loadMailbox(services.database.worker, mailboxId);
      if (!imap || !smtp || !mailbox) throw new Error(`The provider does not know ${item.address}.`);
      await storeConnection(services, mailbox, { preset, imap, smtp, signIn: 'password', userName: item.address }, MAIL_PASSWORD);
      await runChecks(services, mailboxId, 'name');
      const share = item.address === PRIVATE ? 'owner' : 'rules';
      // What others see of a mailbox, its owner says.
      taken(await putSettings(services, { ...admin, id: item.ownerId }, mailbox, { share, readSinceDays: null }));
      taken(await startMailbox(services, admin, mailboxId));
      return item.kind === 'person' ? mailboxId : null;
    }),
  );
  await inStep(services, say);
  await followCalendars(services, admin, mailboxIds);
}

/** Follows the calendars of the members, and waits until they are read. */
async function followCalendars(services: Services, admin: Admin, mailboxIds: readonly (number | null)[]): Promise<void> {
  const url = new URL(services.presets.get('longshore').redirect?.authorizeUrl ?? '').origin;
  for (const mailboxId of mailboxIds) {
    const mailbox = mailboxId === null ? null : await loadMailbox(services.database.worker, mailboxId);
    if (!mailbox) continue;
    const { calendars } = taken(await connectCalendars(services, admin, mailbox, { url, userName: '', password: '' }));
    for (const { id, name, kind } of calendars.filter((calendar) => calendar.kind === 'caldav'))
      taken(await followCalendar(services, admin, { id, name, kind, mailboxId: mailbox.id, ownerId: mailbox.owner_id }, true));
  }
  for (let open = 1; open > 0;) {
    const { rows } = await services.database.workerPool.query<{ open: number }>(
      `SELECT count(*)::int AS open FROM calendars WHERE followed AND read_at IS NULL AND problem IS NULL`,
    );
    open = rows[0]?.open ?? 0;
    await pause(200);
  }
}

type Admin = Parameters<typeof startMailbox>[1];

async function inStep({ database }: Services, say: (line: string) => void): Promise<void> {
  for (let told = -1; ;) {
    const { rows } = await database.workerPool.query<{ open: number; emails: number }>(`
      SELECT (SELECT count(*)::int FROM mailboxes WHERE state = 'running' AND (last_contact_at IS NULL OR backlog > 0)) + (SELECT count(*)::int FROM emails WHERE decided_at IS NULL) AS open,
        (SELECT count(*)::int FROM emails) AS emails`);
    const { open = 0, emails = 0 } = rows[0] ?? {};
    const thousands = Math.floor(emails / 1000);
    if (thousands > told) say(`  ${String(emails).padStart(6)} emails read`);
    told = Math.max(told, thousands);
    if (open === 0) return;
    await pause(200);
  }
}

/** Points the connected mailboxes at the provider's ports, where those are others than last time. */
export async function moveToPorts({ database }: Services, ports: Ports): Promise<void> {
  await database.workerPool.query(
    `UPDATE mailboxes SET connection = jsonb_set(jsonb_set(connection, '{imap,port}', to_jsonb($1::int)), '{smtp,port}', to_jsonb($2::int)), revision = revision + 1
     WHERE connection ->> 'preset' = 'longshore' AND connection -> 'imap' ->> 'security' = 'tls' AND ((connection #>> '{imap,port}')::int, (connection #>> '{smtp,port}')::int) IS DISTINCT FROM ($1::int, $2::int)`,
    [ports.imaps, ports.submissions],
  );
  for (const table of ['calendar_accounts', 'calendars'])
    await database.workerPool.query(
      `UPDATE ${table} SET url = regexp_replace(url, '^http://127\\.0\\.0\\.1:\\d+', $1) WHERE url ~ '^http://127\\.0\\.0\\.1:'`,
      [`http://127.0.0.1:${ports.web}`],
    );
}
