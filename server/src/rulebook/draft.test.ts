import { routeTo } from '../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { crew, call, rule, fromDomain, edit } from '../testing/rulebookStage';

describe('the draft', () => {
  test('is what is in force until it is edited; editing it changes nothing in force', async () => {
    const { json } = await call(routeTo('getDraft'));
    expect([json.revision, json.differences]).toEqual([0, []]);
    const kept = await edit(
      (rulebook) =>
        void rulebook.takeIn.rules.push(
          rule('no-invoices', { fact: 'subject', test: { contains: ['invoice'] } }, { do: 'leaveToOwner' }) as never,
        ),
    );
    expect(kept.json).toMatchObject({
      revision: 1,
      differences: ['Take in: new rule “When the subject says “invoice”, leave it to its owner.”'],
    });
    expect((await call(routeTo('getRulebook'))).json.document.takeIn.rules).toEqual([]);
  });

  test('is not overwritten by someone who edited an earlier revision', async () => {
    const { json } = await call(routeTo('getDraft'));
    const late = await call(routeTo('putDraft', { revision: 0 }), json.document);
    expect([late.status, late.json.error.code]).toEqual([409, 'changed-meanwhile']);
  });

  test.each([
    ['a pattern that cannot be read', { fact: 'subject', test: { pattern: '(a' } }, 'The pattern “(a” cannot be read'],
    [
      'a list that is not there',
      { fact: 'participant', which: 'any', test: { is: 'inList', list: 'gone' } },
      'There is no address list gone',
    ],
    ['a fact that no one knows', { fact: 'weather' }, 'takeIn.rules'],
  ])('with %s is refused, and the one before stays', async (_, when, said) => {
    const before = (await call(routeTo('getDraft'))).json;
    const refused = await edit((rulebook) => void rulebook.takeIn.rules.push(rule('bad', when, { do: 'takeIn' }) as never));
    expect([refused.status, refused.json.error.message]).toEqual([422, expect.stringContaining(said)]);
    expect((await call(routeTo('getDraft'))).json).toEqual(before);
  });

  test('is for administrators', async () => {
    for (const route of ['getDraft', 'listTrials', 'listAddressLists', 'useOfRules'] as const)
      expect((await call(routeTo(route), undefined, crew.tokens.manager)).status).toBe(403);
  });
});

describe('address lists', () => {
  test('are found under the name of their path before', async () => {
    const [now, before] = [await call(routeTo('listAddressLists')), await call({ method: 'GET', path: '/kept-lists?' })];
    expect([before.status, before.json]).toEqual([200, now.json]);
    expect((await call({ method: 'GET', path: '/kept-listsx' })).status).toBe(404);
  });

  test('take what is pasted in any form, say what could not be read, and know doubles', async () => {
    const { json } = await call(routeTo('createAddressList'), { name: 'Press and law firms' });
    expect((await call(routeTo('createAddressList'), { name: 'press and LAW firms' })).status).toBe(409);
    const pasted = await call(routeTo('pasteAddressListEntries', { list: json.id }), {
      text: 'news.example, "Law, and Order" <clerk@law.example>; https://www.gazette.example/about?x=1\n@paper.example\tOur paper\nnot a domain\nNEWS.example',
    });
    expect(pasted.json).toMatchObject({ added: 4, known: 0, unread: ['not', 'a', 'domain'] });
    const { json: found } = await call(routeTo('listAddressListEntries', { list: json.id }));
    expect(found.entries.map((entry: { value: string; note: string }) => [entry.value, entry.note])).toEqual([
      ['gazette.example', ''],
      ['news.example', ''],
      ['paper.example', 'Our paper'],
      ['clerk@law.example', ''],
    ]);
    await call(routeTo('pasteAddressListEntries', { list: json.id }), { text: 'today.news.example law.example' });
    const again = (await call(routeTo('listAddressListEntries', { list: json.id }))).json.entries;
    expect(
      again
        .filter((item: { coveredBy: string | null }) => item.coveredBy)
        .map((item: { value: string; coveredBy: string }) => [item.value, item.coveredBy]),
    ).toEqual([
      ['today.news.example', 'news.example'],
      ['clerk@law.example', 'law.example'],
    ]);
    expect((await call(routeTo('exportAddressList', { list: json.id }))).text.split('\n')[0]).toBe('kind,value,exactly,note,until');
  });

  test('are not removed while a rule refers to them', async () => {
    const [list] = (await call(routeTo('listAddressLists'))).json.lists;
    await edit(
      (rulebook) =>
        void rulebook.keepOut.rules.push(
          rule('press', { fact: 'participant', which: 'any', test: { is: 'inList', list: list.id } }, { do: 'ignore' }) as never,
        ),
    );
    const refused = await call(routeTo('deleteAddressList', { list: list.id }));
    expect([refused.status, refused.json.error.message]).toEqual([409, 'The list is used by “press”. Change those rules first.']);
    expect((await call(routeTo('listAddressLists'))).json.lists[0]).toMatchObject({ entries: 6, usedBy: ['press'] });
  });

  test('what is done to them is in the log, without what their entries say', async () => {
    const { json } = await call(routeTo('createAddressList'), { name: 'Recruiters' });
    await call(routeTo('pasteAddressListEntries', { list: json.id }), { text: 'anna@hunters.example hunters.example' });
    const { entries } = (await call(routeTo('listAddressListEntries', { list: json.id }))).json;
    await call(routeTo('changeAddressListEntry', { list: json.id, id: entries[0].id }), { note: 'calls often' });
    await call(routeTo('removeAddressListEntry', { list: json.id, id: entries[0].id }));
    await call(routeTo('deleteAddressList', { list: json.id }));
    const log = (await call(routeTo('listAudit', { kind: 'rules', limit: 500 }))).json.entries.map(
      (entry: { about: string }) => entry.about,
    );
    expect(log.slice(0, 5)).toEqual([
      'deleted the address list “Recruiters”',
      'took an entry off the address list “Recruiters”',
      'changed an entry of the address list “Recruiters”',
      'added 2 entries to the address list “Recruiters”',
      'made the address list “Recruiters”',
    ]);
    expect(log.join()).not.toContain('hunters');
  });
});

describe('the lists that ship with content', () => {
  test('stand below one’s own, are used by every rulebook, and stay', async () => {
    const { lists } = (await call(routeTo('listAddressLists'))).json;
    expect(lists.slice(-2).map((list: { id: string; shipped: boolean }) => [list.id, list.shipped])).toEqual([
      ['public-providers', true],
      ['role-addresses', true],
    ]);
    expect(lists.at(-2).entries).toBeGreaterThan(1000);
    expect((await call(routeTo('deleteAddressList', { list: 'role-addresses' }))).json.error.code).toBe('in-use');
  });

  test('decide at once what counts as a provider and as a role address', async () => {
    const isProvider = async (value: string): Promise<boolean> =>
      (await call(routeTo('previewKeepOut'), { kind: 'domain', value })).json.warning?.includes('provider') === true;
    expect([await isProvider('gmail.com'), await isProvider('village-mail.example')]).toEqual([true, false]);
    await call(routeTo('pasteAddressListEntries', { list: 'public-providers' }), { text: 'village-mail.example' });
    const { entries } = (await call(routeTo('listAddressListEntries', { list: 'public-providers', text: 'gmail.com' }))).json;
    await call(
      routeTo('removeAddressListEntry', {
        list: 'public-providers',
        id: entries.find((entry: { value: string }) => entry.value === 'gmail.com').id,
      }),
    );
    expect([await isProvider('gmail.com'), await isProvider('village-mail.example')]).toEqual([false, true]);
    const pasted = await call(routeTo('pasteAddressListEntries', { list: 'role-addresses' }), { text: 'harbourmaster@, info' });
    expect(pasted.json).toMatchObject({ added: 1, known: 1, unread: [] });
  });
});

describe('the check of the draft', () => {
  test('names rules that cannot speak, with the repair', async () => {
    await edit((rulebook) => {
      rulebook.takeIn.rules.push(
        rule('wide', fromDomain('harbour.example'), { do: 'takeIn' }) as never,
        rule(
          'narrow',
          { all: [fromDomain('lab.harbour.example', 'sender'), { fact: 'direction', in: ['received'] }] },
          { do: 'leaveToOwner' },
        ) as never,
        rule('empty', { any: [] }, { do: 'takeIn' }) as never,
      );
    });
    const { findings } = (await call(routeTo('checkDraft'))).json;
    const codes = Object.fromEntries(
      findings
        .filter((finding: { code: string }) => finding.code !== 'quiet')
        .map((finding: { rule: string; code: string }) => [finding.rule, finding.code]),
    );
    expect(codes).toEqual({ narrow: 'covered', empty: 'matches-none' });
    const covered = findings.find((finding: { code: string }) => finding.code === 'covered');
    expect(covered.message).toBe('“narrow” never applies: “wide” before it applies to all the same emails.');
    const { revision } = (await call(routeTo('getDraft'))).json;
    const repaired = await call(routeTo('putDraft', { revision }), covered.repair.document);
    expect(repaired.json.document.takeIn.rules.map((item: { id: string }) => item.id)).toEqual(['no-invoices', 'wide', 'empty']);
  });
});

describe('versions', () => {
  test('say who put them in force, when, why, and what they changed; any two are compared, and one goes back into the draft', async () => {
    await call(routeTo('dropDraft'));
    const before = (await call(routeTo('getRulebook'))).json;
    await edit((rulebook) => void (rulebook.takeIn.scope = 'known'));
    const { revision } = (await call(routeTo('getDraft'))).json;
    await call(routeTo('putDraftLive'), { revision, note: 'Too much came in' });
    await call(routeTo('putRulebook'), { ...before.document, takeIn: { scope: 'answers', rules: [] } });
    const [newest, second, third] = (await call(routeTo('listRulebooks'))).json.versions;
    expect(second).toMatchObject({ by: 'Ada Admin', inForce: false, pilotMailboxes: null });
    expect(second.summary.split('\n')).toEqual([
      'Too much came in',
      'Take in: only mail with known people comes in; before, all mail with external people comes in',
    ]);
    expect(newest).toMatchObject({ inForce: true, summary: expect.stringContaining('only answers to filed mail come in') });
    const compared = (await call(routeTo('getRulebookVersion', { version: newest.version, against: third.version }))).json;
    expect(compared.differences).toContain('Take in: only answers to filed mail come in; before, all mail with external people comes in');
    const draft = (await call(routeTo('versionToDraft', { version: third.version }))).json;
    expect(draft.document).toEqual(before.document);
    expect((await call(routeTo('getRulebookVersion', { version: 999 }))).status).toBe(404);
    await call(routeTo('putRulebook'), before.document);
    await call(routeTo('dropDraft'));
  });
});
