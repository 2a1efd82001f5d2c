import { routeTo } from '../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import type { Change } from '../base/live/changes';
import { until } from '../testing/mailboxTools';
import { changeRulebook, decideAll, importMail, mbox, owner } from '../testing/testServer';
import { server, crew, as, rep, admin, US, mail, day, emailOf, idOf, under } from '../testing/repairStage';
import type { Who } from '../testing/repairStage';
import { recordId, settled } from '../testing/repairStage';

describe('a repair', () => {
  test('files a conversation under a deal; it survives that everything is decided again, and later emails follow', async () => {
    const deal = await recordId('deal', 'Outer harbour');
    expect((await emailOf('second')).outcome).toBe('waiting');
    const done = await rep(routeTo('repair'), {
      emails: [await idOf('second')],
      reach: 'conversation',
      file: [{ kind: 'deal', id: deal }],
    });
    expect(done.json).toMatchObject({ summary: 'Filed a conversation under the deal Outer harbour', changed: 3, offer: null });
    for (const value of ['first', 'second', 'third']) expect(await under(value)).toEqual(['Harbour Oriel', 'Ida Brandt', 'Outer harbour']);
    expect((await emailOf('third')).outcome).toBe('filed');
    await decideAll(server, crew.tokens.admin);
    expect(await under('second')).toContain('Outer harbour');
    await importMail(server, crew.tokens.admin, US, { 'later.mbox': mbox([mail('fourth', { date: day(20), references: '<third>' })]) });
    expect(await under('fourth')).toContain('Outer harbour');
    const docket = (await emailOf('second')).docket.flatMap((entry: { because: string[] }) => entry.because);
    expect(docket.some((entry: string) => entry.startsWith('rep person filed the conversation under the deal Outer harbour'))).toBe(true);
  });

  test('undone, leaves everything as it stood', async () => {
    const before = await settled();
    const account = await recordId('account', 'Tidewise');
    const done = await rep(routeTo('repair'), {
      emails: [await idOf('alone')],
      file: [{ kind: 'account', id: account }],
      takeOff: [
        { kind: 'account', id: await recordId('account', 'Harbour Oriel') },
        { kind: 'deal', id: null },
      ],
    });
    expect(done.json.summary).toBe('Moved an email from the account Harbour Oriel and every deal to the account Tidewise');
    expect(await under('alone')).toEqual(['Ida Brandt', 'Tidewise']);
    expect((await emailOf('alone')).outcome).toBe('filed');
    expect(await settled()).not.toEqual(before);
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).status).toBe(200);
    expect(await settled()).toEqual(before);
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).json.error.code).toBe('undone');
  });

  test('takes a conversation off from an email on, and leaves what was before', async () => {
    const deal = await recordId('deal', 'Outer harbour');
    const done = await rep(routeTo('repair'), { emails: [await idOf('third')], reach: 'onward', takeOff: [{ kind: 'deal', id: deal }] });
    expect(await under('second')).toContain('Outer harbour');
    expect(await under('third')).not.toContain('Outer harbour');
    expect(await under('fourth')).not.toContain('Outer harbour');
    await rep(routeTo('undoRepair', { id: done.json.id }));
    expect(await under('fourth')).toContain('Outer harbour');
  });

  test('starts a contact with its account from an email, filled in from it, and files past mail; undone, it is gone', async () => {
    const before = await settled();
    const ids = [await idOf('other-2')];
    const [kim] = (await rep(routeTo('outsiders', { emails: ids.join(',') }))).json.people;
    expect(kim.keptOut).toBe(false);
    expect(kim).toMatchObject({
      address: 'kim@unknown.example',
      name: 'Kim Aster',
      title: 'Harbour Pilot',
      phones: ['+44 20 7946 0018'],
      company: 'Unknown',
      record: null,
    });
    const done = await rep(routeTo('repair'), {
      emails: ids,
      people: [
        {
          kind: 'contact',
          address: kim.address,
          name: kim.name,
          title: kim.title,
          phones: kim.phones,
          account: { name: kim.company, domain: kim.domain },
        },
      ],
    });
    expect(done.json.created).toHaveLength(2);
    await until(
      () => under('other-1'),
      (names) => names.includes('Kim Aster') && names.includes('Unknown'),
    );
    const contact = await recordId('contact', 'Kim Aster');
    expect((await rep(routeTo('getRecord', { kind: 'contact', id: contact }))).json.origin).toMatchObject({
      emailId: ids[0],
      rule: 'by hand',
    });
    const again = await rep(routeTo('repair'), {
      emails: ids,
      people: [{ kind: 'contact', address: kim.address, name: 'Other', account: null }],
    });
    expect(again.json.error.code).toBe('taken');
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).json.kept).toEqual([]);
    expect(await under('other-1')).toEqual([]);
    expect(await settled()).toEqual(before);
    expect(
      await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Kim Aster' UNION SELECT id FROM accounts WHERE name = 'Unknown'`),
    ).toEqual([]);
  });

  test('keeps a started record that something else depends on, and says so', async () => {
    const done = await rep(routeTo('repair'), {
      emails: [await idOf('other-1')],
      people: [{ kind: 'lead', address: 'kim@unknown.example', name: 'Kim Aster' }],
    });
    const lead = await recordId('lead', 'Kim Aster');
    const second = await rep(routeTo('repair'), { emails: [await idOf('alone')], file: [{ kind: 'lead', id: lead }] });
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).json.kept).toEqual([
      { kind: 'lead', id: lead, name: 'Kim Aster', because: 'other emails were filed under it by hand' },
    ]);
    await rep(routeTo('undoRepair', { id: second.json.id }));
    await owner(server.ownerUrl, `DELETE FROM person_addresses WHERE kind = 'lead'`);
    await owner(server.ownerUrl, 'DELETE FROM leads');
    await decideAll(server, crew.tokens.admin);
  });

  test('offers the rule after the third alike', async () => {
    const account = await recordId('account', 'Tidewise');
    const offers: unknown[] = [];
    for (const value of ['other-1', 'other-2', 'other-3']) {
      const done = await rep(routeTo('repair'), { emails: [await idOf(value)], file: [{ kind: 'account', id: account }] });
      offers.push(done.json.offer);
    }
    expect(offers.slice(0, 2)).toEqual([null, null]);
    expect(offers[2]).toMatchObject({
      step: 'match',
      rule: { when: { test: { value: 'kim@unknown.example' } }, then: { do: 'fileUnder', kind: 'account', id: account } },
    });
  });

  test('is for those who may read the email; a record that is gone is refused; nothing is changed by either', async () => {
    const before = await settled();
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'owner'));
    await decideAll(server, crew.tokens.admin);
    const order = { emails: [await idOf('alone')], takeOff: [{ kind: null, id: null }] };
    expect((await as('other')(routeTo('repair'), order)).json.error.code).toBe('not-yours');
    expect((await admin(routeTo('repair'), order)).json.error.code).toBe('not-yours');
    expect((await as('viewer')(routeTo('repair'), order)).status).toBe(403);
    expect((await rep(routeTo('repair'), { emails: order.emails, file: [{ kind: 'deal', id: 999_999 }] })).status).toBe(404);
    expect((await rep(routeTo('repair'), { emails: order.emails })).status).toBe(422);
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
    await decideAll(server, crew.tokens.admin);
    expect(await settled()).toEqual(before);
  });

  test('that takes an email from others tells their open pages, naming the records alone', async () => {
    const id = await idOf('alone');
    const heard: Change[] = [];
    const deaf = server.services.changes.hear((change) => heard.push(change));
    const done = await rep(routeTo('repair'), { emails: [id], seal: true });
    const account = await recordId('account', 'Harbour Oriel');
    await until(
      () => Promise.resolve(heard),
      (all) => all.some((change) => change.kind === 'mail' && change.to === 'everyone' && change.records.includes(`account:${account}`)),
    );
    await rep(routeTo('undoRepair', { id: done.json.id }));
    deaf();
  });

  test('that seals leaves no trace for anyone else; unsealed, it is back', async () => {
    const id = await idOf('alone');
    const seen = async (who: Who) => {
      const account = await recordId('account', 'Harbour Oriel');
      return {
        detail: (await as(who)(routeTo('getEmail', { id }))).status,
        register: (await as(who)(routeTo('listEmails'))).json.total,
        found: (await as(who)(routeTo('search', { text: 'alone' }))).json.emailTotal,
        history: (await as(who)(routeTo('getRecord', { kind: 'account', id: account }))).json.emails,
        desk: (await as(who)(routeTo('getDesk'))).json.left,
        repairs: (await as(who)(routeTo('listRepairs'))).json.repairs.length,
      };
    };
    const before = { admin: await seen('admin'), other: await seen('other') };
    expect(before.admin).toMatchObject({ detail: 200, found: 1 });
    expect((await as('other')(routeTo('repair'), { emails: [id], seal: true })).json.error.code).toBe('not-yours');
    // What was put right about it before names its people and records.
    const [about] = await owner(
      server.ownerUrl,
      'SELECT count(DISTINCT repair_id)::int AS repairs FROM pins WHERE email_id = $1 AND repair_id IN (SELECT id FROM repairs WHERE NOT sealed)',
      [id],
    );
    const done = await rep(routeTo('repair'), { emails: [id], seal: true });
    expect(await seen('admin')).toEqual({
      ...before.admin,
      detail: 404,
      register: before.admin.register - 1,
      found: 0,
      history: before.admin.history - 1,
      repairs: before.admin.repairs - Number(about?.repairs),
    });
    expect(await seen('other')).toEqual({
      ...before.other,
      detail: 404,
      register: before.other.register - 1,
      found: 0,
      history: before.other.history - 1,
    });
    expect((await rep(routeTo('getEmail', { id }))).json).toMatchObject({ outcome: 'sealed', filings: [] });
    expect((await admin(routeTo('undoRepair', { id: done.json.id }))).status).toBe(404);
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).status).toBe(200);
    expect({ admin: await seen('admin'), other: await seen('other') }).toEqual(before);
  });
});

test('where another email’s deal goes by score, it follows a repair and its undoing', async () => {
  const why = async (): Promise<string> => JSON.stringify((await emailOf('alone')).docket);
  const before = await why();
  expect(before).toContain('Outer harbour');
  const done = await rep(routeTo('repair'), {
    emails: [await idOf('first')],
    reach: 'conversation',
    file: [{ kind: 'deal', id: await recordId('deal', 'Inner basin') }],
  });
  await settled();
  expect(await why()).toContain('next best Inner basin 0.54');
  await rep(routeTo('undoRepair', { id: done.json.id }));
  await settled();
  expect(await why()).toBe(before);
});
