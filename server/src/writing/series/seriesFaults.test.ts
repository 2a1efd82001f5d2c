import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { connect, inStep, MAIL_PASSWORD } from '../../testing/mailboxTools';
import { routeTo } from '../../testing/routeTo';
import type { Crew } from '../../testing/testServer';
import { owner, setUpCrew } from '../../testing/testServer';
import type { WorkerStage } from '../../testing/workerCrew';
import { openWorkerStage } from '../../testing/workerCrew';
import { randomFrom } from '../../../../core/src/testing/random';
import { Outbox } from '../outbox';
import type { Fault } from '../outbox';
import type { SeriesFault } from './seriesRunner';
import { SeriesRunner } from './seriesRunner';

// No process goes on with series by itself here: the test says who does, and where each dies.

const REP = 'rep@quillmere.example';
let stage: WorkerStage;
let crew: Crew;
const sql = (text: string, values: unknown[] = []) => owner(stage.server.ownerUrl, text, values);
const rep = async (target: ReturnType<typeof routeTo>, body: object) => {
  const answer = await stage.server.call(target, { token: crew.tokens.rep, body });
  if (answer.status !== 200) throw new Error(answer.text);
  return answer.json;
};

beforeAll(async () => {
  stage = await openWorkerStage();
  crew = await setUpCrew(stage.server);
  const worker = await stage.addWorker();
  stage.mailhost.store.addAccount(REP, MAIL_PASSWORD);
  await inStep(stage, crew.tokens.rep, await connect(stage, { token: crew.tokens.rep, address: REP }));
  await stage.kill(worker);
}, 120_000);
// Dropping a database waits for the disk.
afterAll(() => stage.close(), 180_000);

const SERIES_POINTS: Parameters<SeriesFault>[0][] = ['taken', 'begun', 'written', 'noted'];
const OUTBOX_POINTS: Parameters<Fault>[0][] = ['taken', 'content', 'answered', 'noted', 'copied', 'filed'];

/** A process that does one thing, and dies at a point where it comes there. */
async function process(take: (fault: (at: string) => Promise<void> | void) => Promise<boolean>, dies: string | null): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    take((at) => (at === dies ? new Promise<void>(() => resolve()) : undefined)).then(() => resolve(), reject);
  });
}

const sentTo = (address: string): string[] =>
  stage.mailhost.delivery.outside
    .filter(({ to }) => to === address)
    .map(({ subject }) => subject)
    .reverse();

/** Of an email that may have been sent its writer says whether it was, and sends it where it was not. */
async function answerWhatIsAsked(): Promise<void> {
  for (const { id, subject, to } of await sql(`SELECT id, subject, "to" FROM outgoing WHERE state = 'unclear'`)) {
    const [{ address }] = to as { address: string }[] as [{ address: string }];
    const settled = await rep(routeTo('settleOutgoing', { id: Number(id) }), { wasSent: sentTo(address).includes(String(subject)) });
    if (settled.state === 'draft') await rep(routeTo('sendOutgoing', { id: Number(id) }), { revision: settled.revision });
  }
}

test('processes that die anywhere send each step once, in its turn, and nothing after an answer', async () => {
  const random = randomFrom(1812);
  const below = (most: number): number => Math.floor(random() * most);
  const PEOPLE = 5;
  const STEPS = 3;
  await sql(`UPDATE workspace SET automatic = automatic || '{"pauseSeconds":0,"perDay":500}'`);
  const templates: number[] = [];
  for (let step = 0; step < STEPS; step += 1)
    templates.push(
      (
        await rep(routeTo('createTemplate'), {
          kind: 'template',
          name: `S${step}`,
          subject: `Step ${step} to {{person.email}}`,
          html: '<p>x</p>',
        })
      ).id,
    );
  const steps = templates.map((templateId, step) => ({ kind: 'email', waitDays: step === 0 ? 0 : 1, templateId }));
  const { id } = await rep(routeTo('createSeries'), { name: 'Faults', steps });
  const addresses = Array.from({ length: PEOPLE }, (_, at) => `person${at}@weir${at}.example`);
  for (const address of addresses) await rep(routeTo('startSeries', { id }), { to: { address }, asks: false });
  const [answering] = addresses;
  let sentToAnswering = 0;
  for (let round = 0; round < 900; round += 1) {
    // Time passes: leases run out, the waits are over.
    await sql(`UPDATE outgoing SET lease_until = now() - interval '1 second' WHERE lease_until IS NOT NULL`);
    await sql(`UPDATE outgoing SET due_at = now() WHERE state = 'due'`);
    await sql(`UPDATE series_runs SET look_at = now(), due_at = least(due_at, now())`);
    if (sentToAnswering === 0 && sentTo(answering ?? '').length > 0) {
      sentToAnswering = sentTo(answering ?? '').length;
      await sql(
        `WITH e AS (INSERT INTO emails (identity, "references", family_id, conversation_id, is_forward, sent_at, date_source, arrived_at, size, mail_class, problems, owner_ids)
           VALUES ('answer', '{}', 1, 1, false, now(), 'header', now(), 1, 'person', '[]', '{}') RETURNING id)
         INSERT INTO participants (email_id, role, position, address, domain, name) SELECT id, 'from', 0, $1, 'weir0.example', '' FROM e`,
        [answering],
      );
    }
    const dies = random() < 0.35;
    const point = dies ? (SERIES_POINTS[below(SERIES_POINTS.length)] ?? null) : null;
    const outboxPoint = dies ? (OUTBOX_POINTS[below(OUTBOX_POINTS.length)] ?? null) : null;
    await Promise.all([
      process((fault) => new SeriesRunner(stage.server.services, fault).takeNext(), point),
      process((fault) => new SeriesRunner(stage.server.services, fault).takeNext(), null),
      process((fault) => new Outbox(stage.server.services, fault).takeNext(), outboxPoint),
    ]);
    await answerWhatIsAsked();
    const open = await sql(`SELECT FROM series_runs WHERE state NOT IN ('ended', 'stopped')`);
    if (open.length === 0) break;
  }
  const runs = await sql(`SELECT address, state, why, problem FROM series_runs ORDER BY id`);
  expect(runs.map(({ state }) => state).sort()).toEqual([...Array.from({ length: PEOPLE - 1 }, () => 'ended'), 'stopped'].sort());
  for (const address of addresses) {
    const sent = sentTo(address);
    if (address === answering) {
      // What was being handed over when the answer came may have gone out.
      expect(sent.length).toBeLessThanOrEqual(sentToAnswering + 1);
      expect(new Set(sent).size).toBe(sent.length);
    } else expect(sent).toEqual(steps.map((_, step) => `Step ${step} to ${address}`));
  }
}, 300_000);
