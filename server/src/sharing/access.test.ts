import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { announce } from '../base/live/changes';
import type { Change } from '../base/live/changes';
import { until } from '../testing/mailboxTools';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';
import { checkAudit } from '../workspace/checkAudit';

type Who = keyof Crew['tokens'];
let server: TestServer;
let crew: Crew;
const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
const ida = 'Ida Brandt <ida@harbour.example>';
const dentist = 'Dr Finn Vale <finn@teeth.example>';
const US = 'rep@quillmere.example';
const mail = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: ida,
  to: US,
  subject: `About ${id}`,
  text: `word${id}`,
  ...more,
});

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const admin = as('admin');
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains,owner\nHarbour Oriel,harbour.example,\nMarsh,marsh.example,manager@quillmere.example\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: 'code,name,account,people,open,owner\nQH-1001,Outer harbour,Harbour Oriel,ida@harbour.example,yes,other@quillmere.example\n',
  });
  const put = await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.share = { level: 'everyone', existenceOnly: true, rules: [] };
    rulebook.create = { ...rulebook.create, people: 'contact', after: 'firstEmail' };
    rulebook.keepOut.entries = [
      { id: 'school', kind: 'domain', value: 'school.example', exactly: false, effect: 'ignore', note: '' },
    ] as never;
  });
  expect(put.text.slice(0, 200)).not.toContain('error');
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('one'),
      mail('two', { references: '<one>', date: 'Tue, 5 May 2026 10:00:00 +0000' }),
      mail('three', { date: 'Wed, 6 May 2026 10:00:00 +0000' }),
      mail('tooth-1', { from: dentist, date: 'Thu, 7 May 2026 10:00:00 +0000' }),
      mail('tooth-2', { from: dentist, date: 'Fri, 8 May 2026 10:00:00 +0000' }),
      mail('school-1', { from: 'Office <office@school.example>', date: 'Sat, 9 May 2026 10:00:00 +0000' }),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

async function idOf(messageId: string): Promise<number> {
  const [row] = await owner(server.ownerUrl, 'SELECT id FROM emails WHERE message_id = $1', [messageId]);
  return Number(row?.id);
}
const knows = async (who: Who, messageId: string): Promise<'nothing' | 'exists' | 'reads'> => {
  const answer = await as(who)(routeTo('getEmail', { id: await idOf(messageId) }));
  return answer.status === 404 ? 'nothing' : answer.json.content === null ? 'exists' : 'reads';
};
const recordId = async (kind: string, name: string): Promise<number | null> => {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM ${kind}s WHERE name = $1`, [name]);
  return row ? Number(row.id) : null;
};
const good = (answer: Answer): Answer['json'] => {
  expect([answer.status, answer.text.slice(0, 300)]).toEqual([200, expect.anything()]);
  return answer.json;
};

describe('asking for access', () => {
  test('the owner sees who asks for what, answers, and can take it back', async () => {
    expect(await knows('other', 'one')).toBe('exists');
    const asked = good(
      await as('other')(routeTo('askAccess'), { scope: 'email', emailId: await idOf('one'), note: 'I meet them tomorrow' }),
    );
    expect(asked.asked).toEqual([{ id: expect.any(Number), owner: 'rep person' }]);
    // Asked again, it is the same request.
    expect(good(await as('other')(routeTo('askAccess'), { scope: 'email', emailId: await idOf('one') })).asked).toEqual(asked.asked);
    const [request] = good(await as('rep')(routeTo('listAccessRequests'))).toMe;
    expect(request).toMatchObject({
      askedBy: { name: 'other person' },
      note: 'I meet them tomorrow',
      subject: 'About one',
      emails: 1,
      records: expect.arrayContaining([{ kind: 'deal', id: expect.any(Number), name: 'Outer harbour' }]),
    });
    expect((await as('other')(routeTo('answerAccessRequest', { id: request.id }), { answer: 'asked' })).status).toBe(404);
    expect(good(await as('rep')(routeTo('answerAccessRequest', { id: request.id }), { answer: 'asked' })).state).toBe('shared');
    expect([await knows('other', 'one'), await knows('other', 'two'), await knows('viewer', 'one')]).toEqual(['reads', 'exists', 'exists']);
    expect((await as('rep')(routeTo('answerAccessRequest', { id: request.id }), { answer: 'decline' })).json.error.code).toBe('answered');
    expect((await as('other')(routeTo('askAccess'), { scope: 'email', emailId: await idOf('one') })).json.error.code).toBe(
      'nothing-to-ask',
    );
    const [grant] = good(await as('rep')(routeTo('listGrants'))).given;
    expect(grant).toMatchObject({ to: { name: 'other person' }, scope: 'email', emails: 1 });
    expect((await as('other')(routeTo('withdrawGrant', { id: grant.id }))).status).toBe(404);
    good(await as('rep')(routeTo('withdrawGrant', { id: grant.id })));
    expect(await knows('other', 'one')).toBe('exists');
  });

  test('answered with all of a record, later mail is read as well', async () => {
    const account = await recordId('account', 'Harbour Oriel');
    const asked = good(await as('viewer')(routeTo('askAccess'), { scope: 'email', emailId: await idOf('one') }));
    good(
      await as('rep')(routeTo('answerAccessRequest', { id: asked.asked[0].id }), {
        answer: 'record',
        record: { kind: 'account', id: account },
      }),
    );
    expect([await knows('viewer', 'one'), await knows('viewer', 'three'), await knows('viewer', 'tooth-1')]).toEqual([
      'reads',
      'reads',
      'exists',
    ]);
    await importMail(server, crew.tokens.admin, US, { 'more.mbox': mbox([mail('four', { date: 'Mon, 11 May 2026 10:00:00 +0000' })]) });
    expect(await knows('viewer', 'four')).toBe('reads');
    const { received } = good(await as('viewer')(routeTo('listGrants')));
    expect(received).toMatchObject([{ scope: 'record', record: { name: 'Harbour Oriel' }, by: { name: 'rep person' } }]);
  });

  test('all of a record is asked of each owner, once; declined, nothing is read', async () => {
    const deal = await recordId('deal', 'Outer harbour');
    const asked = good(await as('manager')(routeTo('askAccess'), { scope: 'record', record: { kind: 'deal', id: deal } }));
    expect(asked.asked).toHaveLength(1);
    good(await as('rep')(routeTo('answerAccessRequest', { id: asked.asked[0].id }), { answer: 'decline' }));
    expect(await knows('manager', 'one')).toBe('exists');
    expect(good(await as('manager')(routeTo('listAccessRequests'))).mine[0]).toMatchObject({ state: 'declined' });
  });

  test('what is asked of no one, or of what one does not know, is refused and says why', async () => {
    expect((await as('manager')(routeTo('askAccess'), { scope: 'email', emailId: 999_999 })).status).toBe(404);
    expect((await as('manager')(routeTo('askAccess'), { scope: 'email' })).json.error.message).toContain('names the record');
    expect(
      (await as('manager')(routeTo('addGrants'), { scope: 'email', emailId: await idOf('one'), to: [crew.ids.viewer] })).json.error.code,
    ).toBe('not-yours');
    expect((await as('rep')(routeTo('addGrants'), { scope: 'email', emailId: await idOf('one'), to: [999_999] })).status).toBe(404);
  });
});

describe('an owner’s word', () => {
  test('goes before the rules, the more particular before the other, within what the workspace allows', async () => {
    const rep = as('rep');
    const person = good(
      await rep(routeTo('addOwnWord'), { does: 'share', scope: 'person', value: 'Ida@Harbour.example', level: 'everyone' }),
    );
    expect(person).toMatchObject({ value: 'ida@harbour.example', emails: 4 });
    expect([await knows('manager', 'one'), await knows('manager', 'three'), await knows('manager', 'tooth-1')]).toEqual([
      'reads',
      'reads',
      'exists',
    ]);
    const email = good(await rep(routeTo('addOwnWord'), { does: 'share', scope: 'email', emailId: await idOf('three'), level: 'owner' }));
    expect([await knows('manager', 'one'), await knows('manager', 'three'), await knows('admin', 'three')]).toEqual([
      'reads',
      'nothing',
      'exists',
    ]);
    const docket = good(await rep(routeTo('getEmail', { id: await idOf('three') }))).docket.at(-1);
    expect(docket.because.join(' ')).toContain('rep person, who has it in a mailbox, chose');
    good(await as('admin')(routeTo('putWorkspace'), { widestShare: 'record' }));
    const wide = await rep(routeTo('addOwnWord'), { does: 'share', scope: 'domain', value: 'harbour.example', level: 'everyone' });
    expect([wide.status, wide.json.error.code]).toEqual([403, 'too-wide']);
    good(await as('admin')(routeTo('putWorkspace'), { widestShare: 'everyone' }));
    for (const word of [person, email]) good(await rep(routeTo('removeOwnWord', { id: word.id })));
    expect([await knows('manager', 'one'), await knows('manager', 'three')]).toEqual(['exists', 'exists']);
  });

  test('with a team reaches its members alone', async () => {
    good(await as('admin')(routeTo('addTeam'), { name: 'Coast', members: [crew.ids.manager] }));
    const word = good(
      await as('rep')(routeTo('addOwnWord'), {
        does: 'share',
        scope: 'conversation',
        emailId: await idOf('one'),
        level: 'teams',
        teams: ['Coast'],
      }),
    );
    expect([await knows('manager', 'two'), await knows('other', 'two')]).toEqual(['reads', 'nothing']);
    good(await as('rep')(routeTo('removeOwnWord', { id: word.id })));
    const unknown = await as('rep')(routeTo('addOwnWord'), {
      does: 'share',
      scope: 'email',
      emailId: await idOf('one'),
      level: 'teams',
      teams: ['Nobody'],
    });
    expect(unknown.json.error.message).toBe('There is no team nobody.');
  });

  test.each([
    [{ does: 'share', scope: 'email', level: 'everyone' }, 'names the email'],
    [{ does: 'share', scope: 'person', value: 'not an address', level: 'everyone' }, 'is not an address'],
    [{ does: 'share', scope: 'person', value: 'admin@quillmere.example', level: 'everyone' }, 'is one of ours'],
    [{ does: 'seal', scope: 'domain', value: 'nowhere' }, 'is not a domain'],
    [{ does: 'share', scope: 'domain', value: 'harbour.example' }, 'says who sees it'],
    [{ does: 'share', scope: 'domain', value: 'harbour.example', level: 'teams' }, 'names at least one team'],
  ])('%j is refused', async (body, reason) => {
    const answer = await as('rep')(routeTo('addOwnWord'), body);
    expect(answer.status).toBe(422);
    expect(answer.json.error.message).toContain(reason);
  });

  test('about mail of others is refused', async () => {
    const answer = await as('other')(routeTo('addOwnWord'), { does: 'seal', scope: 'email', emailId: await idOf('one') });
    expect([answer.status, answer.json.error.code]).toEqual([403, 'not-yours']);
  });
});

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
    const word = good(await as('rep')(routeTo('addOwnWord'), { does: 'seal', scope: 'domain', value: 'teeth.example' }));
    expect(word.emails).toBe(2);
    const school = good(await as('rep')(routeTo('addOwnWord'), { does: 'seal', scope: 'domain', value: 'school.example' }));
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
    for (const item of [word, school]) good(await as('rep')(routeTo('removeOwnWord', { id: item.id })));
    const after = { admin: await corners('admin'), viewer: await corners('viewer') };
    const plain = (text: string): string => text.replace(/"at":"[^"]*"/g, '');
    expect(plain(JSON.stringify({ ...after, admin: { ...after.admin, audit: 0 }, viewer: { ...after.viewer, audit: 0 } }))).toEqual(
      plain(JSON.stringify({ ...before, admin: { ...before.admin, audit: 0 }, viewer: { ...before.viewer, audit: 0 } })),
    );
  });

  test('up to now only, later mail goes by the rules', async () => {
    const word = good(
      await as('rep')(routeTo('addOwnWord'), { does: 'seal', scope: 'person', value: 'finn@teeth.example', always: false }),
    );
    expect(word.until).not.toBeNull();
    await importMail(server, crew.tokens.admin, US, {
      'later.mbox': mbox([mail('tooth-4', { from: dentist, date: new Date(Date.now() + 60_000).toUTCString().replace('GMT', '+0000') })]),
    });
    expect([await knows('admin', 'tooth-1'), await knows('admin', 'tooth-4')]).toEqual(['nothing', 'exists']);
    good(await as('rep')(routeTo('removeOwnWord', { id: word.id })));
  });

  test('stays with who set it when the mailbox goes to someone else', async () => {
    const word = good(await as('rep')(routeTo('addOwnWord'), { does: 'seal', scope: 'person', value: 'finn@teeth.example' }));
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
    good(await as('rep')(routeTo('removeOwnWord', { id: word.id })));
    expect([await knows('other', 'tooth-1'), await knows('rep', 'tooth-1')]).toEqual(['reads', 'exists']);
    good(await as('admin')(routeTo('passOnMailbox', { id: box?.id }), { ownerId: crew.ids.rep }));
  });
});

describe('an emergency', () => {
  test('takes two, is told to the owner, does not open what is sealed, and ends', async () => {
    const seal = good(await as('rep')(routeTo('addOwnWord'), { does: 'seal', scope: 'email', emailId: await idOf('two') }));
    expect((await as('admin')(routeTo('askEmergency'), { ownerId: crew.ids.rep, reason: 'short', hours: 2 })).json.error.message).toContain(
      'at least ten',
    );
    expect((await as('manager')(routeTo('askEmergency'), { ownerId: crew.ids.rep, reason: 'long enough a reason', hours: 2 })).status).toBe(
      403,
    );
    const asked = good(
      await as('admin')(routeTo('askEmergency'), { ownerId: crew.ids.rep, reason: 'rep is ill and a gauge fails', hours: 2 }),
    );
    expect(await knows('admin', 'one')).toBe('exists');
    expect((await as('admin')(routeTo('confirmEmergency', { id: asked.id }))).json.error.code).toBe('same-person');
    expect((await as('other')(routeTo('confirmEmergency', { id: asked.id }))).status).toBe(403);
    expect(good(await as('manager')(routeTo('confirmEmergency', { id: asked.id })))).toMatchObject({
      state: 'open',
      confirmedBy: { name: 'manager person' },
    });
    expect([await knows('admin', 'one'), await knows('admin', 'two'), await knows('manager', 'one')]).toEqual([
      'reads',
      'nothing',
      'exists',
    ]);
    expect(good(await as('rep')(routeTo('listEmergencies'))).emergencies[0]).toMatchObject({
      reason: 'rep is ill and a gauge fails',
      state: 'open',
    });
    const told = good(await as('rep')(routeTo('listAudit'))).entries.map(
      (entry: { kind: string; about: string }) => `${entry.kind}: ${entry.about}`,
    );
    expect(told).toContain('emergency: asked to read the mail of rep person for 2 hours: rep is ill and a gauge fails');
    expect(told).toContain('read: read an email of rep person');
    const asAdmin = as('admin');
    for (const target of [
      routeTo('listEmails'),
      routeTo('getDomainHistory', { domain: 'harbour.example' }),
      routeTo('search', { text: 'gauge' }),
      routeTo('exportMail'),
      routeTo('getEmailSource', { id: await idOf('one') }),
    ])
      expect((await asAdmin(target)).status).toBe(200);
    const shown = good(await as('rep')(routeTo('listAudit', { kind: 'read' }))).entries.map((entry: { about: string }) => entry.about);
    for (const what of ['The register of all emails', 'The conversations with an external domain', 'as mbox', 'The source as .eml'])
      expect(shown).toContainEqual(
        expect.stringMatching(new RegExp(`(was shown|opened) .* in an emergency reading of rep person’s mail .*${what}`)),
      );
    expect(
      good(await as('other')(routeTo('listAudit', { kind: 'read' }))).entries.filter((entry: { about: string }) =>
        /emergency reading/.test(entry.about),
      ),
    ).toEqual([]);
    const { eyes } = good(await as('rep')(routeTo('getEyes', { id: await idOf('one') })));
    expect(eyes.find((viewer: { user: { name: string } }) => viewer.user.name === 'Ada Admin')).toMatchObject({
      reads: true,
      why: [expect.stringContaining('emergency')],
    });
    expect((await as('other')(routeTo('endEmergency', { id: asked.id }))).status).toBe(404);
    good(await as('rep')(routeTo('endEmergency', { id: asked.id })));
    expect(await knows('admin', 'one')).toBe('exists');
    good(await asAdmin(routeTo('listEmails')));
    expect(good(await as('rep')(routeTo('listAudit', { kind: 'read' }))).entries).toHaveLength(shown.length);
    expect((await as('manager')(routeTo('confirmEmergency', { id: asked.id }))).json.error.code).toBe('over');
    good(await as('rep')(routeTo('removeOwnWord', { id: seal.id })));
  });

  test('is over when its time is', async () => {
    const asked = good(
      await as('admin')(routeTo('askEmergency'), { ownerId: crew.ids.rep, reason: 'rep is ill and a gauge fails', hours: 1 }),
    );
    good(await as('manager')(routeTo('confirmEmergency', { id: asked.id })));
    await owner(server.ownerUrl, `UPDATE emergencies SET until = now() - interval '1 second' WHERE id = $1`, [asked.id]);
    expect(await knows('admin', 'one')).toBe('exists');
  });

  test('cannot be written into the database by one person alone', async () => {
    const pool = server.services.database;
    await expect(
      pool.as(crew.ids.admin, (tx) =>
        tx.execute(
          `INSERT INTO emergencies (owner_id, asked_by, reason, hours, confirmed_by, until) VALUES (${crew.ids.rep}, ${crew.ids.admin}, 'x', 1, ${crew.ids.manager}, now() + interval '1 hour')` as never,
        ),
      ),
    ).rejects.toThrow();
    await expect(
      pool.as(crew.ids.rep, (tx) => tx.execute(`UPDATE emails SET granted_ids = ARRAY[${crew.ids.other}]::bigint[]` as never)),
    ).rejects.toThrow();
  });
});

describe('whose eyes', () => {
  test('says of everyone who sees an email why they do', async () => {
    const deal = await recordId('deal', 'Outer harbour');
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share = { level: 'record', existenceOnly: false, rules: [] }));
    await decideAll(server, crew.tokens.admin);
    good(await as('other')(routeTo('setDealTeam', { id: deal ?? 0 }), { members: [crew.ids.manager] }));
    const { eyes, nobody } = good(await as('rep')(routeTo('getEyes', { id: await idOf('one') }))) as {
      eyes: { user: { name: string }; reads: boolean; why: string[] }[];
      nobody: number;
    };
    const why = (name: string): string[] => eyes.find((viewer) => viewer.user.name === name)?.why ?? [];
    expect(why('rep person')).toEqual(['it is in their mailbox rep@quillmere.example']);
    expect(why('other person')).toEqual(['through the deal Outer harbour, as its owner']);
    expect(why('manager person')).toEqual(['through the deal Outer harbour, as one of its team']);
    expect(why('viewer person')).toEqual(['rep person lets them read all with one of its records']);
    expect(why('Ada Admin')).toEqual(['as an administrator: that it exists, and how it was decided']);
    expect(nobody).toBe(0);
    const [box] = await owner(server.ownerUrl, 'SELECT id FROM mailboxes WHERE address = $1', [US]);
    const sight = good(await as('rep')(routeTo('getSight', { id: crew.ids.manager, mailbox: box?.id })));
    expect(sight).toMatchObject({ member: { name: 'manager person' }, reads: 4, exists: 0 });
    expect(sight.emails.every((email: { reads: boolean; why: string[] }) => email.reads && email.why.length > 0)).toBe(true);
    expect((await as('other')(routeTo('getSight', { id: crew.ids.manager, mailbox: box?.id }))).status).toBe(404);
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

describe('the audit log', () => {
  test('tells everyone their own deeds and what concerns them, administrators all but what members alone know', async () => {
    expect(
      good(await as('viewer')(routeTo('listAudit', { kind: 'share' }))).entries.every((entry: { subject: string | null; actor: string }) =>
        [entry.subject, entry.actor].includes('viewer person'),
      ),
    ).toBe(true);
    const kinds = new Set(
      good(await as('admin')(routeTo('listAudit', { limit: 500 }))).entries.map((entry: { kind: string }) => entry.kind),
    );
    expect([...kinds]).toEqual(expect.arrayContaining(['share', 'unshare', 'ask', 'emergency', 'read', 'settings', 'mailbox', 'rules']));
    expect(kinds.has('seal')).toBe(false);
    const exported = (await as('admin')(routeTo('exportAudit', { kind: 'emergency' }))).text.trim().split('\n');
    expect(exported.length).toBeGreaterThan(3);
    const paged = good(await as('admin')(routeTo('listAudit', { limit: 2 })));
    expect(good(await as('admin')(routeTo('listAudit', { limit: 2, after: paged.next }))).entries[0].hash).not.toBe(paged.entries[0].hash);
  });

  test('is intact, and shows when someone with all rights on the database has changed, removed or put in something', async () => {
    const db = server.services.database.worker;
    expect(good(await as('admin')(routeTo('checkAudit')))).toMatchObject({ intact: true, broken: [] });
    await expect(owner(server.ownerUrl, `UPDATE audit_log SET about = 'nothing' WHERE place = 2`)).rejects.toThrow('only added to');
    await expect(owner(server.ownerUrl, 'DELETE FROM audit_log')).rejects.toThrow('only added to');
    await expect(server.services.database.workerPool.query(`UPDATE audit_log SET about = ''`)).rejects.toThrow('permission denied');
    const tamper = (statement: string): Promise<unknown> =>
      owner(server.ownerUrl, `ALTER TABLE audit_log DISABLE TRIGGER ALL; ${statement}; ALTER TABLE audit_log ENABLE TRIGGER ALL`);
    await tamper(`UPDATE audit_log SET about = 'nothing' WHERE chain = 'workspace' AND place = 2`);
    expect((await checkAudit(db)).broken.join(' ')).toContain('entry 2 of the chain “workspace” says was changed');
    await tamper(`DELETE FROM audit_log WHERE chain = 'workspace' AND place = 3`);
    expect((await checkAudit(db)).broken.join(' ')).toContain('Before entry 4 of the chain “workspace”, entries are missing');
  });
});
