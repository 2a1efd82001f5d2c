import { routeTo } from '../testing/routeTo';
import { beforeAll, describe, expect, test } from '@jest/globals';
import type { Answer } from '../testing/testServer';
import { changeRulebook, decideAll, decisions, owner } from '../testing/testServer';
import { server, crew, rep, admin, idOf } from '../testing/recordsStage';

const edit = async (kind: string, name: string, values: Record<string, string>): Promise<Answer> =>
  rep(routeTo('editRecord', { kind, id: await idOf(kind, name) }), { values });

describe('own fields', () => {
  beforeAll(async () => {
    await admin(routeTo('setOwnFields', { kind: 'account' }), {
      fields: [
        { label: 'Région', type: 'choice', choices: ['North', 'South'] },
        { label: 'Gauges', type: 'number' },
        { label: 'Renewal', type: 'date' },
        { label: 'Key account', type: 'yesNo' },
        { label: 'Name', type: 'text' },
      ],
    });
  });

  test('are for administrators to set; a label that is a field already gets a key of its own', async () => {
    expect((await rep(routeTo('setOwnFields', { kind: 'account' }), { fields: [] })).status).toBe(403);
    const { ownFields } = (await rep(routeTo('getRecordSetup'))).json;
    expect(ownFields.account.map((item: { key: string }) => item.key)).toEqual(['region', 'gauges', 'renewal', 'key_account', 'name_2']);
  });

  test('take values of their type only, and are sorted, filtered and exported', async () => {
    expect((await edit('account', 'Tidewise', { region: 'West' })).json.error.message).toContain('North, South');
    expect((await edit('account', 'Tidewise', { gauges: 'many' })).status).toBe(422);
    expect((await edit('account', 'Tidewise', { renewal: '4 May' })).status).toBe(422);
    await edit('account', 'Tidewise', { region: 'north', gauges: '9', renewal: '2026-05-04', key_account: 'yes' });
    await edit('account', 'Harbour Oriel', { region: 'South', gauges: '12' });
    const names = async (query: string): Promise<string[]> =>
      (await rep(routeTo('listRecords', { kind: 'account', ...Object.fromEntries(new URLSearchParams(query)) }))).json.records.map(
        (record: { name: string }) => record.name,
      );
    expect(await names('sort=own:gauges&descending=yes')).toEqual(['Harbour Oriel', 'Tidewise']);
    expect(await names('own=region:North')).toEqual(['Tidewise']);
    expect(await names('own=key_account:yes')).toEqual(['Tidewise']);
    const { text } = await rep(routeTo('exportRecords', { kind: 'account' }));
    expect(text).toContain('region,gauges,renewal,key_account');
    expect(text).toContain('Tidewise,tidewise.example,,reseller,,North,9,2026-05-04,yes');
  });

  test('are asked for by rules', async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      rulebook.share.rules = [
        {
          id: 'south',
          name: '',
          note: '',
          on: true,
          appliesTo: { mailboxes: [], users: [], teams: [] },
          when: { fact: 'record', test: { field: 'own', of: 'account', key: 'region', test: { in: ['south'] } } },
          then: { do: 'owner' },
        },
      ] as never;
    });
    await decideAll(server, crew.tokens.admin);
    const found = await decisions(server, crew.tokens.rep);
    expect([found.asked.visibility, found['through-reseller'].visibility]).toEqual(['owner', 'everyone']);
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.rules = []));
    await decideAll(server, crew.tokens.admin);
  });

  test('that change their type keep what can be read as the new one', async () => {
    const { ownFields } = (await rep(routeTo('getRecordSetup'))).json;
    const fields = ownFields.account
      .map((item: { key: string }) => (item.key === 'gauges' ? { ...item, type: 'text' } : item))
      .filter((item: { key: string }) => item.key !== 'region');
    await admin(routeTo('setOwnFields', { kind: 'account' }), { fields });
    const [row] = await owner(server.ownerUrl, `SELECT own FROM accounts WHERE name = 'Tidewise'`);
    expect(row?.own).toEqual({ gauges: '9', renewal: '2026-05-04', key_account: true });
  });
});

describe('a file of records', () => {
  beforeAll(async () => {
    await admin(routeTo('setOwnFields', { kind: 'lead' }), {
      fields: [
        { label: 'Source', type: 'choice', choices: ['Fair', 'Web'] },
        { label: 'Budget', type: 'number' },
      ],
    });
  });

  test('fills own fields by their names, and names the line where a value cannot be read', async () => {
    const text =
      'name,emails,Source,budget\nLea Ost,lea@dredge.example,fair,"1 200"\nNed Ash,ned@dredge.example,Radio,1\nKim Aster,kim@dredge.example,,much\n';
    const preview = (await rep(routeTo('previewRecords', { kind: 'lead' }), { text })).json;
    expect(preview.columns.map((column: { field: string }) => column.field)).toEqual(['name', 'emails', 'source', 'budget']);
    expect(preview.bad).toEqual([
      { line: 3, reason: '“Radio” is none of the choices of Source: Fair, Web.' },
      { line: 4, reason: '“much” is not a number for Budget.' },
    ]);
    await rep(routeTo('importRecords', { kind: 'lead' }), { text });
    expect(await owner(server.ownerUrl, `SELECT own FROM leads WHERE name = 'Lea Ost'`)).toEqual([
      { own: { source: 'Fair', budget: 1200 } },
    ]);
    const { changes } = (await rep(routeTo('recordChanges', { kind: 'lead', id: await idOf('lead', 'Lea Ost') }))).json;
    expect(changes.map((change: { after: string }) => change.after)).toEqual(['created as Lea Ost']);
  });

  test('that was exported is taken back without a change', async () => {
    const { text } = await rep(routeTo('exportRecords', { kind: 'lead' }));
    const preview = (await rep(routeTo('previewRecords', { kind: 'lead' }), { text })).json;
    expect(preview.counts).toMatchObject({ create: 0, update: 0, same: 1 });
  });

  test('that changes a value notes it with before and after', async () => {
    await rep(routeTo('importRecords', { kind: 'lead' }), { text: 'name,emails,source\nLea Ost,lea@dredge.example,Web\n' });
    const { changes } = (await rep(routeTo('recordChanges', { kind: 'lead', id: await idOf('lead', 'Lea Ost') }))).json;
    expect(changes[0]).toMatchObject({ field: 'source', before: 'Fair', after: 'Web' });
  });
});
