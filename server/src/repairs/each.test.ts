import { CASES } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { admin, as, emailOf, idOf, recordId, rep, server, under } from '../testing/repairStage';
import { routeTo } from '../testing/routeTo';
import { nothingLeftToDecide, owner } from '../testing/testServer';

const settled = () => nothingLeftToDecide(server);
const all = () => Promise.all(['first', 'alone', 'other-1', 'other-3', 'reef'].map(idOf));
type Entry = { key: string; name: string; emails: number; unfit: string | null; alike: { kind: string; name: string; because: string }[] };
const proposed = async (query: Record<string, string>): Promise<Entry[]> =>
  (await rep(routeTo('proposeEach', { emails: (await all()).join(','), per: 'company', ...query }))).json.entries;
const counts = () =>
  owner(
    server.ownerUrl,
    `SELECT (SELECT count(*)::int FROM deals) AS deals, (SELECT count(*)::int FROM contacts) AS contacts, (SELECT count(*)::int FROM accounts) AS accounts`,
  );

describe('one record for each', () => {
  test('company of the emails is proposed; what is open with them comes first', async () => {
    const entries = await proposed({ kind: 'deal' });
    expect(entries.map(({ key, name, emails }) => [key.replace(/\d+/, 'n'), name, emails])).toEqual([
      ['account:n', 'Harbour Oriel', 2],
      ['unknown.example', 'Unknown', 2],
      ['reef.example', 'Reef', 1],
    ]);
    expect(entries[0]?.alike.map(({ name, because }) => [name, because]).sort()).toEqual([
      ['Inner basin', 'is open with them'],
      ['Outer harbour', 'is open with them'],
    ]);
    expect(entries[1]?.alike).toEqual([]);
  });

  test('person: who has a record, and who is called almost so, comes first', async () => {
    await admin(routeTo('createRecord', { kind: 'lead' }), { values: { name: 'Kim Astor', emails: 'kim@elsewhere.example' } });
    const [one, other] = await proposed({ kind: 'contact', per: 'person' });
    const kim = [one, other].find((entry) => entry?.key === 'kim@unknown.example');
    const ida = [one, other].find((entry) => entry?.key === 'ida@harbour.example');
    expect(ida?.alike).toMatchObject([{ kind: 'contact', name: 'Ida Brandt', because: 'has this address' }]);
    expect(kim?.alike).toMatchObject([{ kind: 'lead', name: 'Kim Astor', because: 'almost the same name' }]);
  });

  test('begins with stage, owner, people and new accounts, has the emails of its own people alone, and goes in one step', async () => {
    const emails = await all();
    const before = await counts();
    await admin(routeTo('setDealStages'), {
      stages: [
        { name: 'Asked', open: true },
        { name: 'Lost', open: false },
      ],
    });
    const basin = await recordId('deal', 'Inner basin');
    const done = await rep(routeTo('repair'), {
      emails,
      reach: 'conversation',
      people: [
        { kind: 'contact', address: 'kim@unknown.example', name: 'Kim Aster', account: { name: 'Unknown', domain: 'unknown.example' } },
      ],
      each: {
        kind: 'deal',
        values: { stage: 'Asked', owner: 'manager@quillmere.example' },
        entries: [
          { addresses: ['ida@harbour.example'], file: { kind: 'deal', id: basin } },
          { addresses: ['kim@unknown.example'], values: { name: 'Unknown: autumn', account: 'Unknown', people: 'kim@unknown.example' } },
          { addresses: ['ola@reef.example'], values: { name: 'Reef: autumn' }, newAccount: { name: 'Reef Line', domain: '' } },
        ],
      },
    });
    expect(done.status).toBe(200);
    await settled();
    expect(await under('first')).toContain('Inner basin');
    expect(await under('second')).toContain('Inner basin');
    expect(await under('first')).not.toContain('Unknown: autumn');
    for (const id of ['other-1', 'other-3']) expect(await under(id)).toEqual(['Kim Aster', 'Unknown', 'Unknown: autumn']);
    expect(await under('reef')).toContain('Reef: autumn');
    const [deal] = await owner(
      server.ownerUrl,
      `SELECT d.stage, d.open, u.email, (SELECT array_agg(c.name) FROM deal_people p JOIN contacts c ON c.id = p.person_id WHERE p.deal_id = d.id) AS people
       FROM deals d JOIN users u ON u.id = d.owner_id WHERE d.name = 'Unknown: autumn'`,
    );
    expect(deal).toEqual({ stage: 'Asked', open: true, email: 'manager@quillmere.example', people: ['Kim Aster'] });
    const noted = await owner(
      server.ownerUrl,
      `SELECT after FROM record_changes WHERE after IN ('created as Reef Line', 'created as Unknown', 'created as Kim Aster')`,
    );
    expect(noted.map(({ after }) => after).sort()).toEqual(['created as Kim Aster', 'created as Reef Line', 'created as Unknown']);
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).json.kept).toEqual([]);
    await settled();
    expect(await counts()).toEqual(before);
    expect(await under('other-1')).toEqual([]);
  });

  test('kind of the workspace, and each company as an account whose mail follows its domain', async () => {
    await admin(routeTo('createOwnKind'), CASES);
    const emails = [await idOf('other-1'), await idOf('alone')];
    const cases = await rep(routeTo('repair'), {
      emails,
      each: { kind: 'own', values: { kind: 'case' }, entries: [{ addresses: ['kim@unknown.example'], values: { name: 'Kim asks' } }] },
    });
    expect(await under('other-1')).toEqual(['CASE-1 Kim asks']);
    expect(await under('alone')).not.toContain('CASE-1 Kim asks');
    expect((await proposed({ kind: 'own', of: 'case' })).flatMap(({ alike }) => alike)).toEqual([]);
    await rep(routeTo('undoRepair', { id: cases.json.id }));
    const account = await rep(routeTo('repair'), {
      emails,
      each: { kind: 'account', entries: [{ addresses: ['kim@unknown.example'], values: { name: 'Unknown', domains: 'unknown.example' } }] },
    });
    await settled();
    expect(await under('other-3')).toEqual(['Unknown']);
    await rep(routeTo('undoRepair', { id: account.json.id }));
    await settled();
    expect(await under('other-3')).toEqual([]);
  });

  test.each([
    [
      'a stage that no one set',
      { kind: 'deal', values: { owner: 'x@y.example' }, entries: [{ addresses: ['kim@unknown.example'], values: { name: 'A' } }] },
      422,
    ],
    ['no name', { kind: 'deal', entries: [{ addresses: ['kim@unknown.example'] }] }, 422],
    [
      'an address that is taken',
      { kind: 'contact', entries: [{ addresses: ['ida@harbour.example'], values: { name: 'A', emails: 'ida@harbour.example' } }] },
      409,
    ],
    [
      'a record that is not there',
      { kind: 'deal', entries: [{ addresses: ['kim@unknown.example'], file: { kind: 'deal', id: 999_999 } }] },
      404,
    ],
  ])('is refused as a whole: %s', async (_what, each, status) => {
    const before = await counts();
    const good = { addresses: ['ola@reef.example'], values: { name: 'Stays out' } };
    const emails = [await idOf('other-1')];
    const refused = await rep(routeTo('repair'), { emails, each: { ...each, entries: [good, ...each.entries] } });
    expect(refused.status).toBe(status);
    expect(await counts()).toEqual(before);
    expect((await emailOf('reef')).filings.map(({ name }: { name: string }) => name)).not.toContain('Stays out');
  });

  test('is not for viewers, and says nothing of emails that the reader may not read', async () => {
    const emails = String(await idOf('other-1'));
    expect((await as('viewer')(routeTo('proposeEach', { emails, per: 'person', kind: 'lead' }))).status).toBe(403);
    const sealed = await rep(routeTo('repair'), { emails: [Number(emails)], seal: true });
    const { entries } = (await as('manager')(routeTo('proposeEach', { emails, per: 'person', kind: 'lead' }))).json;
    expect(entries).toEqual([]);
    await rep(routeTo('undoRepair', { id: sealed.json.id }));
  });
});
