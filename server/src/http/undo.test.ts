import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { changeRulebook, finished, importMail, mbox, nothingLeftToDecide, owner, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const as =
  (who: keyof Crew['tokens']) =>
  (target: Destination, body?: unknown): Promise<Answer> =>
    server.call(target, { token: crew.tokens[who], ...(body === undefined ? {} : { body }) });
let admin: ReturnType<typeof as>;
let rep: ReturnType<typeof as>;
let list: string;
let spare: string;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  [admin, rep] = [as('admin'), as('rep')];
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains\nHarbour Oriel,harbour.example\nReef North,reef.example\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\nJo Lund,jo@harbour.example,Harbour Oriel\nKim Aster,kim@reef.example,Reef North\n',
  });
  list = (await admin(routeTo('createAddressList'), { name: 'Press' })).json.id;
  spare = (await admin(routeTo('createAddressList'), { name: 'Spare', note: 'for later' })).json.id;
  await admin(routeTo('pasteAddressListEntries', { list: spare }), { text: 'spare.example, also.example' });
  await admin(routeTo('importRecords', { kind: 'lead' }), { text: 'name,emails,company\nUna Tor,una@tor.example,Tor\n' });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: 'code,name,account,people\nQH-1,Gauges,Harbour Oriel,ida@harbour.example\n',
  });
  await importMail(server, crew.tokens.admin, 'rep@quillmere.example', {
    'rep.mbox': mbox([{ id: 'one', from: 'ida@harbour.example', to: 'rep@quillmere.example', subject: 'Gauges' }]),
  });
});
afterAll(() => server.remove());

const TABLES: Record<string, string> = {
  accounts: `to_jsonb(t) - 'created_at'`,
  contacts: `to_jsonb(t) - 'created_at'`,
  leads: `to_jsonb(t) - 'created_at'`,
  deals: `to_jsonb(t) - 'created_at'`,
  person_addresses: 'to_jsonb(t)',
  account_domains: 'to_jsonb(t)',
  contact_accounts: 'to_jsonb(t)',
  deal_people: 'to_jsonb(t)',
  address_lists: `to_jsonb(t) - 'changed_at' - 'created_at'`,
  address_list_entries: `to_jsonb(t) - 'id'`,
  rulebook_draft: 'document',
  workspace: `jsonb_build_array(name, record_reach, widest_share, second_factor_needed)`,
  own_keep_outs: `jsonb_build_array(user_id, kind, value)`,
};

/** Records, lists, draft and settings, table by table; what logs say is no part of it, since undoing is noted, too. */
async function records(): Promise<Record<string, string[]>> {
  const found: Record<string, string[]> = {};
  for (const [table, row] of Object.entries(TABLES))
    found[table] = (await owner(server.ownerUrl, `SELECT (${row})::text AS row FROM ${table} t ORDER BY 1`)).map((item) =>
      String(item.row),
    );
  return found;
}
const idOf = async (kind: string, name: string): Promise<number> =>
  Number((await owner(server.ownerUrl, `SELECT id::int AS id FROM ${kind}s WHERE name = $1`, [name]))[0]?.id);
const anyOf = async (kind: string, at: number): Promise<number> => {
  const rows = await owner(server.ownerUrl, `SELECT id::int AS id FROM ${kind}s ORDER BY id`);
  return Number(rows[at % rows.length]?.id);
};

/** Steps by chance; each gives the step that it left, or null where it was refused or changed nothing. */
const STEPS: Record<string, (at: number) => Promise<number | null>> = {
  rename: async (at) =>
    (await admin(routeTo('editRecord', { kind: 'contact', id: await anyOf('contact', at) }), { values: { name: `Renamed ${at}` } })).json
      .undo ?? null,
  move: async (at) =>
    (
      await admin(routeTo('editRecord', { kind: 'contact', id: await anyOf('contact', at) }), {
        values: { account: ['Harbour Oriel', 'Reef North', ''][at % 3] },
      })
    ).json.undo ?? null,
  address: async (at) =>
    (
      await admin(routeTo('editRecord', { kind: 'contact', id: await anyOf('contact', at) }), {
        values: { emails: `new${at}@harbour.example; b${at}@x.example` },
      })
    ).json.undo ?? null,
  domain: async (at) =>
    (await admin(routeTo('editRecord', { kind: 'account', id: await anyOf('account', at) }), { values: { domains: `d${at}.example` } }))
      .json.undo ?? null,
  close: async (at) =>
    (
      await admin(routeTo('editRecord', { kind: 'deal', id: await anyOf('deal', at) }), {
        values: { open: at % 2 ? 'no' : 'yes', amount: String(at), currency: 'EUR' },
      })
    ).json.undo ?? null,
  create: async (at) =>
    (
      await admin(routeTo('createRecord', { kind: 'contact' }), {
        values: { name: `New ${at}`, emails: `made${at}@made.example`, account: 'Reef North' },
      })
    ).json.undo ?? null,
  createDeal: async (at) =>
    (
      await admin(routeTo('createRecord', { kind: 'deal' }), {
        values: { name: `Deal ${at}`, account: 'Reef North', people: 'kim@reef.example' },
      })
    ).json.undo ?? null,
  handOver: async (at) =>
    (
      await admin(routeTo('handOver', { kind: 'contact' }), {
        ids: [await anyOf('contact', at), await anyOf('contact', at + 1)],
        to: crew.ids.other,
      })
    ).json.undo ?? null,
  people: async (at) =>
    (
      await admin(routeTo('setDealPeople', { id: await anyOf('deal', at) }), {
        people: [{ kind: 'contact', id: await anyOf('contact', at), role: `role ${at}` }],
      })
    ).json.undo ?? null,
  importFile: async (at) =>
    (
      await admin(routeTo('importRecords', { kind: 'contact' }), {
        text: `name,emails,title\nIda Brandt,ida@harbour.example,Title ${at}\nFiled ${at},filed${at}@file.example,Keeper\n`,
      })
    ).json.undo ?? null,
  paste: async (at) =>
    (await admin(routeTo('pasteAddressListEntries', { list }), { text: `p${at % 5}.example, q${at}.example` })).json.undo ?? null,
  removeEntry: async (at) => {
    const entries = await owner(server.ownerUrl, 'SELECT id::int AS id FROM address_list_entries WHERE list_id = $1 ORDER BY value', [
      list,
    ]);
    if (entries.length === 0) return null;
    return (await admin(routeTo('removeAddressListEntry', { list, id: entries[at % entries.length]?.id }))).json.undo ?? null;
  },
  changeEntry: async (at) => {
    const entries = await owner(server.ownerUrl, 'SELECT id::int AS id FROM address_list_entries WHERE list_id = $1 ORDER BY value', [
      list,
    ]);
    if (entries.length === 0) return null;
    const change = [{ note: `note ${at}` }, { until: '2031-01-31' }, { exactly: true }][at % 3];
    return (await admin(routeTo('changeAddressListEntry', { list, id: entries[at % entries.length]?.id }), change)).json.undo ?? null;
  },
  deleteList: async () => (await admin(routeTo('deleteAddressList', { list: spare }))).json.undo ?? null,
  draft: async (at) => {
    const { document, revision } = (await admin(routeTo('getDraft'))).json;
    document.share.level = ['owner', 'record', 'everyone'][at % 3];
    return (await admin(routeTo('putDraft', { revision }), document)).json.undo ?? null;
  },
  dropDraft: async () => (await admin(routeTo('dropDraft'))).json.undo ?? null,
  settings: async (at) =>
    (await admin(routeTo('putWorkspace'), { name: `Quillmere ${at % 4}`, recordReach: ['all', 'team', 'owner'][at % 3] })).json.undo ??
    null,
  ownKeepOut: async (at) => (await admin(routeTo('addOwnKeepOut'), { kind: 'domain', value: `mine${at % 3}.example` })).json.undo ?? null,
  merge: async (at) => {
    const [kept, gone] = [await anyOf('contact', at), await anyOf('contact', at + 1)];
    const { status } = await admin(routeTo('mergeRecords', { kind: 'contact', id: kept }), { gone, take: [] });
    return status === 200 ? (await admin(routeTo('listUndo'))).json.steps[0].id : null;
  },
};

test('any steps, undone in reverse, leave all as it was, table by table', async () => {
  const step = fc.tuple(fc.constantFrom(...Object.keys(STEPS)), fc.integer({ min: 0, max: 9999 }));
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 9 }), async (steps) => {
      const before = await records();
      const done: number[] = [];
      for (const [name, at] of steps) {
        const id = await STEPS[name]?.(at);
        if (id) done.push(id);
      }
      for (const id of done.reverse()) {
        const { status, json } = await admin(routeTo('undo', { id }));
        expect([status, json.kept ?? json]).toEqual([200, []]);
      }
      expect(await records()).toEqual(before);
    }),
    { numRuns: 10, endOnFailure: true },
  );
}, 120_000);

describe('a step', () => {
  test('is listed for who did it alone, and undone once', async () => {
    const id = await idOf('contact', 'Ida Brandt');
    const { undo } = (await admin(routeTo('editRecord', { kind: 'contact', id }), { values: { title: 'Pilot' } })).json;
    const [latest] = (await admin(routeTo('listUndo'))).json.steps;
    expect(latest).toMatchObject({ id: undo, kind: 'edit', summary: 'Changed title of Ida Brandt', by: 'Ada Admin', undone: false });
    expect((await rep(routeTo('listUndo'))).json.steps.map((step: { id: number }) => step.id)).not.toContain(undo);
    expect((await rep(routeTo('undo', { id: undo }))).status).toBe(404);
    expect((await admin(routeTo('undo', { id: undo }))).status).toBe(200);
    expect((await admin(routeTo('undo', { id: undo }))).json.error.code).toBe('undone-already');
    expect((await admin(routeTo('listUndo'))).json.steps[0]).toMatchObject({ id: undo, undone: true });
  });

  test('on which something was built stays, and says so; nothing is changed', async () => {
    const id = await idOf('contact', 'Ida Brandt');
    const first = (await admin(routeTo('editRecord', { kind: 'contact', id }), { values: { title: 'First' } })).json.undo;
    await admin(routeTo('editRecord', { kind: 'contact', id }), { values: { title: 'Second' } });
    const refused = await admin(routeTo('undo', { id: first }));
    expect([refused.status, refused.json.error.code]).toEqual([409, 'changed-since']);
    const made = (await admin(routeTo('createRecord', { kind: 'account' }), { values: { name: 'Built On' } })).json;
    await admin(routeTo('createRecord', { kind: 'contact' }), { values: { name: 'Their Keeper', account: 'Built On' } });
    expect((await admin(routeTo('undo', { id: made.undo }))).json.error.message).toContain('people or deals belong to it');
    expect(await idOf('account', 'Built On')).toBe(made.id);
  });

  test('of a hand-over gives back what its owner may still have, and names the rest', async () => {
    const [ida, jo] = [await idOf('contact', 'Ida Brandt'), await idOf('contact', 'Jo Lund')];
    await admin(routeTo('handOver', { kind: 'contact' }), { ids: [ida], to: crew.ids.rep });
    await admin(routeTo('handOver', { kind: 'contact' }), { ids: [jo], to: crew.ids.viewer });
    const { undo } = (await admin(routeTo('handOver', { kind: 'contact' }), { ids: [ida, jo], to: crew.ids.other })).json;
    await owner(server.ownerUrl, 'UPDATE users SET active = false WHERE id = $1', [crew.ids.viewer]);
    expect((await admin(routeTo('undo', { id: undo }))).json).toMatchObject({
      changed: 1,
      kept: [{ name: 'Jo Lund', because: 'its owner before has left the team' }],
    });
    await owner(server.ownerUrl, 'UPDATE users SET active = true WHERE id = $1', [crew.ids.viewer]);
    expect(await owner(server.ownerUrl, 'SELECT owner_id::int AS owner FROM contacts WHERE id = $1', [ida])).toEqual([
      { owner: crew.ids.rep },
    ]);
  });

  test('of an import takes back what was not touched since, and names the rest', async () => {
    const { undo } = (
      await admin(routeTo('importRecords', { kind: 'contact' }), {
        text: 'name,emails\nOld Hand,old@hand.example\nNew Hand,new@hand.example\n',
      })
    ).json;
    await admin(routeTo('editRecord', { kind: 'contact', id: await idOf('contact', 'Old Hand') }), { values: { title: 'Keeper' } });
    expect((await admin(routeTo('undo', { id: undo }))).json).toMatchObject({
      changed: 1,
      kept: [{ name: 'Old Hand', because: 'it was changed since' }],
    });
    expect(await idOf('contact', 'Old Hand')).toBeGreaterThan(0);
    expect(await idOf('contact', 'New Hand')).toBeNaN();
  });

  test('of a run over past mail puts the mail back as it stood, and the run says so', async () => {
    await nothingLeftToDecide(server);
    const filings = () => owner(server.ownerUrl, 'SELECT email_id, kind, record_id, rule FROM filings ORDER BY 1, 2, 3');
    const before = await filings();
    expect(before.length).toBeGreaterThan(0);
    const entry = { id: 'h', kind: 'domain', value: 'harbour.example', exactly: false, effect: 'keepOut', note: '' };
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.keepOut.entries = [entry] as never));
    const { id } = (await admin(routeTo('decide'), {})).json;
    expect(await finished(server, crew.tokens.admin, routeTo('getDecideRun', { id }))).toMatchObject({ state: 'done', changed: 1 });
    expect(await filings()).toEqual([]);
    const [step] = (await admin(routeTo('listUndo'))).json.steps;
    expect(step).toMatchObject({ kind: 'pastRun', summary: 'Decided past mail again: 1 email changed' });
    expect((await admin(routeTo('undo', { id: step.id }))).json).toEqual({ changed: 1, kept: [] });
    expect(await filings()).toEqual(before);
    expect((await admin(routeTo('listDecideRuns'))).json.runs[0]).toMatchObject({ id, undoable: false });
  });

  test('keeping out is any administrator’s to undo, and no one else’s', async () => {
    const { undo } = (await admin(routeTo('keepOut'), { kind: 'domain', value: 'loud.example', effect: 'keepOut', note: '' })).json;
    expect((await rep(routeTo('undo', { id: undo }))).status).toBe(404);
    expect((await admin(routeTo('undo', { id: undo }))).status).toBe(200);
  });
});
