import { beforeAll, describe, expect, test } from '@jest/globals';
import { good, setAddress, statusOf } from '../../testing/documentTools';
import { inStep, until } from '../../testing/mailboxTools';
import { routeTo } from '../../testing/routeTo';
import { setAutomatic, template } from '../../testing/seriesTools';
import type { Answer } from '../../testing/testServer';
import { owner } from '../../testing/testServer';
import { crew, mailboxId, outside, rep, sentFolder, stage } from '../../testing/writingStage';

const anyone = { role: 'rep', teamIds: [] };
const managers = { role: 'manager', teamIds: [] };
const admin = (target: ReturnType<typeof routeTo>, body: object): Promise<Answer> =>
  stage.server.call(target, { token: crew.tokens.admin, body });
const list = (templateId: number, text: string): object => ({ kind: 'contact', filter: { text }, templateId });
const preview = async (templateId: number, text: string): Promise<Answer['json']> =>
  good(await rep(routeTo('previewBulk'), { body: list(templateId, text) }));
const start = (templateId: number, text: string, people: number): Promise<Answer> =>
  rep(routeTo('startBulk'), { body: { ...list(templateId, text), people } });

/** What is due is handed over at once, until nothing of an email to many waits. */
async function allSent(id: number): Promise<Answer['json']> {
  return until(
    async () => {
      await owner(stage.server.ownerUrl, `UPDATE outgoing SET due_at = now() WHERE state = 'due' AND due_at > now()`);
      await owner(stage.server.ownerUrl, `UPDATE series_runs SET look_at = now() WHERE state NOT IN ('ended', 'stopped')`);
      for (const queue of ['series', 'outgoing'])
        await owner(stage.server.ownerUrl, `SELECT pg_notify('fulvet_changes', $1)`, [JSON.stringify({ kind: 'work', queue })]);
      return good(await rep(routeTo('listBulk'))).sends.find((send: { id: number }) => send.id === id);
    },
    ({ waiting }) => waiting === 0,
  );
}

beforeAll(async () => {
  good(await setAddress(stage.server.url));
  good(await setAutomatic());
  const csv = (kind: string, text: string) => admin(routeTo('importRecords', { kind }), { text });
  await csv('account', 'name,domains\nReef Survey,reef.example\nTarn Works,tarn.example\n');
  await csv(
    'contact',
    [
      'name,emails,account',
      'Guest One,one@reef.example,Reef Survey',
      'Guest Two,two@reef.example,Reef Survey',
      'Guest Kept Out,out@tarn.example,Tarn Works',
      'Guest Bounced,gone@reef.example,Reef Survey',
      '',
    ].join('\n'),
  );
  // Imports take neither.
  for (const [name, address] of [
    ['Guest Colleague', 'kim@quillmere.example'],
    ['Guest Without', null],
  ])
    await owner(
      stage.server.ownerUrl,
      `WITH c AS (INSERT INTO contacts (name) VALUES ($1) RETURNING id) INSERT INTO person_addresses (kind, person_id, address) SELECT 'contact', id, $2 FROM c WHERE $2::text IS NOT NULL`,
      [name, address],
    );
  await admin(routeTo('keepOut'), { kind: 'domain', value: 'tarn.example', effect: 'keepOut' });
  await owner(
    stage.server.ownerUrl,
    `INSERT INTO outgoing (writer_id, mailbox_id, kind, state, message_id, "to") SELECT $1, id, 'new', 'bounced', 'b@x.example', '[{"name":"","address":"gone@reef.example"}]' FROM mailboxes LIMIT 1`,
    [crew.ids.rep],
  );
}, 60_000);

describe('an email to many', () => {
  test('needs the right, a published template with a subject, and the address of links', async () => {
    const id = await template('News', '<p>x</p>');
    const refused = await rep(routeTo('previewBulk'), { body: list(id, 'Guest') });
    expect([refused.status, refused.json.error.code]).toEqual([403, 'may-not-send']);
    await admin(routeTo('putWorkspace'), { writingRights: { send: anyone, share: managers, bulk: anyone } });
    expect((await preview(id, 'Guest')).people).toBe(2);
    const draftOnly = await template('Not yet', '<p>x</p>', { state: 'draft' });
    const noSubject = await template('', '<p>x</p>', { name: 'No subject' });
    for (const wrong of [draftOnly, noSubject])
      expect((await rep(routeTo('previewBulk'), { body: list(wrong, 'Guest') })).json.error.code).toBe('not-published');
    await owner(stage.server.ownerUrl, 'UPDATE workspace SET link_address = NULL');
    expect((await start(id, 'Guest', 2)).json.error.code).toBe('no-link-address');
    good(await setAddress(stage.server.url));
    // Members of another team see other records; what they do not see they do not write to.
    expect((await stage.server.call(routeTo('previewBulk'), { token: crew.tokens.other, body: list(id, 'Guest') })).status).not.toBe(200);
  });

  test('counts first who is left out and why, goes to each alone, and is filed under them', async () => {
    const id = await template('Our fair for {{person.firstName}}', '<p>Dear {{person.name}}</p>', { language: 'de' });
    const found = await preview(id, 'Guest');
    expect(found).toMatchObject({ found: 6, people: 2 });
    expect(Object.fromEntries(found.leftOut.map(({ why, count }: { why: string; count: number }) => [why, count]))).toEqual({
      'kept out': 1,
      'no address': 1,
      colleague: 1,
      bounced: 1,
    });
    expect((await start(id, 'Guest', 5)).json.error.code).toBe('changed-meanwhile');
    const send = good(await start(id, 'Guest', 2));
    expect(await allSent(send.id)).toMatchObject({ total: 2, sent: 2, stopped: 0 });
    const mails = outside('Our fair for Guest');
    expect(mails.map(({ to }) => to).sort()).toEqual(['one@reef.example', 'two@reef.example']);
    for (const { unsubscribe } of mails)
      expect(unsubscribe).toEqual({ where: expect.stringMatching(/^\s*<http.*\/u\/[\w-]{43}>$/), post: 'List-Unsubscribe=One-Click' });
    expect(mails[0]?.text).toContain('Abmelden');
    // The copy that the provider keeps is one to a list; for us it stays an email to one person.
    expect(sentFolder().filter(({ raw }) => raw.includes('Subject: Our fair'))).toHaveLength(2);
    await inStep(stage, crew.tokens.rep, mailboxId);
    const classes = await until(
      () =>
        owner(
          stage.server.ownerUrl,
          `SELECT DISTINCT e.mail_class, e.outcome FROM emails e JOIN participants p ON p.email_id = e.id WHERE p.role = 'to' AND p.address IN ('one@reef.example', 'two@reef.example')`,
        ),
      (rows) => rows.length === 1 && rows[0]?.outcome !== null,
    );
    expect(classes).toEqual([{ mail_class: 'person', outcome: 'filed' }]);
    const filed = await until(
      () =>
        owner(
          stage.server.ownerUrl,
          `SELECT c.name FROM filings f JOIN contacts c ON f.kind = 'contact' AND c.id = f.record_id JOIN email_contents e ON e.email_id = f.email_id WHERE e.subject LIKE 'Our fair%' ORDER BY 1`,
        ),
      (rows) => rows.length > 1,
    );
    expect(filed.map(({ name }) => name)).toEqual(['Guest One', 'Guest Two']);
  });

  test('has a link that unsubscribes at once by a POST, and asks in a browser; the next email leaves them out', async () => {
    const [mail] = outside('Our fair for Guest').filter(({ to }) => to === 'one@reef.example');
    const url = /<(.*)>$/.exec(mail?.unsubscribe.where ?? '')?.[1] ?? '';
    // What scans mail opens links.
    for (let look = 0; look < 3; look += 1) expect(await statusOf(url)).toBe(200);
    expect(await owner(stage.server.ownerUrl, 'SELECT address FROM unsubscribes')).toEqual([]);
    const page = await (await fetch(url)).text();
    expect(page).toContain('<form method="post">');
    expect(page).not.toContain('one@reef.example');
    const done = await fetch(url, {
      method: 'POST',
      body: 'List-Unsubscribe=One-Click',
      headers: { 'content-type': 'application/x-www-form-urlencoded' },
    });
    expect(done.status).toBe(200);
    expect(await owner(stage.server.ownerUrl, 'SELECT address FROM unsubscribes')).toEqual([{ address: 'one@reef.example' }]);
    for (const wrong of [`${stage.server.url}/u/${'A'.repeat(43)}`, `${stage.server.url}/u/x`, `${url}x`]) {
      expect((await fetch(wrong, { method: 'POST' })).status).toBe(404);
      expect(await statusOf(wrong)).toBe(404);
    }
    const found = await preview(await template('Next', '<p>x</p>'), 'Guest');
    expect(found.people).toBe(1);
    expect(found.leftOut).toContainEqual({ why: 'unsubscribed', count: 1, names: ['Guest One'] });
  });

  test('stops by a button; whoever waits gets nothing', async () => {
    await setAutomatic({ pauseSeconds: 3600 });
    const id = await template('Stopped', '<p>x</p>');
    const send = good(await start(id, 'Guest', 1));
    const stopped = good(await rep(routeTo('stopBulk', { id: send.id })));
    expect(stopped).toMatchObject({ isStopped: true, waiting: 0 });
    expect((await stage.server.call(routeTo('stopBulk', { id: send.id }), { token: crew.tokens.admin })).status).toBe(404);
    expect((await stage.server.call(routeTo('listBulk'), { token: crew.tokens.admin })).json.sends).toEqual([]);
    expect(outside('Stopped').length).toBeLessThanOrEqual(1);
  });
});
