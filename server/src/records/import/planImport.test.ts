import { routeTo } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { RecordKind } from '@fulvet/contract';
import { readCsv } from '../../base/files/readCsv';
import { liveRulebook } from '../../rulebook/liveRulebook';
import type { Crew, TestServer } from '../../testing/testServer';
import { owner, setUpCrew, startTestServer } from '../../testing/testServer';
import type { ImportPlan } from './planImport';
import { planImport } from './planImport';

let server: TestServer;
let crew: Crew;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const put = (kind: string, text: string) => server.call(routeTo('importRecords', { kind }), { token: crew.tokens.admin, body: { text } });
  await put('account', 'name,domains\nHarbour Oriel,harbour.example\nReef North,reef.example\n');
  await put('contact', 'name,emails,account\nIda Brandt,ida@harbour.example;brandt@harbour.example,Harbour Oriel\n');
  await put('manager', 'name,emails\nUna Tor,una@tor.example\n');
});
afterAll(() => server.remove());

async function plan(kind: RecordKind, text: string, mapping?: Record<string, string>): Promise<ImportPlan> {
  const { compiled } = await liveRulebook(server.services.database);
  return server.services.database.as(crew.ids.admin, (tx) => planImport(tx, kind, readCsv(text), { mapping }, compiled));
}
const reasons = (found: ImportPlan): [number, string][] => found.bad.map(({ line, reason }) => [line, reason.split('. ')[0] ?? '']);

describe('a file of records is understood against what is known', () => {
  test('new, changed and the same are told apart; nothing is written', async () => {
    const found = await plan(
      'contact',
      'name,emails,account,title\nIda Brandt,ida@harbour.example;brandt@harbour.example,Harbour Oriel,\nIda Brandt,BRANDT@harbour.example,,Pilot\nKim Aster,kim@reef.example,Reef North,\n',
    );
    expect(found.rows.map((row) => row.action)).toEqual(['same', 'create']);
    expect(reasons(found)).toEqual([[3, expect.stringContaining('line 2')]]);
    expect(await owner(server.ownerUrl, 'SELECT count(*)::int AS n FROM contacts')).toEqual([{ n: 1 }]);
  });

  test('a person is known by any address, whatever the name and the letters', async () => {
    const found = await plan('contact', 'name,emails,title\nI. Brandt,Ida@HARBOUR.example,Keeper\n');
    expect(found.rows.map((row) => row.action)).toEqual(['update']);
  });

  test.each<[string, RecordKind, string, RegExp]>([
    ['no name', 'contact', 'name,emails\n,kim@reef.example\n', /name is missing/],
    ['an owner who is not on the team', 'contact', 'name,owner\nKim,kim@elsewhere.example\n', /not on the team/],
    ['an unknown account', 'contact', 'name,account\nKim,Marsh South\n', /“Marsh South” is not known/],
    ['its own parent', 'account', 'name,parent\nMarsh,Marsh\n', /its own parent/],
    ['people on no record', 'deal', 'name,code,people\nTide,Q-1,kim@reef.example\n', /neither a contact nor a lead/],
    ['a name that is too long', 'account', `name\n${'x'.repeat(301)}\n`, /longer than 300/],
    ['what is no address', 'contact', 'name,emails\nKim,not an address\n', /not an address/],
  ])('a line with %s is named, and the others are taken', async (_, kind, text, reason) => {
    const found = await plan(kind, `${text}Fine ${kind}\n`);
    expect(found.bad).toHaveLength(1);
    expect(found.bad[0]?.reason).toMatch(reason);
  });

  test('an account of the same file may be named before it is there', async () => {
    const found = await plan('account', 'name,parent\nSmall Light,Great Light\nGreat Light,\n');
    expect([found.rows.map((row) => row.action), found.bad]).toEqual([['create', 'create'], []]);
  });

  test('columns are found by their headers, or as told; without a name nothing is taken', async () => {
    expect((await plan('contact', 'Who,E-Mail\nKim,kim@reef.example\n', { Who: 'name' })).rows).toHaveLength(1);
    const nameless = await plan('contact', 'E-Mail\nkim@reef.example\n');
    expect([nameless.rows, nameless.bad[0]?.reason]).toEqual([[], expect.stringContaining('No column is the name')]);
  });
});
