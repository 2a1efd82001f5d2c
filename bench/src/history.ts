import { routeTo } from '../../server/src/testing/routeTo';
import type { Destination } from '../../server/src/testing/routeTo';
import { call, owner, setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { report, timesOf } from './measure';
import { makeMillionWorld, MILLION } from './world/millionWorld';

const LONG = 10_000;
const ROUNDS = 7;

const median = async (work: () => Promise<unknown>): Promise<number> => (await timesOf(ROUNDS, work)).middle;

/** The first page of a long history, and search, among a million emails with permissions, each against the bare query. */
async function main(): Promise<void> {
  const size = { ...MILLION, emails: Number(process.env.BENCH_EMAILS ?? MILLION.emails) };
  const server = await startTestServer();
  try {
    const crew = await setUpCrew(server);
    await makeMillionWorld(server.ownerUrl, size);
    const run = (statement: string): Promise<Record<string, unknown>[]> => owner(server.ownerUrl, statement);
    // Half of the mail is seen by everyone; the reader owns none of it.
    await run(`UPDATE emails SET visibility = 'everyone' WHERE conversation_id % 2 = 1`);
    await run(`UPDATE email_contents SET search = to_tsvector('simple', subject || ' ' || body)`);
    await run(
      `INSERT INTO filings (email_id, kind, record_id, rule) SELECT id, 'account', 7, 'match.person' FROM emails WHERE outcome = 'filed' AND conversation_id % 80 IN (1, 5) ORDER BY id LIMIT ${LONG} ON CONFLICT DO NOTHING`,
    );
    await run('VACUUM ANALYZE');
    const [counted] = await run(`SELECT count(*)::int AS n FROM filings WHERE kind = 'account' AND record_id = 7`);
    const token = crew.tokens.rep;
    const heads = `SELECT e.conversation_id, max(e.sent_at), count(*) FROM filings f JOIN emails e ON e.id = f.email_id WHERE f.kind = 'account' AND f.record_id = 7 AND e.visibility = 'everyone' GROUP BY 1 ORDER BY 2 DESC LIMIT 13`;
    const bodies = `SELECT e.*, c.*, (SELECT json_agg(p) FROM participants p WHERE p.email_id = e.id), (SELECT json_agg(f) FROM filings f WHERE f.email_id = e.id) FROM emails e JOIN email_contents c ON c.email_id = e.id WHERE e.conversation_id IN (SELECT conversation_id FROM (${heads}) h)`;
    const get = async (target: Destination): Promise<number> => {
      const answer = await call(server.url, target, { token });
      if (answer.status !== 200) throw new Error(answer.text);
      return answer.json.conversations?.length ?? answer.json.emailTotal;
    };
    await get(routeTo('getHistory', { kind: 'account', id: 7 }));
    const bareHistory = await median(async () => {
      await run(heads);
      await run(bodies);
    });
    const history = await median(() => get(routeTo('getHistory', { kind: 'account', id: 7 })));
    const insights = await median(() => get(routeTo('getInsights', { kind: 'account', id: 7 })));
    const words = 'calibration staff';
    const search = `SELECT e.id FROM email_contents c JOIN emails e ON e.id = c.email_id WHERE c.search @@ websearch_to_tsquery('simple', '${words}') AND e.visibility = 'everyone' ORDER BY e.sent_at DESC LIMIT 12`;
    const count = `SELECT count(*) FROM email_contents c JOIN emails e ON e.id = c.email_id WHERE c.search @@ websearch_to_tsquery('simple', '${words}') AND e.visibility = 'everyone'`;
    const bareSearch = await median(async () => {
      await run(search);
      await run(count);
    });
    const found = await median(() => get(routeTo('search', { text: words })));
    const rare = await median(() => get(routeTo('search', { text: '77777' })));
    const never = await median(() => get(routeTo('search', { text: 'calibration visit' })));
    const ratio = (first: number, second: number): string => (first / second).toFixed(2);
    report(`history and search among ${size.emails} emails`, [
      ['emails of the history', String(counted?.n)],
      ['first page, bare SQL', `${bareHistory.toFixed(0)} ms`],
      ['first page, over HTTP with permissions', `${history.toFixed(0)} ms`],
      ['ratio', `${ratio(history, bareHistory)} (goal at most 2)`],
      ['what stands beside it', `${insights.toFixed(0)} ms`],
      ['search of a common word, bare SQL', `${bareSearch.toFixed(0)} ms`],
      ['the same, over HTTP with permissions', `${found.toFixed(0)} ms`],
      ['ratio', ratio(found, bareSearch)],
      ['search of a rare word', `${rare.toFixed(0)} ms`],
      ['search of two words that are never together', `${never.toFixed(0)} ms`],
    ]);
  } finally {
    await server.remove();
  }
}

await main();
