import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const DAY = 86_400_000;
const OUTCOMES = ['filed', 'waiting', 'unfiled', 'kept out', 'sealed'] as const;
let server: TestServer;
let crew: Crew;
/** Age in days, outcome, rule that decided a step, of each email. */
let emails: { age: number; outcome: (typeof OUTCOMES)[number]; rule: string }[];

/** Random numbers that repeat. */
let state = 11;
const random = (): number => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 32;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  emails = Array.from({ length: 600 }, () => ({
    age: random() * 80,
    outcome: OUTCOMES[Math.floor(random() * OUTCOMES.length)] ?? 'filed',
    rule: random() < 0.2 ? 'r1' : 'r2',
  }));
  // A rule that takes much in the last week alone.
  emails.push(...Array.from({ length: 60 }, () => ({ age: random() * 6.9, outcome: 'filed' as const, rule: 'r3' })));
  await importMail(server, crew.tokens.rep, 'rep@quillmere.example', {
    'all.mbox': mbox(
      emails.map((_, at) => ({ id: `m${String(at)}`, from: `a${String(at)}@harbour.example`, to: 'rep@quillmere.example' })),
    ),
  });
  await owner(
    server.ownerUrl,
    `UPDATE emails e SET sent_at = now() - make_interval(secs => (v.age * 86400)::float8), outcome = v.outcome, visibility = 'everyone', steps = jsonb_build_array(jsonb_build_object('step', 'match', 'verdict', 'matched', 'rule', v.rule))
     FROM jsonb_to_recordset($1::jsonb) AS v(id text, age float8, outcome text, rule text) WHERE e.message_id = v.id`,
    [JSON.stringify(emails.map((email, at) => ({ id: `m${String(at)}`, ...email })))],
  );
}, 60_000);
afterAll(() => server.remove());

const get = (who: keyof Crew['tokens'], target: Destination) => server.call(target, { token: crew.tokens[who] });

test('every email is in the sum of its week and outcome, and sealed ones are in none', async () => {
  const { weeks } = (await get('rep', routeTo('getMailFlow', { weeks: 12 }))).json;
  expect(weeks).toHaveLength(12);
  const expected = Array.from({ length: 12 }, (_, week) => {
    const those = emails.filter(({ age }) => 11 - Math.floor(age / 7) === week);
    const of = (outcome: string): number => those.filter((email) => email.outcome === outcome).length;
    return { filed: of('filed'), waiting: of('waiting'), unfiled: of('unfiled'), keptOut: of('kept out') };
  });
  expect(weeks.map(({ from: _, ...counts }: { from: string }) => counts)).toEqual(expected);
  expect(weeks[11].from).toBe(new Date(Date.now() - 7 * DAY).toISOString().slice(0, 10));
});

test('each sum is that of the list behind it, for whoever reads it', async () => {
  for (const who of ['rep', 'viewer', 'admin'] as const) {
    const { weeks } = (await get(who, routeTo('getMailFlow', { weeks: 3 }))).json;
    const filed = weeks.reduce((sum: number, week: { filed: number }) => sum + week.filed, 0);
    const all = (await get(who, routeTo('listEmails', { outcome: 'filed', limit: 1 }))).json.total;
    const older = emails.filter(({ age, outcome }) => age >= 21 && outcome === 'filed').length;
    expect(all === 0 ? 0 : all - older).toBe(filed);
  }
});

test('a rule that took far more than before is named, with the emails that it took', async () => {
  const { rules } = (await get('admin', routeTo('listUnusualRules'))).json;
  expect(rules.map(({ rule }: { rule: string }) => rule)).toEqual(['r3']);
  expect(rules[0]).toMatchObject({ took: 60, usual: 0 });
  expect((await get('admin', routeTo('listEmails', { applied: 'r3', limit: 1 }))).json.total).toBe(60);
  expect((await get('rep', routeTo('listUnusualRules'))).status).toBe(403);
});
