import { announce } from '../base/live/changes';
import { routeTo } from '../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import type { Change } from '../base/live/changes';
import { until } from '../testing/mailboxTools';
import { decideAll, importMail, mbox, owner } from '../testing/testServer';
import { server, crew, as, dentist, US, mail, idOf, knows, recordId, good } from '../testing/accessStage';
import type { Who } from '../testing/accessStage';

describe('a seal of everything with somebody', () => {
  const corners = async (who: Who) => ({
    register: good(await as(who)(routeTo('listEmails'))).total,
    line: good(await as(who)(routeTo('getLine'))),
    contacts: good(await as(who)(routeTo('listRecords', { kind: 'contact' }))).records.map((record: { name: string }) => record.name),
    accounts: good(await as(who)(routeTo('listRecords', { kind: 'account' }))).records.map((record: { name: string }) => record.name),
    found: good(await as(who)(routeTo('search', { text: 'Vale' }))),
    domains: who === 'admin' ? good(await as(who)(routeTo('listDomainUse'))) : null,
    decisions: (await as(who)(routeTo('exportDecisions'))).text,
    audit: good(await as(who)(routeTo('listAudit', { limit: 500 }))).entries.filter((entry: { kind: string }) => entry.kind !== 'export')
      .length,
    arrival: good(await as(who)(routeTo('getArrival'))),
  });

  test('leaves no trace in any corner: not their records, not what was kept out, not the log; taken back, all is as it was', async () => {
    expect(await recordId('contact', 'Dr Finn Vale')).not.toBeNull();
    const before = { admin: await corners('admin'), viewer: await corners('viewer') };
    const heard: Change[] = [];
    const deaf = server.services.changes.hear((change) => heard.push(change));
    const choice = good(await as('rep')(routeTo('addSharingChoice'), { does: 'seal', scope: 'domain', value: 'teeth.example' }));
    expect(choice.emails).toBe(2);
    const school = good(await as('rep')(routeTo('addSharingChoice'), { does: 'seal', scope: 'domain', value: 'school.example' }));
    const during = { admin: await corners('admin'), viewer: await corners('viewer') };
    expect(during.admin.register).toBe(before.admin.register - 3);
    expect(during.admin.audit).toBe(before.admin.audit);
    expect(JSON.stringify(during)).not.toMatch(/teeth\.example|Vale|school\.example/);
    expect([await recordId('contact', 'Dr Finn Vale'), await recordId('account', 'Teeth')]).toEqual([null, null]);
    // The owner has it all.
    expect(await knows('rep', 'tooth-1')).toBe('reads');
    expect(good(await as('rep')(routeTo('getEmail', { id: await idOf('school-1') })))).toMatchObject({
      outcome: 'sealed',
      content: { subject: 'About school-1' },
    });
    expect(good(await as('rep')(routeTo('listAudit'))).entries.map((entry: { about: string }) => entry.about)).toContain(
      'sealed mail with teeth.example',
    );
    // Open pages of others are told of what they saw, and of nothing that is not shown to them any more.
    await until(
      () => Promise.resolve(heard),
      (all) => all.length > 0,
    );
    deaf();
    // Decided again, later mail included.
    await importMail(server, crew.tokens.admin, US, {
      'late.mbox': mbox([mail('tooth-3', { from: dentist, date: 'Tue, 12 May 2026 10:00:00 +0000' })]),
    });
    await decideAll(server, crew.tokens.admin);
    expect([await knows('admin', 'tooth-3'), await knows('rep', 'tooth-3')]).toEqual(['nothing', 'reads']);
    await owner(server.ownerUrl, `DELETE FROM emails WHERE message_id = 'tooth-3'`);
    for (const item of [choice, school]) good(await as('rep')(routeTo('removeSharingChoice', { id: item.id })));
    const after = { admin: await corners('admin'), viewer: await corners('viewer') };
    const plain = (text: string): string => text.replace(/"at":"[^"]*"/g, '');
    expect(plain(JSON.stringify({ ...after, admin: { ...after.admin, audit: 0 }, viewer: { ...after.viewer, audit: 0 } }))).toEqual(
      plain(JSON.stringify({ ...before, admin: { ...before.admin, audit: 0 }, viewer: { ...before.viewer, audit: 0 } })),
    );
  });

  test('up to now only, later mail goes by the rules', async () => {
    const choice = good(
      await as('rep')(routeTo('addSharingChoice'), { does: 'seal', scope: 'person', value: 'finn@teeth.example', always: false }),
    );
    expect(choice.until).not.toBeNull();
    await importMail(server, crew.tokens.admin, US, {
      'later.mbox': mbox([mail('tooth-4', { from: dentist, date: new Date(Date.now() + 60_000).toUTCString().replace('GMT', '+0000') })]),
    });
    expect([await knows('admin', 'tooth-1'), await knows('admin', 'tooth-4')]).toEqual(['nothing', 'exists']);
    good(await as('rep')(routeTo('removeSharingChoice', { id: choice.id })));
  });

  test('stays with who set it when the mailbox goes to someone else', async () => {
    const choice = good(await as('rep')(routeTo('addSharingChoice'), { does: 'seal', scope: 'person', value: 'finn@teeth.example' }));
    const [box] = await owner(server.ownerUrl, 'SELECT id FROM mailboxes WHERE address = $1', [US]);
    expect((await as('admin')(routeTo('passOnMailbox', { id: box?.id }), { ownerId: crew.ids.admin })).json.error.code).toBe('own-hand');
    expect((await as('admin')(routeTo('putMailboxSettings', { id: box?.id }), { userIds: [crew.ids.admin] })).json.error.code).toBe(
      'own-hand',
    );
    good(await as('admin')(routeTo('passOnMailbox', { id: box?.id }), { ownerId: crew.ids.other }));
    expect([await knows('other', 'three'), await knows('other', 'tooth-1'), await knows('rep', 'tooth-1')]).toEqual([
      'reads',
      'nothing',
      'reads',
    ]);
    await decideAll(server, crew.tokens.admin);
    expect([await knows('other', 'tooth-1'), await knows('admin', 'tooth-1')]).toEqual(['nothing', 'nothing']);
    good(await as('rep')(routeTo('removeSharingChoice', { id: choice.id })));
    expect([await knows('other', 'tooth-1'), await knows('rep', 'tooth-1')]).toEqual(['reads', 'exists']);
    good(await as('admin')(routeTo('passOnMailbox', { id: box?.id }), { ownerId: crew.ids.rep }));
  });
});

describe('the reach of records', () => {
  test('hides records of others everywhere: lists, details, dockets, search, and from being written to', async () => {
    good(await as('admin')(routeTo('putWorkspace'), { recordReach: 'owner' }));
    const marsh = await recordId('account', 'Marsh');
    expect((await as('rep')(routeTo('getRecord', { kind: 'account', id: marsh ?? 0 }))).status).toBe(404);
    expect((await as('manager')(routeTo('getRecord', { kind: 'account', id: marsh ?? 0 }))).status).toBe(200);
    expect((await as('rep')(routeTo('search', { text: 'Marsh' }))).json.records).toEqual([]);
    expect((await as('rep')(routeTo('repair'), { emails: [await idOf('one')], file: [{ kind: 'account', id: marsh }] })).status).toBe(404);
    // The decision of one's own email does not name a deal of someone else.
    const detail = await as('rep')(routeTo('getEmail', { id: await idOf('one') }));
    expect(detail.text).not.toContain('Outer harbour');
    expect(detail.text).toContain('a record that is not yours to see');
    expect((await as('other')(routeTo('getEmail', { id: await idOf('one') }))).text).toContain('Outer harbour');
    const [other, mine] = [marsh, await recordId('account', 'Harbour Oriel')];
    expect((await as('rep')(routeTo('mergeRecords', { kind: 'account', id: mine ?? 0 }), { gone: other, take: [] })).status).toBe(404);
    const stream = await fetch(`${server.url}/api/v1/changes`, { headers: { authorization: `Bearer ${crew.tokens.rep}` } });
    await announce(server.services.database.worker, { kind: 'mail', to: 'everyone', records: [`account:${marsh}`, `account:${mine}`] });
    const reader = stream.body!.getReader();
    let streamed = '';
    while (!streamed.includes('"kind":"mail"')) streamed += new TextDecoder().decode((await reader.read()).value);
    await reader.cancel();
    expect(streamed).toContain(`"records":["account:${mine}"]`);
    const same = { account: { name: 'MARSH' }, deal: { name: 'Another', code: 'qh-1001' } };
    for (const [kind, values] of Object.entries(same)) {
      const refused = await as('rep')(routeTo('createRecord', { kind }), { values });
      expect([refused.status, refused.json.error.message]).toEqual([409, expect.stringContaining('cannot be saved as it is')]);
      expect(refused.text).not.toMatch(/Marsh|Outer harbour/);
    }
    good(await as('admin')(routeTo('putWorkspace'), { recordReach: 'all' }));
    expect((await as('rep')(routeTo('getRecord', { kind: 'account', id: marsh ?? 0 }))).status).toBe(200);
  });
});

test('the log tells that the mailbox was passed on, and who uses it', async () => {
  const { entries } = good(await as('admin')(routeTo('listAudit', { kind: 'mailbox' })));
  expect(entries.length).toBeGreaterThan(1);
});
