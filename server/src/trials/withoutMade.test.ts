import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Rulebook } from '@fulvet/core';
import { until } from '../testing/mailboxTools';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import {
  changeRulebook,
  decideAll,
  decisions,
  finished,
  importMail,
  importRecords,
  mbox,
  owner,
  setUpCrew,
  startTestServer,
} from '../testing/testServer';

const rep = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;

const call = (target: Destination, body?: unknown, token = crew.tokens.admin): Promise<Answer> =>
  server.call(target, { token, ...(body === undefined ? {} : { body }) });
const tried = async (body: object): Promise<Answer['json']> => {
  const { json } = await call(routeTo('startTrial'), body);
  return finished(server, crew.tokens.admin, routeTo('getTrial', { id: json.id }));
};
async function edit(change: (rulebook: Rulebook) => void): Promise<void> {
  await call(routeTo('dropDraft'));
  const { json } = await call(routeTo('getDraft'));
  change(json.document as Rulebook);
  const put = await call(routeTo('putDraft', { revision: json.revision }), json.document);
  if (put.status !== 200) throw new Error(put.text);
}
const afterTheyAnswered = (rulebook: Rulebook): void => void (rulebook.create.after = 'theyAnswered');

let day = 0;
const from = (id: string, who: string, more: Partial<PlainEmail> = {}): PlainEmail => {
  day += 1;
  return { id, from: who, to: rep, subject: id, date: new Date(Date.UTC(2026, 4, day, 9)).toUTCString(), ...more };
};
const to = (id: string, who: string): PlainEmail => from(id, rep, { to: who });
const answerTo = (id: string, who: string): PlainEmail =>
  from(`${id}-answer`, who, { subject: `Re: ${id}`, headers: `In-Reply-To: <${id}>` });

/** Nil answers, Cold does not; Una’s record is renamed by hand, Dov’s gets on a deal. */
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    Object.assign(rulebook.create, { people: 'contact', after: 'weWrote', accounts: true });
    rulebook.share.level = 'everyone';
  });
  await importMail(server, crew.tokens.admin, rep, {
    'rep.mbox': mbox([
      to('to-nil', 'Nil Strand <nil@fish.example>'),
      answerTo('to-nil', 'Nil Strand <nil@fish.example>'),
      to('to-cold', 'Cold Call <cold@chill.example>'),
      to('to-cold-again', 'Cold Call <cold@chill.example>'),
      to('to-una', 'Una Lorne <una@lorne.example>'),
      to('to-dov', 'Dov Hale <dov@hale.example>'),
    ]),
  });
  const [una] = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Una Lorne'`);
  await call(routeTo('editRecord', { kind: 'contact', id: una?.id }), { values: { name: 'Una Lorne-Vik' } }, crew.tokens.admin);
  await importRecords(server, crew.tokens.admin, 'deal', 'name,people\nHale gauges,dov@hale.example\n');
  await until(
    () => decisions(server, crew.tokens.admin),
    (all) => all['to-dov'].filings.some((filing: { name: string }) => filing.name === 'Hale gauges'),
  );
}, 60_000);
afterAll(() => server.remove());

const records = async (): Promise<unknown> =>
  owner(
    server.ownerUrl,
    `SELECT 'contact' AS kind, id, name FROM contacts UNION ALL SELECT 'lead', id, name FROM leads UNION ALL SELECT 'account', id, name FROM accounts ORDER BY 1, 2`,
  );

describe('a trial as if the records that mail created were not there', () => {
  test('of what is in force creates all of them again, and changes nothing', async () => {
    await call(routeTo('dropDraft'));
    const before = await records();
    const trial = await tried({ withoutMade: true });
    // Nil and Cold with their companies: those of Una and Dov have been touched.
    expect([trial.withoutMade, trial.made]).toEqual([true, { again: 4, notAgain: 0 }]);
    expect([trial.summary.changed, trial.summary.createdCount]).toEqual([0, 0]);
    expect(await records()).toEqual(before);
  });

  test('says which the draft would not create, and opens the emails that each would lose', async () => {
    await edit(afterTheyAnswered);
    const usual = await tried({});
    expect([usual.summary.changed, usual.withoutMade, usual.made]).toEqual([0, false, null]);
    const trial = await tried({ withoutMade: true });
    expect(trial.made).toEqual({ again: 2, notAgain: 2 });
    const { records: lost, total } = (await call(routeTo('listTrialMade', { id: trial.id }))).json;
    expect([total, lost.map((item: { via: string; name: string; emails: number }) => [item.name, item.via, item.emails])]).toEqual([
      2,
      expect.arrayContaining([
        ['Cold Call', 'cold@chill.example', 2],
        ['Chill', 'chill.example', 2],
      ]),
    ]);
    const cold = lost.find((item: { via: string }) => item.via === 'cold@chill.example');
    const behind = (await call(routeTo('listTrialRows', { id: trial.id, record: cold.key }))).json;
    expect(behind.total).toBe(2);
    expect(behind.rows[0]).toMatchObject({ outcomeBefore: 'filed', outcomeAfter: 'unfiled', lost: expect.arrayContaining(['Cold Call']) });
    // The first email to Nil stays with the record that the answer creates.
    expect([trial.summary.changed, trial.summary.createdCount]).toEqual([2, 0]);
    const page = (await call(routeTo('listTrialMade', { id: trial.id, limit: 1, offset: 1 }))).json;
    expect([page.total, page.records.length]).toEqual([2, 1]);
  });

  test('a lead in the place of a contact is another record', async () => {
    await edit((rulebook) => void (rulebook.create.people = 'lead'));
    const trial = await tried({ withoutMade: true });
    expect(trial.made).toEqual({ again: 0, notAgain: 4 });
    expect(trial.summary.created.map((item: { kind: string; via: string }) => [item.kind, item.via])).toEqual([
      ['lead', 'nil@fish.example'],
      ['lead', 'cold@chill.example'],
    ]);
  });

  test('over a span sets only those aside that its mail created', async () => {
    await edit(afterTheyAnswered);
    expect((await tried({ withoutMade: true, days: 1 })).made).toEqual({ again: 0, notAgain: 0 });
    expect((await tried({ withoutMade: true, mailboxes: ['nobody@quillmere.example'] })).made).toEqual({ again: 0, notAgain: 0 });
  });

  test('tells what a run does that takes back what the rulebook would not create; undone, all is there again', async () => {
    await edit(afterTheyAnswered);
    const trial = await tried({ withoutMade: true });
    const told = (await call(routeTo('listTrialRows', { id: trial.id, limit: 500 }))).json.rows as {
      email: { id: number };
      outcomeAfter: string;
    }[];
    const [before, stood] = [await decisions(server, crew.tokens.admin), await records()];
    const { revision } = (await call(routeTo('getDraft'))).json;
    await call(routeTo('putDraftLive'), { revision, note: '' });
    const run = await decideAll(server, crew.tokens.admin, { withoutMade: true });
    expect(run).toMatchObject({ state: 'done', takenBack: trial.made.notAgain });
    const names = ((await records()) as { name: string }[]).map((record) => record.name);
    expect(names.sort()).toEqual(['Dov Hale', 'Fish', 'Hale', 'Lorne', 'Nil Strand', 'Una Lorne-Vik']);
    const after = await decisions(server, crew.tokens.admin);
    for (const item of told) {
      const [row] = await owner(server.ownerUrl, 'SELECT message_id, outcome FROM emails WHERE id = $1', [item.email.id]);
      expect(row?.outcome).toBe(item.outcomeAfter);
    }
    expect(Object.keys(after).filter((id) => after[id].outcome !== before[id].outcome)).toHaveLength(told.length);
    // It stays so: the answer created Nil now, and creates no one else when it is decided again.
    for (const withoutMade of [true, false]) expect((await tried({ withoutMade })).summary).toMatchObject({ changed: 0, createdCount: 0 });
    const undone = await call(routeTo('undoDecideRun', { id: run.id }), { rulebook: true });
    expect(undone.json).toMatchObject({ back: 2, away: [], kept: [] });
    expect([await records(), await decisions(server, crew.tokens.admin)]).toEqual([stood, before]);
    expect((await tried({})).summary.changed).toBe(0);
  });

  test('leaves away what another record has by the time of the undo, and says so', async () => {
    const before = (await call(routeTo('getRulebook'))).json.document;
    await changeRulebook(server, crew.tokens.admin, afterTheyAnswered);
    const run = await decideAll(server, crew.tokens.admin, { withoutMade: true });
    await importRecords(server, crew.tokens.admin, 'contact', 'name,emails\nCole Call,cold@chill.example\n');
    await until(
      () => decisions(server, crew.tokens.admin),
      (all) => all['to-cold'].outcome === 'filed',
    );
    const undone = await call(routeTo('undoDecideRun', { id: run.id }), { rulebook: false });
    expect(undone.json).toMatchObject({ back: 1, away: [{ kind: 'contact', name: 'Cold Call' }] });
    await call(routeTo('putRulebook'), before);
    const all = await until(
      () => decisions(server, crew.tokens.admin),
      (now) => now['to-cold'].filings.length > 1,
    );
    expect(all['to-cold'].filings.map((filing: { name: string }) => filing.name).sort()).toEqual(['Chill', 'Cole Call']);
  });

  test('tells nothing of a record whose email was sealed meanwhile, and is for administrators', async () => {
    await edit(afterTheyAnswered);
    const trial = await tried({ withoutMade: true });
    await call(routeTo('addSharingChoice'), { does: 'seal', scope: 'domain', value: 'chill.example' }, crew.tokens.rep);
    const after = (await call(routeTo('getTrial', { id: trial.id }))).json;
    expect(after.made).toEqual({ again: 2, notAgain: 0 });
    expect((await call(routeTo('listTrialMade', { id: trial.id }))).json).toEqual({ records: [], total: 0 });
    expect((await call(routeTo('listTrialMade', { id: trial.id }), undefined, crew.tokens.manager)).status).toBe(403);
  });
});
