import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Rulebook } from '@fulvet/core';
import { until } from '../testing/mailboxTools';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import {
  changeRulebook,
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

const call = (method: string, path: string, body?: unknown, token = crew.tokens.admin): Promise<Answer> =>
  server.call(method, path, { token, ...(body === undefined ? {} : { body }) });
const tried = async (body: object): Promise<Answer['json']> => {
  const { json } = await call('POST', '/trials', body);
  return finished(server, crew.tokens.admin, `/trials/${json.id}`);
};
async function edit(change: (rulebook: Rulebook) => void): Promise<void> {
  await call('DELETE', '/rulebook/draft');
  const { json } = await call('GET', '/rulebook/draft');
  change(json.document as Rulebook);
  const put = await call('PUT', `/rulebook/draft?revision=${json.revision}`, json.document);
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
  await call('PUT', `/records/contact/${String(una?.id)}`, { values: { name: 'Una Lorne-Vik' } }, crew.tokens.admin);
  await importRecords(server, crew.tokens.admin, 'deal', 'name,people\nHale gauges,dov@hale.example\n');
  await until(
    () => decisions(server, crew.tokens.admin),
    (all) => all['to-dov'].filings.some((one: { name: string }) => one.name === 'Hale gauges'),
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
    await call('DELETE', '/rulebook/draft');
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
    const { records: lost, total } = (await call('GET', `/trials/${trial.id}/not-created`)).json;
    expect([total, lost.map((one: { via: string; name: string; emails: number }) => [one.name, one.via, one.emails])]).toEqual([
      2,
      expect.arrayContaining([
        ['Cold Call', 'cold@chill.example', 2],
        ['Chill', 'chill.example', 2],
      ]),
    ]);
    const cold = lost.find((one: { via: string }) => one.via === 'cold@chill.example');
    const behind = (await call('GET', `/trials/${trial.id}/emails?record=${encodeURIComponent(cold.key)}`)).json;
    expect(behind.total).toBe(2);
    expect(behind.rows[0]).toMatchObject({ outcomeBefore: 'filed', outcomeAfter: 'loose', lost: expect.arrayContaining(['Cold Call']) });
    // The first email to Nil stays with the record that the answer creates.
    expect([trial.summary.changed, trial.summary.createdCount]).toEqual([2, 0]);
    const page = (await call('GET', `/trials/${trial.id}/not-created?limit=1&offset=1`)).json;
    expect([page.total, page.records.length]).toEqual([2, 1]);
  });

  test('a lead in the place of a contact is another record', async () => {
    await edit((rulebook) => void (rulebook.create.people = 'lead'));
    const trial = await tried({ withoutMade: true });
    expect(trial.made).toEqual({ again: 0, notAgain: 4 });
    expect(trial.summary.created.map((one: { kind: string; via: string }) => [one.kind, one.via])).toEqual([
      ['lead', 'nil@fish.example'],
      ['lead', 'cold@chill.example'],
    ]);
  });

  test('over a span sets only those aside that its mail created', async () => {
    await edit(afterTheyAnswered);
    expect((await tried({ withoutMade: true, days: 1 })).made).toEqual({ again: 0, notAgain: 0 });
    expect((await tried({ withoutMade: true, mailboxes: ['nobody@quillmere.example'] })).made).toEqual({ again: 0, notAgain: 0 });
  });

  test('tells nothing of a record whose email was sealed meanwhile, and is for administrators', async () => {
    await edit(afterTheyAnswered);
    const trial = await tried({ withoutMade: true });
    await call('POST', '/my-mail/words', { does: 'seal', scope: 'domain', value: 'chill.example' }, crew.tokens.rep);
    const after = (await call('GET', `/trials/${trial.id}`)).json;
    expect(after.made).toEqual({ again: 2, notAgain: 0 });
    expect((await call('GET', `/trials/${trial.id}/not-created`)).json).toEqual({ records: [], total: 0 });
    expect((await call('GET', `/trials/${trial.id}/not-created`, undefined, crew.tokens.lead)).status).toBe(403);
  });
});
