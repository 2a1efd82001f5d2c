import { describe, expect, test } from '@jest/globals';
import { putMail, until } from '../../testing/mailboxTools';
import { routeTo } from '../../testing/routeTo';
import type { Answer } from '../../testing/testServer';
import { owner } from '../../testing/testServer';
import { accountId, crew, draft, IDA, REP, rep, sendNow, stage } from '../../testing/writingStage';

type Content = Record<string, unknown>;
const as = (token: string, target: ReturnType<typeof routeTo>, body?: unknown): Promise<Answer> =>
  stage.server.call(target, { token, ...(body === undefined ? {} : { body }) });
const make = async (content: Content, token = crew.tokens.rep): Promise<Answer['json']> => {
  const made = await as(token, routeTo('createTemplate'), { kind: 'template', name: 'Offer', ...content });
  if (made.status !== 200) throw new Error(made.text);
  return made.json;
};
const namesFor = async (token: string, query: Record<string, unknown> = {}): Promise<string[]> =>
  (await as(token, routeTo('listTemplates', query))).json.templates.map(({ name }: { name: string }) => name);

describe('a template', () => {
  test('is filled for the first recipient and the records of the draft', async () => {
    const { id } = await make({
      subject: 'Gauges for {{account.name}}',
      html: '<p>Dear {{person.firstName|colleague}} {{person.lastName}} of {{Person.Account}}{{account.name}},</p><p>{{deal.code}} {{sender.name}} {{person.title|your post}}<script>x</script></p>',
    });
    const email = await draft({ to: [IDA] }, { record: { kind: 'account', id: accountId } });
    const filled = (await rep(routeTo('fillTemplate', { id }), { body: { outgoingId: email.id } })).json;
    expect(filled).toEqual({
      subject: 'Gauges for Morland Docks',
      html: '<p>Dear Ida Brandt of Harbour WorksMorland Docks,</p><p>{{deal.code}} rep person your post</p>',
      empty: [{ key: 'deal.code', label: 'Deal: code' }],
      documents: [],
    });
    // Someone without a record is named by the email alone.
    const other = await draft({ to: [{ name: 'Aster, Kim', address: 'kim@nowhere.example' }] });
    const forOther = (await rep(routeTo('fillTemplate', { id }), { body: { outgoingId: other.id } })).json;
    expect(forOther.html).toContain('Dear Kim Aster of {{Person.Account}}{{account.name}}');
  });

  test('never shows a record that its writer may not see', async () => {
    const { id } = await make({ html: '{{deal.name}}' });
    const seen = await as(crew.tokens.other, routeTo('fillTemplate', { id }), { record: { kind: 'account', id: accountId } });
    expect(seen.status).toBe(404);
    const gone = await rep(routeTo('fillTemplate', { id }), { body: { record: { kind: 'deal', id: 999_999 } } });
    expect(gone.status).not.toBe(200);
  });

  test('is made of a draft: values that equal fields are fields', async () => {
    const email = await draft({ to: [IDA], subject: 'Gauge for Harbour Works', html: '<p>Dear Ida,</p><p>Harbour Works and Idaho</p>' });
    const made = (await rep(routeTo('draftAsTemplate', { id: email.id }))).json;
    expect(made).toEqual({
      subject: 'Gauge for {{account.name}}',
      html: '<p>Dear {{person.firstName}},</p><p>{{account.name}} and Idaho</p>',
      fields: ['account.name', 'person.firstName'],
    });
    expect((await as(crew.tokens.other, routeTo('draftAsTemplate', { id: email.id }))).status).toBe(404);
  });

  test('counts the emails that were sent with it, and how they were answered', async () => {
    const { id } = await make({ name: 'Counted', html: '<p>Hello</p>' });
    const email = await draft({ to: [IDA], subject: 'Counted', html: '<p>Hello</p>' });
    await rep(routeTo('fillTemplate', { id }), { body: { outgoingId: email.id } });
    const { emailId } = await sendNow(email);
    const figures = async (token = crew.tokens.rep): Promise<unknown> =>
      (await as(token, routeTo('listTemplateFigures'))).json.figures.find(({ templateId }: { templateId: number }) => templateId === id);
    expect(await figures()).toEqual({ templateId: id, used: 1, answered: 0, medianHours: null, emails: [emailId] });
    const [sent] = await owner(
      stage.server.ownerUrl,
      `UPDATE emails SET sent_at = sent_at - interval '3 hours' WHERE id = $1 RETURNING message_id`,
      [emailId],
    );
    putMail(stage.mailhost, REP, {
      id: 'counted@harbour.example',
      from: 'Ida Brandt <ida@harbour.example>',
      to: REP,
      subject: 'Re: Counted',
      references: `<${String(sent?.message_id)}>`,
      date: new Date().toUTCString(),
      text: 'Yes.',
    });
    await until(
      () => owner(stage.server.ownerUrl, `SELECT id FROM emails WHERE message_id = 'counted@harbour.example' AND decided_at IS NOT NULL`),
      (rows) => rows.length > 0,
    );
    expect(await figures()).toMatchObject({ used: 1, answered: 1, medianHours: expect.closeTo(3, 1) });
    expect(await figures(crew.tokens.other)).toBeUndefined();
  });
});

describe('who finds a template', () => {
  test('is its owner, a team, or everyone; unpublished ones are found by no one else and put in by no one', async () => {
    await make({ name: 'Mine alone' });
    const shared = await make({ name: 'For all', scope: 'all' }, crew.tokens.manager);
    const unfinished = await make({ name: 'Not yet', scope: 'all', state: 'draft', kind: 'article' }, crew.tokens.manager);
    expect(await namesFor(crew.tokens.other)).toEqual(['For all']);
    expect((await as(crew.tokens.other, routeTo('getTemplate', { id: unfinished.id }))).status).toBe(404);
    expect(await namesFor(crew.tokens.manager)).toEqual(expect.arrayContaining(['Not yet', 'For all']));
    const email = await draft({ to: [IDA] });
    expect(await namesFor(crew.tokens.rep, { outgoingId: email.id })).not.toContain('Not yet');
    expect((await rep(routeTo('fillTemplate', { id: unfinished.id }), { body: { outgoingId: email.id } })).status).toBe(404);
    const own = await make({ name: 'Own draft', state: 'outdated' });
    const refused = await rep(routeTo('fillTemplate', { id: own.id }), { body: { outgoingId: email.id } });
    expect([refused.status, refused.json.error.code]).toEqual([409, 'not-published']);
    // Others use what is shared, and do not change it.
    const { revision, html, ...rest } = shared;
    const content = { kind: rest.kind, name: 'Changed', scope: 'all', html, revision };
    expect((await as(crew.tokens.other, routeTo('saveTemplate', { id: shared.id }), content)).status).toBe(403);
    expect((await as(crew.tokens.admin, routeTo('saveTemplate', { id: shared.id }), content)).json).toMatchObject({
      name: 'Changed',
      revision: 1,
    });
    const stale = await as(crew.tokens.manager, routeTo('saveTemplate', { id: shared.id }), content);
    expect(stale.json.error.code).toBe('changed-meanwhile');
  });

  test('a rep keeps templates alone; a manager shares with teams of their own', async () => {
    const byRep = await as(crew.tokens.rep, routeTo('createTemplate'), { kind: 'template', name: 'x', scope: 'all' });
    expect([byRep.status, byRep.json.error.code]).toEqual([403, 'may-not-share']);
    const { json: team } = await as(crew.tokens.admin, routeTo('addTeam'), { name: 'North', members: [crew.ids.other] });
    const content = { kind: 'block', name: 'Team block', shortcut: 'north', scope: 'team', teamId: team.id };
    expect((await as(crew.tokens.manager, routeTo('createTemplate'), content)).json.error.code).toBe('may-not-share');
    await make(content, crew.tokens.admin);
    expect(await namesFor(crew.tokens.other, { kind: 'block' })).toEqual(['Team block']);
    expect(await namesFor(crew.tokens.rep, { kind: 'block' })).toEqual([]);
  });

  test('one that was removed is found no more, and comes back', async () => {
    const { id } = await make({ name: 'Removed' });
    expect((await as(crew.tokens.other, routeTo('removeTemplate', { id }))).status).toBe(404);
    await rep(routeTo('removeTemplate', { id }), {});
    expect(await namesFor(crew.tokens.rep)).not.toContain('Removed');
    await rep(routeTo('restoreTemplate', { id }), {});
    expect(await namesFor(crew.tokens.rep)).toContain('Removed');
  });
});

test('articles that fit the answered email come first', async () => {
  await make({ kind: 'article', name: 'Invoices', html: '<p>Invoices are paid within thirty days.</p>' });
  await make({ kind: 'article', name: 'Delivery of gauges', html: '<p>A gauge comes four weeks after the order, to any quay.</p>' });
  const [asked] = await owner(stage.server.ownerUrl, `SELECT id::int FROM emails WHERE message_id = 'question@harbour.example'`);
  const { json: answer } = await rep(routeTo('startOutgoing'), { body: { kind: 'answer', emailId: asked?.id } });
  const names = await namesFor(crew.tokens.rep, { outgoingId: answer.id });
  expect(names[0]).toBe('Delivery of gauges');
  expect(names.indexOf('Invoices')).toBeGreaterThan(0);
});

describe('a template as an email', () => {
  const put = (bytes: string | Uint8Array, name = ''): Promise<Answer> => {
    const { method, path } = routeTo('addTemplateFile', name ? { name } : {});
    return stage.server.call({ method, path }, { token: crew.tokens.rep, bytes, headers: { 'content-type': 'message/rfc822' } });
  };

  test('is what it was after it is saved and kept again', async () => {
    const html = '<p>Dear {{person.firstName|colleague}},</p><p>Grüße, <strong>{{sender.name}}</strong></p>';
    const { id } = await make({ name: 'Fields', subject: 'Für {{account.name}}', html });
    const saved = await rep(routeTo('getTemplateFile', { id }));
    expect(saved.headers.get('content-disposition')).toContain('Fields.eml');
    const kept = await put(saved.text);
    expect(kept.json).toMatchObject({ subject: 'Für {{account.name}}', html, scope: 'own', isMine: true });
    expect((await as(crew.tokens.other, routeTo('getTemplateFile', { id }))).status).toBe(404);
  });

  test('takes of others’ mail what can be written here, and nothing that runs or is loaded', async () => {
    const plain = await put('Subject: =?utf-8?q?Gr=C3=BC=C3=9Fe?=\r\n\r\nFirst <b>line</b>\r\n\r\nSecond\r\n', 'From plain text');
    expect(plain.json).toMatchObject({
      name: 'From plain text',
      subject: 'Grüße',
      html: '<p>First &lt;b&gt;line&lt;/b&gt;</p><p>Second</p>',
    });
    const wild = await put(
      'Subject: Wild\r\nContent-Type: text/html\r\n\r\n<p onclick="x()">Hello <img src="https://far.example/p.gif"><script>x</script><a href="javascript:x">go</a></p>\r\n',
    );
    expect(wild.json.html).not.toMatch(/onclick|img|script|javascript/);
    expect(wild.json.html).toContain('Hello');
    for (const nothing of ['', 'Subject: Nothing\r\n\r\n', new Uint8Array(2000)])
      expect((await put(nothing)).json.error.code).toBe('unreadable');
    expect((await put(new Uint8Array(6 * 1024 * 1024))).status).toBe(413);
  });
});
