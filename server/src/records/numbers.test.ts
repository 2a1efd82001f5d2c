import { routeTo } from '../testing/routeTo';
import { expect, test } from '@jest/globals';
import type { Crew } from '../testing/testServer';
import { server, crew, rep, admin, US, idOf } from '../testing/recordsStage';

test('records are handed over, all of one owner or those named; that is noted', async () => {
  for (const name of ['Tidewise', 'Harbour Oriel'])
    await admin(routeTo('handOver', { kind: 'account' }), { ids: [await idOf('account', name)], to: crew.ids.rep });
  const given = await rep(routeTo('handOver', { kind: 'account' }), { from: crew.ids.rep, to: crew.ids.other });
  expect(given.json.ids).toHaveLength(2);
  const names = async (owner: number): Promise<string[]> =>
    (await rep(routeTo('listRecords', { kind: 'account', owner }))).json.records.map((record: { name: string }) => record.name);
  expect([await names(crew.ids.rep), await names(crew.ids.other)]).toEqual([[], ['Harbour Oriel', 'Tidewise']]);
  await rep(routeTo('handOver', { kind: 'account' }), { ids: given.json.ids, to: crew.ids.rep });
  expect(await names(crew.ids.rep)).toEqual(['Harbour Oriel', 'Tidewise']);
  const { changes } = (await rep(routeTo('recordChanges', { kind: 'account', id: await idOf('account', 'Tidewise') }))).json;
  expect(changes[0]).toMatchObject({ field: 'owner', before: 'other@quillmere.example', after: US });
  expect((await rep(routeTo('handOver', { kind: 'account' }), { to: crew.ids.rep })).status).toBe(422);
  expect((await rep(routeTo('handOver', { kind: 'account' }), { ids: [1], to: 999_999 })).status).toBe(404);
});

test('a list is kept under a name, for oneself or for all', async () => {
  const kept = await rep(routeTo('keepView'), { kind: 'deal', name: 'Quiet ones', query: 'quiet=30', shared: true });
  await rep(routeTo('keepView'), { kind: 'deal', name: 'Mine', query: 'owner=1' });
  const names = async (who: keyof Crew['tokens']): Promise<string[]> =>
    (await server.call(routeTo('listViews'), { token: crew.tokens[who] })).json.views.map((view: { name: string }) => view.name);
  expect(await names('rep')).toEqual(['Mine', 'Quiet ones']);
  expect(await names('other')).toEqual(['Quiet ones']);
  expect((await server.call(routeTo('forgetView', { id: kept.json.id }), { token: crew.tokens.other })).status).toBe(404);
  expect((await rep(routeTo('forgetView', { id: kept.json.id }))).status).toBe(200);
});
