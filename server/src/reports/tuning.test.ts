import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Crew, PlainEmail, TestServer } from '../testing/testServer';
import { decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const rep = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;
const BEGIN = Date.now();
const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });
const several = (name: string, times: number, more: Partial<PlainEmail>): PlainEmail[] =>
  Array.from({ length: times }, (_, at) => ({
    id: `${name}-${at}`,
    from: `x@${name}`,
    to: rep,
    subject: `${name} ${at}`,
    date: new Date(BEGIN - (at + 1) * 86_400_000).toUTCString(),
    ...more,
  }));

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), { text: 'name,domains\nHarbour Oriel,harbour-oriel.example\n' });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour-oriel.example,Harbour Oriel\n',
  });
  const headers = 'Auto-Submitted: auto-generated';
  await importMail(server, crew.tokens.admin, rep, {
    'all.mbox': mbox([
      ...several('cold.example', 9, {}),
      ...several('harbour-oriel.test', 3, {}),
      ...several('marsh.example', 3, {}),
      ...several('marsh.example', 2, { from: rep, to: 'x@marsh.example' }).map((email) => ({ ...email, id: `sent-${email.id ?? ''}` })),
      ...several('tickets.example', 6, { headers }),
      ...several('gmail.com', 2, { from: 'Ida Brandt <ida.brandt@gmail.com>' }),
    ]),
  });
  const { json } = await admin(routeTo('getRulebook'));
  json.document.keepOut.machineMail = ['newsletter'];
  json.document.create.people = 'nothing';
  await admin(routeTo('putRulebook'), json.document);
  await decideAll(server, crew.tokens.admin);
}, 60_000);
afterAll(() => server.remove());

test('domains by volume, with what became of their mail and by which rule', async () => {
  const { json } = await admin(routeTo('listDomainUse'));
  expect(json.rows[0]).toMatchObject({ domain: 'cold.example', emails: 9, received: 9, sent: 0, unfiled: 9, filed: 0, accounts: [] });
  const all = (await admin(routeTo('listDomainUse', { show: 'all', text: 'oriel' }))).json;
  expect(all).toMatchObject({ total: 1, rows: [{ domain: 'harbour-oriel.test' }] });
  const junk = (await admin(routeTo('listDomainUse', { show: 'junk' }))).json.rows;
  expect(junk.map((item: { domain: string }) => item.domain)).toEqual(['tickets.example']);
});

describe('suggestions', () => {
  const list = async () =>
    (await admin(routeTo('listSuggestions'))).json.suggestions as { code: string; about: string; does: string; effect: object }[];
  const named = async (): Promise<string[]> => (await list()).map((item) => `${item.code} ${item.about}`).sort();

  test('are computed, and each says what it would do', async () => {
    const found = await list();
    expect(await named()).toEqual([
      'correspondents marsh.example',
      'like-account harbour-oriel.test',
      'machine-domain tickets.example',
      'one-sided cold.example',
    ]);
    const effectOf = (about: string) => found.find((item) => item.about === about)?.effect;
    expect(effectOf('harbour-oriel.test')).toMatchObject({ emails: 3, changed: 3, filed: 3, keptOut: 0 });
    expect(effectOf('cold.example')).toMatchObject({ emails: 9, changed: 9, keptOut: 9 });
    expect(effectOf('marsh.example')).toMatchObject({ emails: 5, created: 2 });
  });

  test('name addresses only of mail that the reader may read', async () => {
    expect((await named()).join()).not.toContain('@');
    await owner(server.ownerUrl, `UPDATE emails SET visibility = 'everyone' WHERE external_domains @> ARRAY['gmail.com']`);
    expect(await named()).toContain('second-address ida.brandt@gmail.com');
  });

  test('compute nothing into the mail, go into the draft with one click, and are not suggested twice', async () => {
    const before = await owner(
      server.ownerUrl,
      `SELECT count(*)::int AS contacts, (SELECT max(decided_at)::text FROM emails) AS decided FROM contacts`,
    );
    const taken = await admin(routeTo('takeSuggestion'), { code: 'like-account', about: 'harbour-oriel.test' });
    expect(taken.json.differences).toEqual([
      expect.stringContaining(
        'new rule “When any external participant is at harbour-oriel.test, file it under the account Harbour Oriel.”',
      ),
    ]);
    expect(await named()).not.toContain('like-account harbour-oriel.test');
    expect(
      await owner(server.ownerUrl, `SELECT count(*)::int AS contacts, (SELECT max(decided_at)::text FROM emails) AS decided FROM contacts`),
    ).toEqual(before);
    expect((await admin(routeTo('takeSuggestion'), { code: 'like-account', about: 'nowhere.example' })).json.error.code).toBe('gone');
  });

  test('from what people filed by hand: the rule that would have done it', async () => {
    await owner(
      server.ownerUrl,
      `INSERT INTO gestures (email_id, via, target, record_id, detail, user_id, trusted) SELECT e.id, 'folder', 'account', (SELECT id FROM accounts), 'Filed', $1, true FROM emails e WHERE external_domains = ARRAY['marsh.example']`,
      [crew.ids.rep],
    );
    await decideAll(server, crew.tokens.admin);
    expect(await named()).toContain('filed-by-hand marsh.example');
  });

  test('a new domain of a company, where its people write from there: it goes to the account, and can be undone', async () => {
    await admin(routeTo('importRecords', { kind: 'contact' }), {
      text: 'name,emails,account\nJo Lund,jo@harbour-oriel.example,Harbour Oriel\n',
    });
    await importMail(server, crew.tokens.admin, rep, {
      'moved.mbox': mbox([
        ...several('oriel-marine.example', 2, { from: 'Ida Brandt <ida@oriel-marine.example>', to: 'admin@quillmere.example' }),
        ...several('jo.example', 1, { from: 'Jo Lund <jo@oriel-marine.example>', to: 'admin@quillmere.example' }),
        ...several('harbour-oreil.example', 1, { from: rep, to: 'ida@harbour-oreil.example' }),
      ]),
    });
    await decideAll(server, crew.tokens.admin);
    await owner(server.ownerUrl, `UPDATE emails SET visibility = 'everyone' WHERE external_domains @> ARRAY['oriel-marine.example']`);
    const renamed = (await list()).find((item) => item.code === 'renamed');
    expect(renamed).toMatchObject({ about: 'oriel-marine.example', does: 'addDomain', effect: { emails: 3, changed: 3, filed: 3 } });
    expect(await named()).toContain('misspelled harbour-oreil.example');
    const taken = await admin(routeTo('takeSuggestion'), { code: 'renamed', about: 'oriel-marine.example' });
    const domains = async () =>
      (await owner(server.ownerUrl, `SELECT domain FROM account_domains ORDER BY domain`)).map((row) => row.domain);
    expect(await domains()).toEqual(['harbour-oriel.example', 'oriel-marine.example']);
    expect(await named()).not.toContain('renamed oriel-marine.example');
    await admin(routeTo('undo', { id: taken.json.undo }));
    expect(await domains()).toEqual(['harbour-oriel.example']);
  });

  test('an announcement, and a form that others fill in', async () => {
    const authors = ['una', 'leo', 'kai', 'mia'].map((local, at) => ({
      ...several('site-forms.example', 1, {
        from: 'Site <site@site-forms.example>',
        headers: `Reply-To: ${local}@visitor-${local}.example`,
      })[0]!,
      id: `form-${at}`,
    }));
    await importMail(server, crew.tokens.admin, rep, {
      'said.mbox': mbox([
        ...several('harbour-oriel.example', 1, {
          from: 'Ida Brandt <ida@harbour-oriel.example>',
          text: 'We have been renamed. Our new address is ida@oriel-sea.example from May on.',
        }),
        ...authors,
      ]),
    });
    await decideAll(server, crew.tokens.admin);
    await owner(
      server.ownerUrl,
      `UPDATE emails SET visibility = 'everyone' WHERE external_domains && ARRAY['harbour-oriel.example', 'site-forms.example']`,
    );
    expect(await named()).toEqual(expect.arrayContaining(['form-address site@site-forms.example', 'renamed oriel-sea.example']));
    const taken = await admin(routeTo('takeSuggestion'), { code: 'form-address', about: 'site@site-forms.example' });
    expect(taken.json.document.us.formAddresses).toEqual(['site@site-forms.example']);
    expect(await named()).not.toContain('form-address site@site-forms.example');
  });
});
