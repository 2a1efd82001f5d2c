import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import type { Concerned } from '../base/concerned';
import { rowsOf } from '../base/db/rows';
import { liveRulebook } from '../rulebook/liveRulebook';
import type { Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';
import { z } from 'zod';
import { mailConcerning } from './concernedMail';

const REP = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;
const mail = (id: string, from: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from,
  to: REP,
  subject: `Letter ${id}`,
  ...more,
});

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const put = (kind: string, text: string) => server.call(routeTo('importRecords', { kind }), { token: crew.tokens.admin, body: { text } });
  await put('account', 'name,domains\nHarbour Oriel,harbour.example\nMarsh South,\n');
  await put(
    'contact',
    'name,emails,account\nIda Brandt,ida@harbour.example;ida@home.example,Harbour Oriel\nKim Aster,kim@marshsouth.example,Marsh South\n',
  );
  await put('deal', 'name,code,account,people\nGauges,QH-2041,Harbour Oriel,ida@harbour.example\n');
  const out = { id: 'k', kind: 'domain', value: 'loud.example', exactly: false, effect: 'keepOut', note: '' };
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.keepOut.entries = [out] as never));
  await importMail(server, crew.tokens.admin, REP, {
    'all.mbox': mbox([
      mail('work', 'ida@harbour.example'),
      mail('home', 'ida@home.example'),
      mail('tagged', 'ida+news@home.example'),
      mail('colleague', 'jo@harbour.example'),
      mail('below', 'una@north.harbour.example'),
      mail('answer', REP, { to: 'tor@tor.example', references: '<work>', subject: 'Re: Letter work' }),
      mail('code', 'clerk@ferry.example', { subject: 'About qh 2041' }),
      mail('kim', 'kim@marshsouth.example'),
      mail('kimmate', 'lea@marshsouth.example'),
      mail('loud', 'x@loud.example'),
      mail('else', 'y@else.example'),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

const found = async (concerned: Partial<Concerned>): Promise<string[]> => {
  const { compiled } = await liveRulebook(server.services.database);
  const condition = await mailConcerning(server.services.database, { addresses: [], domains: [], ...concerned }, [compiled]);
  const rows = await rowsOf(
    server.services.database.worker,
    z.object({ id: z.string() }),
    sql`SELECT message_id AS id FROM emails WHERE ${condition}`,
  );
  return rows.map(({ id }) => id).sort();
};
const idOf = async (kind: string, name: string): Promise<number> =>
  Number((await owner(server.ownerUrl, `SELECT id::int AS id FROM ${kind}s WHERE name = $1`, [name]))[0]?.id);

describe('the mail that a change concerns', () => {
  test('of an address: all addresses of its person, tagged too, in whole conversations', async () => {
    expect(await found({ addresses: ['ida@harbour.example'] })).toEqual(['answer', 'home', 'tagged', 'work']);
  });

  test('of a domain: what is below it, and nothing beside it', async () => {
    expect(await found({ domains: ['harbour.example'] })).toEqual(['answer', 'below', 'colleague', 'work']);
    expect(await found({ domains: ['bour.example'] })).toEqual([]);
  });

  test('of what is kept out: by its domain, since it has no addresses any more', async () => {
    expect(await found({ domains: ['loud.example'] })).toEqual(['loud']);
    expect(await found({ addresses: ['x@loud.example'] })).toEqual(['loud']);
  });

  test('of a code: however it is written', async () => {
    expect(await found({ codes: ['QH-2041'] })).toEqual(['code']);
    expect(await found({ codes: ['QH-204'] })).toEqual(['code']);
    expect(await found({ codes: ['ZZ-9'] })).toEqual([]);
  });

  test('of an account: its people and its domains; without a domain, those of its people and of its name', async () => {
    expect(await found({ records: { kind: 'account', ids: [await idOf('account', 'Harbour Oriel')] } })).toEqual([
      'answer',
      'below',
      'colleague',
      'home',
      'tagged',
      'work',
    ]);
    expect(await found({ records: { kind: 'account', ids: [await idOf('account', 'Marsh South')] } })).toEqual(['kim', 'kimmate']);
    expect(await found({ companies: ['Marsh South Ltd'] })).toEqual(['kim', 'kimmate']);
  });

  test('of nothing is nothing', async () => {
    expect(await found({})).toEqual([]);
    expect(await found({ records: { kind: 'deal', ids: [] } })).toEqual([]);
  });
});
