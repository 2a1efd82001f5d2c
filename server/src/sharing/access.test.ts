import { changeRulebook } from '../testing/testServer';
import { checkAudit } from '../workspace/checkAudit';
import { routeTo } from '../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { decideAll, importMail, mbox, owner } from '../testing/testServer';
import { server, crew, as, US, mail, idOf, knows, recordId, good } from '../testing/accessStage';

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

describe('an owner’s choice', () => {
  test('goes before the rules, the more particular before the other, within what the workspace allows', async () => {
    const rep = as('rep');
    const person = good(
      await rep(routeTo('addSharingChoice'), { does: 'share', scope: 'person', value: 'Ida@Harbour.example', level: 'everyone' }),
    );
    expect(person).toMatchObject({ value: 'ida@harbour.example', emails: 4 });
    expect([await knows('manager', 'one'), await knows('manager', 'three'), await knows('manager', 'tooth-1')]).toEqual([
      'reads',
      'reads',
      'exists',
    ]);
    const email = good(
      await rep(routeTo('addSharingChoice'), { does: 'share', scope: 'email', emailId: await idOf('three'), level: 'owner' }),
    );
    expect([await knows('manager', 'one'), await knows('manager', 'three'), await knows('admin', 'three')]).toEqual([
      'reads',
      'nothing',
      'exists',
    ]);
    const docket = good(await rep(routeTo('getEmail', { id: await idOf('three') }))).docket.at(-1);
    expect(docket.because.join(' ')).toContain('rep person, who has it in a mailbox, chose');
    good(await as('admin')(routeTo('putWorkspace'), { widestShare: 'record' }));
    const wide = await rep(routeTo('addSharingChoice'), { does: 'share', scope: 'domain', value: 'harbour.example', level: 'everyone' });
    expect([wide.status, wide.json.error.code]).toEqual([403, 'too-wide']);
    good(await as('admin')(routeTo('putWorkspace'), { widestShare: 'everyone' }));
    for (const choice of [person, email]) good(await rep(routeTo('removeSharingChoice', { id: choice.id })));
    expect([await knows('manager', 'one'), await knows('manager', 'three')]).toEqual(['exists', 'exists']);
  });

  test('with a team reaches its members alone', async () => {
    good(await as('admin')(routeTo('addTeam'), { name: 'Coast', members: [crew.ids.manager] }));
    const choice = good(
      await as('rep')(routeTo('addSharingChoice'), {
        does: 'share',
        scope: 'conversation',
        emailId: await idOf('one'),
        level: 'teams',
        teams: ['Coast'],
      }),
    );
    expect([await knows('manager', 'two'), await knows('other', 'two')]).toEqual(['reads', 'nothing']);
    good(await as('rep')(routeTo('removeSharingChoice', { id: choice.id })));
    const unknown = await as('rep')(routeTo('addSharingChoice'), {
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
    const answer = await as('rep')(routeTo('addSharingChoice'), body);
    expect(answer.status).toBe(422);
    expect(answer.json.error.message).toContain(reason);
  });

  test('about mail of others is refused', async () => {
    const answer = await as('other')(routeTo('addSharingChoice'), { does: 'seal', scope: 'email', emailId: await idOf('one') });
    expect([answer.status, answer.json.error.code]).toEqual([403, 'not-yours']);
  });
});

describe('an emergency', () => {
  test('takes two, is told to the owner, does not open what is sealed, and ends', async () => {
    const seal = good(await as('rep')(routeTo('addSharingChoice'), { does: 'seal', scope: 'email', emailId: await idOf('two') }));
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
    good(await as('rep')(routeTo('removeSharingChoice', { id: seal.id })));
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
    expect([...kinds]).toEqual(expect.arrayContaining(['share', 'unshare', 'ask', 'emergency', 'read', 'settings', 'rules']));
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
