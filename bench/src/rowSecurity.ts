import { drizzle } from 'drizzle-orm/node-postgres';
import pg from 'pg';
import type { Tx } from '../../server/src/base/db/database';
import { allMailPage } from '../../server/src/emails/allMail';
import { historyOf, historyPage } from '../../server/src/histories/history';
import { owner, setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { liveRulebook } from '../../server/src/rulebook/liveRulebook';
import { report } from './measure';
import { makeMillionWorld, MILLION } from './world/millionWorld';

const LONG = 10_000;
const ROUNDS = 41;
const WORDS = 'calibration staff';

/** Middle times of two kinds of work, taken by turns so that both meet the same weather. */
async function byTurns(first: () => Promise<unknown>, second: () => Promise<unknown>): Promise<[number, number]> {
  const taken: [number[], number[]] = [[], []];
  for (let round = 0; round < ROUNDS; round += 1)
    for (const [at, work] of [first, second].entries()) {
      const from = performance.now();
      await work();
      taken[at as 0 | 1].push(performance.now() - from);
    }
  return taken.map((list) => list.sort((a, b) => a - b)[ROUNDS >> 1] ?? 0) as [number, number];
}

/**
 * What row security costs: the very same queries, by the role that it binds for a member who may read all of this mail, and by the owner of the tables, whom it
 * does not bind.
 */
async function main(): Promise<void> {
  const size = { ...MILLION, emails: Number(process.env.BENCH_EMAILS ?? MILLION.emails) };
  const server = await startTestServer();
  const pool = new pg.Pool({ connectionString: server.ownerUrl, max: 1 });
  try {
    const crew = await setUpCrew(server);
    await makeMillionWorld(server.ownerUrl, size);
    const run = (statement: string): Promise<Record<string, unknown>[]> => owner(server.ownerUrl, statement);
    await run(`UPDATE emails SET visibility = 'everyone'`);
    await run(`UPDATE email_contents SET search = to_tsvector('simple', subject || ' ' || body)`);
    await run(
      `INSERT INTO filings (email_id, kind, record_id, rule) SELECT id, 'account', 7, 'match.person' FROM emails WHERE outcome = 'filed' AND conversation_id % 80 IN (1, 5) ORDER BY id LIMIT ${LONG} ON CONFLICT DO NOTHING`,
    );
    // What the functions that carry the same condition ask, without it.
    await run(`CREATE SCHEMA bare`);
    await run(
      `CREATE FUNCTION bare.fulvet_search_emails(words text, at_most integer) RETURNS TABLE (email_id bigint, sent_at timestamptz) LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$ SELECT e.id, e.sent_at FROM email_contents c JOIN emails e ON e.id = c.email_id WHERE c.search @@ websearch_to_tsquery('simple', words) ORDER BY e.sent_at DESC LIMIT at_most $$`,
    );
    await run(
      `CREATE FUNCTION bare.fulvet_record_mail(wanted_kind text, wanted bigint[]) RETURNS TABLE (record_id bigint, email_id bigint, conversation_id bigint, sent_at timestamptz, direction text, mail_class text) LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = public AS $$
       BEGIN RETURN QUERY
       WITH those AS (SELECT wanted_kind AS kind, w.id, w.id AS belongs_to FROM unnest(wanted) w(id) UNION ALL SELECT 'deal', d.id, d.account_id FROM deals d WHERE wanted_kind = 'account' AND d.account_id = ANY (wanted)),
         mail AS (SELECT DISTINCT t.belongs_to, f.email_id FROM those t JOIN filings f ON f.kind = t.kind AND f.record_id = t.id)
       SELECT m.belongs_to, e.id, e.conversation_id, e.sent_at, e.direction, e.mail_class FROM mail m JOIN emails e ON e.id = m.email_id; END $$`,
    );
    await run('VACUUM ANALYZE');
    const { compiled } = await liveRulebook(server.services.database);
    const db = drizzle(pool, { casing: 'snake_case' });
    const bound = <T>(work: (tx: Tx) => Promise<T>): Promise<T> => server.services.database.as(crew.ids.rep, work);
    const free = <T>(work: (tx: Tx) => Promise<T>): Promise<T> =>
      db.transaction(async (tx) => {
        await tx.execute(`SELECT set_config('fulvet.user_id', '${crew.ids.rep}', true), set_config('search_path', 'bare, public', true)`);
        return work(tx as unknown as Tx);
      });
    const history = (tx: Tx): Promise<unknown> => historyPage(tx, historyOf('account', 7), { limit: 12 } as never, compiled);
    const search = (tx: Tx): Promise<unknown> => allMailPage(tx, { text: WORDS, limit: 60 } as never);
    const first = { bound: JSON.stringify(await bound(history)), free: JSON.stringify(await free(history)) };
    if (first.bound !== first.free) throw new Error('The two readers are not given the same.');
    const [historyBound, historyFree] = await byTurns(
      () => bound(history),
      () => free(history),
    );
    const [searchBound, searchFree] = await byTurns(
      () => bound(search),
      () => free(search),
    );
    const ms = (value: number): string => `${value.toFixed(0)} ms`;
    report(`row security among ${size.emails} emails`, [
      ['history, with it', ms(historyBound)],
      ['history, without', ms(historyFree)],
      ['ratio', `${(historyBound / historyFree).toFixed(2)} (goal at most 1.25)`],
      ['search of a common word, with it', ms(searchBound)],
      ['search, without', ms(searchFree)],
      ['ratio', `${(searchBound / searchFree).toFixed(2)} (goal at most 1.25)`],
    ]);
  } finally {
    await pool.end();
    await server.remove();
  }
}

await main();
