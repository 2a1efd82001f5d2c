import { rowsOf } from '../../base/db/rows';
import { Refusal, isRefusal } from '../../base/refusal';
import { endpoint, newMailbox } from '@fulvet/contract';
import { addressKey } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { readTable } from '../../base/reading/readTable';
import type { Services } from '../../base/services';
import { mailboxKey } from '../mailboxKey';
import { serversFor } from './beginMailbox';
import type { MailboxConnection } from '../mailbox';

/** One mailbox of a file, ready to be connected where `problem` is null. */
export interface ManyLine {
  line: number;
  address: string;
  problem: string | null;
  mailbox: z.output<typeof newMailbox>;
  connection: MailboxConnection;
  password: string | undefined;
}

const MOST = 2000;
const COLUMNS = ['address', 'kind', 'owner', 'user', 'password', 'aliases', 'imap_host', 'imap_port', 'smtp_host', 'smtp_port', 'security'];

const userRow = z.object({ id: z.number(), email: z.string() });

const mailboxRow = z.object({ address: z.string() });

/**
 * Reads a CSV of mailboxes: `address` and `password` are needed, the rest is found or left out. Nothing is changed.
 *
 * @returns a refusal when it is no such file
 */
export async function planMany(services: Services, text: string): Promise<ManyLine[] | Refusal> {
  const table = await readTable(services.blobs.readers, text, 'csv');
  if (isRefusal(table)) return table;
  const headers = table.headers.map((header) => header.trim().toLowerCase());
  const unknown = headers.filter((header) => header !== '' && !COLUMNS.includes(header));
  if (!headers.includes('address') || unknown.length > 0)
    return new Refusal(
      'unfit',
      'bad-file',
      `The first line has to name the columns: address and password, and if wanted ${COLUMNS.filter((column) => column !== 'address' && column !== 'password').join(', ')}.${unknown.length > 0 ? ` Unknown: ${unknown.join(', ')}.` : ''}`,
    );
  if (table.rows.length > MOST) return new Refusal('unfit', 'bad-file', `At most ${MOST} mailboxes at once.`);
  const users = await rowsOf(services.database.worker, userRow, sql`SELECT id, lower(email) AS email FROM users WHERE active`);
  const userIds = new Map(users.map((row) => [row.email, row.id]));
  const taken = await rowsOf(
    services.database.worker,
    mailboxRow,
    sql`SELECT address FROM mailboxes WHERE state NOT IN ('imported', 'closed', 'connecting')`,
  );
  const busy = new Set(taken.map((row) => row.address));
  const lines: ManyLine[] = [];
  for (const row of table.rows) {
    const cell = (name: string): string => (row.values[table.headers[headers.indexOf(name)] ?? ''] ?? '').trim();
    const line = await planLine(services, row.line, cell, userIds);
    const key = mailboxKey(line.address);
    if (line.problem === null && busy.has(key)) line.problem = 'is connected already, or stands in the file twice';
    busy.add(key);
    lines.push(line);
  }
  return lines;
}

async function planLine(
  services: Services,
  line: number,
  cell: (name: string) => string,
  userIds: ReadonlyMap<string, number>,
): Promise<ManyLine> {
  const address = cell('address');
  const kind = cell('kind') || 'person';
  const people = (cell('owner') || (kind === 'person' ? address : '')).toLowerCase();
  const ownerId = people === '' ? undefined : userIds.get(people);
  const parsed = newMailbox.safeParse({
    address,
    kind,
    aliases: cell('aliases')
      .split(/[;\s]+/)
      .filter(Boolean),
    ...(ownerId === undefined ? {} : { ownerId }),
  });
  const found = addressKey(address) ? await serversFor(services, address) : null;
  const server = (which: 'imap' | 'smtp', port: number) =>
    cell(`${which}_host`) === ''
      ? (found?.[which] ?? null)
      : (endpoint.safeParse({
          host: cell(`${which}_host`),
          port: Number(cell(`${which}_port`) || port),
          security: cell('security') || 'tls',
        }).data ?? null);
  const imap = server('imap', 993);
  const smtp = server('smtp', 465);
  const problem = !parsed.success
    ? parsed.error.issues.map((issue) => `${issue.path.join('.')} ${issue.message}`).join('; ')
    : people !== '' && ownerId === undefined
      ? `the owner ${people} is not on the team`
      : cell('password') === ''
        ? 'has no password; mailboxes that sign in at their provider are connected one by one'
        : !imap || !smtp
          ? 'its mail servers were not found: fill in imap_host and smtp_host'
          : null;
  const nowhere = { host: '', port: 0, security: 'tls' as const };
  return {
    line,
    address,
    problem,
    mailbox: parsed.data ?? { address, kind: 'person', aliases: [], userIds: [] },
    connection: {
      preset: services.presets.ofHost(imap?.host ?? '').id,
      imap: imap ?? nowhere,
      smtp: smtp ?? nowhere,
      signIn: 'password',
      userName: cell('user') || address,
    },
    password: cell('password') || undefined,
  };
}
