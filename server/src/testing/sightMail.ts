import { routeTo } from './routeTo';
import type { Destination } from './routeTo';
import type { Crew, PlainEmail, TestServer } from './testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from './testServer';
import type { ModelEmail, ModelState } from './sightModel';

export type Who = keyof Crew['tokens'];
export const WHO: readonly Who[] = ['admin', 'manager', 'rep', 'other', 'viewer'];

/** An email of the world as it was written. */
export interface Made extends PlainEmail {
  id: string;
  boxes: string[];
  conversation: string;
  people: string[];
}

const day = (ago: number): string => new Date(Date.now() - ago * 86_400_000).toUTCString().replace('GMT', '+0000');
export const IDA = 'ida@harbour.example';
export const KIM = 'kim@reef.example';
export const OLA = 'ola@marsh.example';

/** The mail of the world: each email has a word of its own, and one that all have. */
function mailOf(): Made[] {
  let ago = 25;
  const call = (id: string, from: string, boxes: string[], more: Partial<Made> = {}): Made => ({
    id,
    from,
    to: boxes.map((box) => `${box}@quillmere.example`).join(', '),
    subject: `Gauge ${id}`,
    text: `token${id} tide`,
    date: day((ago -= 1)),
    boxes,
    conversation: id,
    people: [from],
    ...more,
  });
  return [
    call('a1', IDA, ['rep']),
    call('a2', IDA, ['rep'], { references: '<a1>', conversation: 'a1' }),
    call('a3', IDA, ['rep', 'other'], { references: '<a1>', conversation: 'a1', subject: 'zeta Gauge a3' }),
    call('b1', KIM, ['other']),
    call('b2', KIM, ['other', 'manager'], { subject: 'QH-2002 zeta Gauge b2' }),
    call('c1', OLA, ['rep']),
    call('c2', OLA, ['manager']),
    call('d1', IDA, ['manager'], { cc: KIM, people: [IDA, KIM], subject: 'QH-2001 Gauge d1' }),
    call('n1', 'news@reef.example', ['rep'], { headers: 'List-Unsubscribe: <https://reef.example/off>\r\nList-Id: <news.reef.example>' }),
  ];
}

/** A server with records and mail, and the model of it as it begins. */
export async function makeSightWorld(): Promise<{ server: TestServer; crew: Crew; state: ModelState; mail: readonly Made[] }> {
  const server = await startTestServer();
  const crew = await setUpCrew(server);
  const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains,owner\nHarbour Oriel,harbour.example,manager@quillmere.example\nReef,reef.example,other@quillmere.example\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: `name,emails,account,owner\nIda Brandt,${IDA},Harbour Oriel,viewer@quillmere.example\nKim Aster,${KIM},Reef,\n`,
  });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: `code,name,account,people,open,owner\nQH-2001,Outer harbour,Harbour Oriel,${IDA},no,rep@quillmere.example\nQH-2002,Reef marks,Reef,${KIM},no,manager@quillmere.example\n`,
  });
  const teams = new Map<string, { id: number; members: number[] }>();
  for (const name of ['coast', 'rivers']) {
    const made = await admin(routeTo('addTeam'), { name, members: [] });
    teams.set(name, { id: made.json.id, members: [] });
  }
  const mail = mailOf();
  for (const box of ['rep', 'other', 'manager'])
    await importMail(server, crew.tokens.admin, `${box}@quillmere.example`, {
      [`${box}.mbox`]: mbox(mail.filter((email) => email.boxes.includes(box))),
    });
  const state = await firstState(server, crew, mail, teams);
  return { server, crew, state, mail };
}

/** Lines of a JSON Lines answer that name emails. */
export function lines(text: string): { messageId: string }[] {
  return text
    .split('\n')
    .filter(Boolean)
    .map((part) => JSON.parse(part) as { messageId: string });
}

async function firstState(server: TestServer, crew: Crew, mail: readonly Made[], teams: ModelState['teams']): Promise<ModelState> {
  const rows = await owner(server.ownerUrl, `SELECT e.id, e.message_id, e.outcome FROM emails e`);
  const filed = lines((await server.call(routeTo('exportDecisions'), { token: crew.tokens.admin })).text) as unknown as {
    messageId: string;
    filings: { kind: string; name: string }[];
  }[];
  const emails: ModelEmail[] = mail.map((email) => {
    const row = rows.find((it) => it.message_id === email.id);
    return {
      key: email.id,
      messageId: email.id,
      id: Number(row?.id),
      conversation: email.conversation,
      boxes: email.boxes,
      people: email.people,
      filings: (filed.find((it) => it.messageId === email.id)?.filings ?? []).map((it) => `${it.kind}:${it.name}`),
      keptOut: row?.outcome === 'kept out',
      marked: (email.subject ?? '').includes('zeta'),
    };
  });
  const boxes = await owner(server.ownerUrl, `SELECT id, split_part(address, '@', 1) AS name, owner_id FROM mailboxes`);
  const records: ModelState['records'] = new Map();
  for (const [kind, accountOf] of [
    ['account', 'NULL'],
    ['contact', 'account_id'],
    ['deal', 'account_id'],
  ] as const) {
    const found = await owner(
      server.ownerUrl,
      `SELECT r.id, r.name, r.owner_id, (SELECT 'account:' || a.name FROM accounts a WHERE a.id = ${accountOf}) AS account, ${kind === 'deal' ? `(SELECT array_agg(p.kind || ':' || c.name) FROM deal_people p JOIN contacts c ON c.id = p.person_id WHERE p.deal_id = r.id)` : 'NULL'} AS people FROM ${kind}s r`,
    );
    for (const row of found)
      records.set(`${kind}:${String(row.name)}`, {
        id: Number(row.id),
        owner: row.owner_id === null ? null : Number(row.owner_id),
        account: row.account === null ? null : String(row.account),
        team: [],
        people: (row.people as string[] | null) ?? [],
      });
  }
  const state: ModelState = {
    users: WHO.map((who) => ({ id: crew.ids[who], role: who === 'other' ? 'rep' : who })),
    emails,
    boxes: new Map(boxes.map((row) => [String(row.name), { id: Number(row.id), owner: Number(row.owner_id), users: [] }])),
    teams,
    records,
    usual: { level: 'owner', teams: [], existenceOnly: false },
    marked: { level: 'owner', teams: [], existenceOnly: false },
    words: [],
    grants: [],
    seals: [],
    emergencies: [],
    recordReach: 'all',
    owners: new Map(),
  };
  for (const email of emails)
    state.owners.set(
      email.key,
      email.boxes.map((box) => crew.ids[box as Who]),
    );
  return state;
}
