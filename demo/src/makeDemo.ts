import { cautiousRulebook } from '@fulvet/core';
import { taken } from './taken';
import type { Rulebook } from '@fulvet/core';
import type { Services } from '@fulvet/server';
import {
  applyImport,
  createToken,
  hashPassword,
  liveRulebook,
  planImport,
  putRulebook,
  readCsv,
  followLateActivity,
  runDecisions,
  endImport,
  runImport,
  Work,
  setDealStages,
  setOwnFields,
  uploadName,
} from '@fulvet/server';
import { stringify } from 'csv-stringify/sync';
import { mkdir, open } from 'node:fs/promises';
import { join } from 'node:path';
import { planDemo } from './plan';
import { connectTeam } from './post';
import type { Outsider, World } from './world';
import { asciiOf, OWN_DOMAIN, PROVIDER, STAGES } from './world';

const PASSWORD = 'tide-gauge-demo';

/** Who can sign in to the demo world. */
export const demoSignIns = [
  'Hedda Quillmere:admin',
  'Matteo Brandvold:manager',
  'Nadia Okonjira:rep',
  'Jonas Fenwhistle:rep',
  'Astrid Pellworm:viewer',
].map((value) => {
  const [name = '', role = ''] = value.split(':');
  return { email: `${asciiOf(name).replace(' ', '.')}@${OWN_DOMAIN}`, role, password: PASSWORD };
});

export interface DemoOptions {
  /** Folder for the mailbox files. */
  folder: string;
  now: number;
  say: (line: string) => void;
  seed?: number;
  emails?: number;
  /** The mailboxes live at the provider, filled by `fillPost` from the same plan, and are connected; else they are imported from files. */
  atProvider?: boolean;
}

/**
 * Fills an empty installation with the demo world: people and records as CSV through the records import, mail from the provider's
 * mailboxes or as mbox files, through the real ingest.
 *
 * @returns an access token of the administrator
 */
export async function makeDemo(services: Services, options: DemoOptions): Promise<string> {
  options.say('Making the demo world …');
  const plan = planDemo(options);
  const { world } = plan;
  const { userIds, token } = await setUpWorld(services, world, demoRulebook(options.now));
  const gone = new Set(world.team.filter((teammate) => teammate.left).map((teammate) => teammate.email));
  for (const { address, parts } of plan.mailboxes.mboxes()) {
    if (options.atProvider && !gone.has(address)) continue;
    await importMailbox(services, address, parts, userIds);
    options.say(`  ${address.padEnd(40)} ${String(parts.length).padStart(6)} messages read from a file`);
  }
  if (options.atProvider) await connectTeam(services, world, userIds, options.say);
  options.say('Deciding …');
  const report = await runDecisions(services.database, services.blobs, 'undecided');
  await followLateActivity(services.database, services.blobs);
  options.say(`  ${report.decided} decided`);
  return token;
}

function demoRulebook(now: number): Rulebook {
  const rulebook = cautiousRulebook([OWN_DOMAIN]);
  rulebook.us.providers.added = [PROVIDER];
  Object.assign(rulebook.create, { people: 'contact', after: 'weWrote', accounts: true });
  rulebook.share.level = 'everyone';
  const added = new Date(now - 200 * 86_400_000).toISOString();
  const entry = (id: string, kind: 'domain' | 'address', value: string, note: string): Rulebook['keepOut']['entries'][number] => ({
    id,
    kind,
    value,
    exactly: false,
    effect: 'ignore',
    note,
    addedBy: 'Hedda Quillmere',
    addedAt: added,
  });
  rulebook.keepOut.entries = [
    entry('law', 'domain', 'amaro-partners.example', 'Our lawyers'),
    entry('press', 'domain', 'shorelines-press.example', 'Press enquiries go to the board'),
    entry('recruiter', 'domain', 'talentbridge.example', 'Recruiter'),
    entry('school', 'domain', 'larkfield-school.example', 'Private'),
    entry('dentist', 'address', 'reception@dr-molar.example', 'Private'),
    entry('parts', 'domain', 'sensor-parts.example', 'Advertising'),
  ];
  return rulebook;
}

/** Who belongs to a world, by address, and under `admin` its administrator; and an access token of theirs. */
export interface SetUpWorld {
  userIds: ReadonlyMap<string, number>;
  token: string;
}

/** Fills an empty installation with a world's members, its rulebook and its records; its mail comes after. */
export async function setUpWorld(services: Services, world: World, rulebook: Rulebook): Promise<SetUpWorld> {
  const made = await setUpTeam(services, world, rulebook);
  for (const kind of IMPORT_ORDER) await importRecords(services, world, kind, made.userIds.get('admin') ?? 0);
  return made;
}

/** A world's members and its rulebook, without any records. */
export async function setUpTeam(services: Services, world: World, rulebook: Rulebook): Promise<SetUpWorld> {
  const made = await setUp(services, world, rulebook);
  await setUpRecords(services, made.userIds.get('admin') ?? 0);
  return made;
}

/** Known passwords are created in a database made for the demo, a test or a benchmark, and only while no one is in it. */
async function demandOwnDatabase({ database }: Services): Promise<void> {
  const { rows } = await database.workerPool.query<{ name: string; used: boolean }>(
    'SELECT current_database() AS name, EXISTS (SELECT FROM users) AS used',
  );
  if (!rows[0] || !/^(?:fulvet_demo$|test_|bench_)/.test(rows[0].name) || rows[0].used)
    throw new Error(`The demo world is made in a database of its own, and ${rows[0]?.name ?? 'this one'} is not. Nothing was changed.`);
}

async function setUp(services: Services, world: World, rulebook: Rulebook): Promise<SetUpWorld> {
  await demandOwnDatabase(services);
  const userIds = new Map<string, number>();
  const passwordHash = await hashPassword(PASSWORD);
  const signIns = new Set(demoSignIns.map((item) => item.email));
  const { appPool } = services.database;
  await appPool.query('INSERT INTO workspace (name) VALUES ($1)', ['Quillmere Hydrometrics']);
  for (const teammate of world.team) {
    const { rows } = await appPool.query<{ id: number }>(
      'INSERT INTO users (email, name, role, password_hash, active) VALUES ($1, $2, $3, $4, $5) RETURNING id',
      [teammate.email, teammate.name, teammate.role, signIns.has(teammate.email) ? passwordHash : null, !teammate.left],
    );
    userIds.set(teammate.email, rows[0]?.id ?? 0);
    if (teammate.role === 'admin') userIds.set('admin', rows[0]?.id ?? 0);
  }
  const admin = userIds.get('admin') ?? 0;
  const token = await services.database.as(admin, async (tx) => {
    await putRulebook(tx, rulebook, 'First set-up', admin);
    return (await createToken(tx, admin, 'Local use')).token;
  });
  return { userIds, token };
}

const REGIONS = ['North coast', 'South coast', 'Rivers', 'Islands'];

/** What the workspace has added to its records, and the stages that its deals go through. */
async function setUpRecords(services: Services, admin: number): Promise<void> {
  await services.database.as(admin, async (tx) => {
    taken(await setOwnFields(tx, { kind: 'account' }, [{ label: 'Region', type: 'choice', choices: REGIONS }]));
    taken(await setOwnFields(tx, { kind: 'deal' }, [{ label: 'Gauges', type: 'number', choices: [] }]));
    const closed = ['Won', 'Lost'].map((name) => ({ id: null, name, open: false }));
    taken(await setDealStages(tx, admin, [...STAGES.map((name) => ({ id: null, name, open: true })), ...closed]));
  });
}

/** People who were entered a second time, as it happens: turned around, with a slip, with a private address. */
function enteredTwice(contacts: readonly Outsider[]): string[][] {
  return contacts.slice(4, 40).flatMap((contact, at) => {
    if (at % 9 !== 0) return [];
    const [first = '', ...rest] = contact.name.split(' ');
    const last = rest.join(' ');
    const name = at % 18 === 0 ? `${last}, ${first}` : `${first} ${last.slice(0, -2)}${last.slice(-1)}`;
    return [[name, `${contact.email.split('@')[0] ?? ''}@${PROVIDER}`, '', '', at % 18 === 0 ? contact.phone : '', '']];
  });
}

/** Records name those of kinds before theirs. */
export const IMPORT_ORDER = ['account', 'contact', 'lead', 'deal'] as const;

/**
 * A world's records of a kind, through the records import.
 *
 * @returns whose mail is to be decided again for it
 */
export async function importRecords(
  services: Services,
  world: World,
  kind: (typeof IMPORT_ORDER)[number],
  admin: number,
): Promise<Awaited<ReturnType<typeof applyImport>>> {
  const contacts = world.outsiders.filter((outsider) => outsider.kind === 'contact');
  const files = {
    account: [
      ['name', 'domains', 'parent', 'type', 'owner', 'region'],
      ...world.companies
        .filter((company) => company.onRecord)
        .map((company, at) => [
          company.name,
          company.domains.join(';'),
          company.parent ?? '',
          company.type,
          company.owner.email,
          REGIONS[at % REGIONS.length] ?? '',
        ]),
    ],
    contact: [
      ['name', 'emails', 'account', 'title', 'phone', 'owner'],
      ...contacts.map((contact) => [
        contact.name,
        [contact.email, contact.otherEmail ?? []].flat().join(';'),
        contact.company.name,
        contact.title,
        contact.phone,
        contact.company.owner.email,
      ]),
      ...enteredTwice(contacts),
    ],
    lead: [
      ['name', 'emails', 'company', 'status', 'owner'],
      ...world.outsiders
        .filter((outsider) => outsider.kind === 'lead')
        .map((outsider, at) => [
          outsider.name,
          outsider.email,
          outsider.company.name,
          ['new', 'contacted', 'qualified'][at % 3] ?? 'new',
          outsider.company.owner.email,
        ]),
    ],
    deal: [
      ['code', 'name', 'account', 'owner', 'stage', 'open', 'amount', 'currency', 'people', 'opened_on', 'closed_on', 'gauges'],
      ...world.deals.map((deal, at) => [
        deal.code,
        deal.name,
        deal.company.name,
        deal.owner.email,
        deal.stage,
        deal.open ? 'yes' : 'no',
        String(deal.amount),
        'EUR',
        [...new Set(deal.people.map((who) => who.email))].join(';'),
        deal.openedOn ?? '',
        deal.closedOn ?? '',
        String(3 + ((at * 7) % 22)),
      ]),
    ],
  } as const;
  const { compiled } = await liveRulebook(services.database);
  return services.database.as(admin, async (tx) => {
    const plan = await planImport(tx, kind, readCsv(stringify(files[kind].map((row) => [...row]))), {}, compiled);
    if (plan.bad.length > 0)
      throw new Error(`The demo's ${kind}s cannot be taken: line ${plan.bad[0]?.line ?? 0}: ${plan.bad[0]?.reason ?? ''}`);
    return applyImport(tx, plan, admin);
  });
}

/** Reads a mailbox of a world from the parts of an mbox, through the real ingest. */
export async function importMailbox(
  services: Services,
  address: string,
  parts: readonly Uint8Array[],
  userIds: ReadonlyMap<string, number>,
): Promise<void> {
  const owner = userIds.get(address) ?? userIds.get(`matteo.brandvold@${OWN_DOMAIN}`) ?? 0;
  const { workerPool } = services.database;
  const mailbox = await workerPool.query<{ id: number }>('INSERT INTO mailboxes (address, owner_id) VALUES ($1, $2) RETURNING id', [
    address,
    owner,
  ]);
  const size = parts.reduce((sum, part) => sum + part.length, 0);
  const created = await workerPool.query<{ id: number; work_id: number }>(
    `WITH w AS (INSERT INTO work (kind, phase) VALUES ('import', 'reading') RETURNING id)
     INSERT INTO imports (work_id, mailbox_id, user_id, file_names, total_bytes) SELECT w.id, $1, $2, $3, $4 FROM w RETURNING id, work_id`,
    [mailbox.rows[0]?.id, userIds.get('admin'), [`${address}.mbox`], size],
  );
  const importId = created.rows[0]?.id ?? 0;
  const folder = join(services.uploads, String(importId));
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const file = await open(join(folder, uploadName(0)), 'w', 0o600);
  for (const part of parts) await file.write(part);
  await file.close();
  const work = new Work(services.database.worker, created.rows[0]?.work_id ?? 0);
  await runImport(services.database, services.blobs, services.uploads, importId, work);
  await endImport(services.database, services.uploads, importId);
}
