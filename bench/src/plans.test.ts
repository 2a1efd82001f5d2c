import { afterAll, beforeAll, expect, jest, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../server/src/base/db/database';
import { allMailPage } from '../../server/src/emails/allMail';
import { domainMail } from '../../server/src/emails/domainMail';
import { emailRows } from '../../server/src/emails/emailRows';
import { historyOf, historyPage } from '../../server/src/histories/history';
import { mailboxList } from '../../server/src/mailboxes/mailboxList';
import { eventsBefore } from '../../server/src/mailboxes/queries';
import { changesOf } from '../../server/src/records/queries';
import { recordDetail } from '../../server/src/records/recordDetail';
import { searchRecords } from '../../server/src/records/recordList';
import { deskCases } from '../../server/src/repairs/deskCases';
import { repairsAbout } from '../../server/src/repairs/queries';
import { arrivalOf } from '../../server/src/reports/arrival';
import { liveRulebook } from '../../server/src/rulebook/liveRulebook';
import type { Crew, TestServer } from '../../server/src/testing/testServer';
import { owner, setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { auditPageOf } from '../../server/src/workspace/auditPages';
import { makeMillionWorld } from './world/millionWorld';

jest.setTimeout(240_000);

const SIZE = { emails: 40_000, accounts: 1000, contacts: 5000 };
/** A table with so many rows is one that grows with the mail, or with what is done. */
const BIG_ROWS = 10_000;
/** A page may sort what it shows, not the whole. */
const MOST_SORTED = 5000;

let server: TestServer;
let crew: Crew;
let big: ReadonlySet<unknown>;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await makeMillionWorld(server.ownerUrl, SIZE);
  const many = (statement: string): Promise<unknown> => owner(server.ownerUrl, statement);
  await many(
    `INSERT INTO record_changes (kind, record_id, user_id, field, before, after) SELECT 'account', 1 + i % 500, ${crew.ids.admin}, 'name', 'a', 'b' FROM generate_series(1, 20000) i`,
  );
  await many(
    `INSERT INTO mailbox_events (mailbox_id, level, message, said) SELECT (SELECT min(id) FROM mailboxes) + i % 20, 'note', 'Looked.', '' FROM generate_series(1, 20000) i`,
  );
  // Half of the mail is seen by everyone; some words are in most emails, some in few.
  await many(`UPDATE emails SET visibility = 'everyone' WHERE conversation_id % 2 = 1`);
  await many(
    `UPDATE email_contents SET search = to_tsvector('simple', subject || ' ' || body || ' tenth' || email_id % 10 || ' hundredth' || email_id % 100)`,
  );
  await many('VACUUM ANALYZE');
  big = new Set((await owner(server.ownerUrl, `SELECT relname FROM pg_class WHERE reltuples >= ${BIG_ROWS}`)).map((row) => row.relname));
});
afterAll(() => server.remove());

interface Plan {
  'Node Type': string;
  'Relation Name'?: string;
  'Plan Rows': number;
  Plans?: Plan[];
}

/** What of a plan grows with the mail: scans of whole big tables that no limit ends, and sorting what they hold. */
function growing(plan: Plan, isLimited = false): string[] {
  const { 'Node Type': node, 'Relation Name': table = '', 'Plan Rows': rows, Plans: parts = [] } = plan;
  const scans = node === 'Seq Scan' && !isLimited && big.has(table);
  const sorts = node.includes('Sort') && rows > MOST_SORTED;
  const here = scans ? [`${node} of ${table}`] : sorts ? [node] : [];
  return [...here, ...parts.flatMap((part) => growing(part, node === 'Limit' || (isLimited && node === 'Gather')))];
}

/** Runs the queries of a page as a member, and says what of their plans grows with the mail. */
async function plansOf(userId: number, page: (tx: Tx) => Promise<unknown>): Promise<string[]> {
  const found: string[] = [];
  let queries = 0;
  await server.services.database.as(userId, async (tx) => {
    const explained = new Proxy(tx, {
      get: (target, key) =>
        key === 'execute'
          ? async (query: Parameters<Tx['execute']>[0]) => {
              const { rows } = await target.execute(sql`EXPLAIN (FORMAT JSON) ${query}`);
              const [explanation] = rows as { 'QUERY PLAN': { Plan: Plan }[] }[];
              for (const { Plan: plan } of explanation?.['QUERY PLAN'] ?? []) found.push(...growing(plan));
              queries += 1;
              return target.execute(query) as Promise<unknown>;
            }
          : (Reflect.get(target, key) as unknown),
    });
    await page(explained);
  });
  expect(queries).toBeGreaterThan(0);
  return found;
}

const FIRST = { limit: 50 };
const ADMIN = { email: 'admin@quillmere.example', name: 'Ada Admin', role: 'admin' } as const;

test('no page reads or sorts all mail', async () => {
  const { compiled } = await liveRulebook(server.services.database);
  const mailbox = Number((await owner(server.ownerUrl, 'SELECT min(id) AS id FROM mailboxes'))[0]?.id);
  const pages: Record<string, (tx: Tx) => Promise<unknown>> = {
    'all mail': (tx) => allMailPage(tx, FIRST),
    'all mail, further on': async (tx) => allMailPage(tx, { ...FIRST, after: `${(Date.now() - 86_400_000 * 300) * 1000}.20000` }),
    'all mail that is filed': (tx) => allMailPage(tx, { ...FIRST, outcome: 'filed' }),
    'all mail that was sent': (tx) => allMailPage(tx, { ...FIRST, direction: 'sent' }),
    'all mail that was sent and not answered': (tx) => allMailPage(tx, { ...FIRST, answered: 'no' }),
    'all mail of a conversation': (tx) => allMailPage(tx, { ...FIRST, conversation: 4001 }),
    'rows of emails': (tx) => emailRows(tx, [39_000, 39_001, 39_002], compiled),
    'history of an account': (tx) => historyPage(tx, historyOf('account', 7), FIRST, compiled),
    'history of a contact': (tx) => historyPage(tx, historyOf('contact', 70), FIRST, compiled),
    'history of a domain': (tx) => historyPage(tx, domainMail('company-7.example'), FIRST, compiled),
    'all mail of a domain': (tx) => allMailPage(tx, { ...FIRST, domain: 'company-7.example' }),
    mailboxes: (tx) => mailboxList(tx, { ...ADMIN, id: crew.ids.admin }),
    'home page': (tx) => arrivalOf(tx, { ...ADMIN, id: crew.ids.admin }),
    'sorting desk': (tx) => deskCases(tx, { ...ADMIN, id: crew.ids.admin }, 'all', 20, compiled),
    'page of an account': (tx) => recordDetail(tx, 'account', 7, compiled),
    'changes of an account': (tx) => changesOf(tx, 'account', 7),
    'search of records': (tx) => searchRecords(tx, 'company 77'),
    'log of a mailbox': (tx) => eventsBefore(tx, mailbox, null, 50),
    'audit log': (tx) => auditPageOf(tx, { limit: 50 }),
    repairs: (tx) => repairsAbout(tx, crew.ids.admin, { limit: 20 }),
  };
  expect([...big]).toEqual(expect.arrayContaining(['emails', 'participants', 'filings', 'record_changes', 'mailbox_events']));
  const growth: Record<string, string[]> = {};
  for (const who of ['admin', 'rep'] as const)
    for (const [name, page] of Object.entries(pages)) {
      const found = await plansOf(crew.ids[who], page);
      if (found.length > 0) growth[`${name}, as ${who}`] = found;
    }
  expect(growth).toEqual({});
});

const WORDS = [
  'morning',
  'calibration',
  'good morning',
  'calibration staff',
  'calibration visit',
  'tenth3',
  'tenth3 tenth4',
  'hundredth7 morning',
  'hundredth7',
  '777',
  'nowhere',
  'visit -tenth3',
  'the or 777',
];

test.each(WORDS)('the search for “%s” finds what each email would be asked for, page after page', async (words) => {
  const readable = `WHERE c.search @@ websearch_to_tsquery('simple', $1) AND (e.visibility = 'everyone' OR $2 = ANY (e.owner_ids))`;
  const member = Number((await owner(server.ownerUrl, `SELECT min(id) AS id FROM users WHERE email LIKE 'member%'`))[0]?.id);
  for (const reader of [crew.ids.rep, member]) {
    const right = await owner(
      server.ownerUrl,
      `SELECT e.id::int AS id FROM email_contents c JOIN emails e ON e.id = c.email_id ${readable} ORDER BY e.sent_at DESC, e.id DESC`,
      [words, reader],
    );
    const found: number[] = [];
    let after: string | undefined;
    for (let page = 0; page < 5; page += 1) {
      const { ids, next, total, isMore } = await server.services.database.as(reader, (tx) =>
        allMailPage(tx, { text: words, limit: 40, ...(after === undefined ? {} : { after }) }),
      );
      if (page === 0) {
        expect(total).toBeLessThanOrEqual(Math.min(right.length, 1000));
        if (isMore) expect(total).toBeGreaterThanOrEqual(Math.min(right.length - 1, 40));
        else expect(total).toBe(right.length);
      }
      found.push(...ids);
      if (next === null) break;
      after = next;
    }
    expect(found).toEqual(right.slice(0, 200).map((row) => row.id));
  }
});
