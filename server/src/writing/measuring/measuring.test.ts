import { describe, expect, test } from '@jest/globals';
import { inStep } from '../../testing/mailboxTools';
import { as, good, linkTo, make } from '../../testing/documentTools';
import { ask, BROWSER, counted, htmlOf, later, measureOf, send, set } from '../../testing/measuringTools';
import { routeTo } from '../../testing/routeTo';
import { owner } from '../../testing/testServer';
import { crew, draft, IDA, mailboxId, outside, rep, sendNow, sentFolder, stage } from '../../testing/writingStage';
import { forgetMeasures } from './measuredEmail';
import { MemberNetworks } from './memberNetworks';

describe('an email whose openings are counted', () => {
  test('says so to its recipient, and its copies are free of it', async () => {
    const sent = await send(
      'Counted',
      '<p>See <a href="https://tide.example/a?x=1&amp;y=2">tides</a> or <a href="mailto:x@y.example">write</a></p>',
    );
    expect(sent.picture).toMatch(new RegExp(`^${stage.server.url}/o/`));
    expect(sent.html).toContain('We see whether this email was opened.');
    expect(sent.links).toEqual([expect.stringMatching(new RegExp(`^${stage.server.url}/c/[\\w-]{43}$`)), 'mailto:x@y.example']);
    const plain = /Content-Type: text\/plain.*?(?=\r\n--)/s.exec(outside('Counted')[0]?.source ?? '')?.[0] ?? '';
    expect(plain).toContain('https://tide.example/a?x=');
    expect(plain).not.toContain('/c/');
    const filed = await as(crew.tokens.rep, routeTo('getEmailSource', { id: sent.emailId }));
    expect(filed.text).toContain('We see whether');
    expect(filed.text).not.toContain(stage.server.url);
    const kept = JSON.stringify(await owner(stage.server.ownerUrl, 'SELECT * FROM measured_links'));
    for (const url of [sent.picture, ...sent.links.slice(0, 1)]) expect(kept).not.toContain(url.slice(-43));
  });

  test('is the same email as the copy of it that the provider keeps, which is read later', async () => {
    const { emailId } = await send(
      'Own copy',
      '<p>See <a href="https://tide.example/own">tides</a> for the spring tables of quay four, all of them, as we said on Tuesday.</p>',
    );
    const own = sentFolder().find(({ raw }) => raw.includes('Subject: Own copy'));
    expect(own?.raw.toString()).toContain(stage.server.url.slice('http://'.length));
    await inStep(stage, crew.tokens.rep, mailboxId);
    const rows = await owner(
      stage.server.ownerUrl,
      `SELECT e.id::int FROM emails e JOIN email_contents c ON c.email_id = e.id WHERE c.subject = 'Own copy'`,
    );
    expect(rows).toEqual([{ id: emailId }]);
    const places = await owner(stage.server.ownerUrl, 'SELECT folder FROM sightings WHERE email_id = $1', [emailId]);
    expect(places).toEqual([{ folder: 'Sent' }]);
    expect((await as(crew.tokens.rep, routeTo('getEmailSource', { id: emailId }))).text).not.toContain(stage.server.url);
  });

  test('counts what is likely a person, by link, and leads on', async () => {
    const document = await make({ title: 'Tables' });
    const email = await draft({ to: [IDA], subject: 'Two' });
    const file = await linkTo(document, email);
    const fresh = good(await rep(routeTo('getOutgoing', { id: email.id })));
    const html = `<p><a href="https://a.example/?q=1&amp;r=%22">a</a> <a href="https://b.example/">b</a> <a href="${file}">Tables</a></p>`;
    const saved = good(
      await rep(routeTo('saveOutgoing', { id: email.id }), {
        body: { revision: fresh.revision, mailboxId, to: [IDA], subject: 'Two', html, measured: true, filing: { how: 'rules' } },
      }),
    );
    const { emailId } = await sendNow(saved);
    await owner(stage.server.ownerUrl, `UPDATE measures SET sent_at = sent_at - interval '1 hour' WHERE email_id = $1`, [emailId]);
    const got = htmlOf(outside('Two')[0]?.source ?? '');
    const [first = '', , third] = [...got.matchAll(/href="([^"]*)"/g)].map(([, url]) => url ?? '');
    expect(third).toBe(file);
    const answer = await ask(first);
    expect([answer.status, answer.headers.get('location'), answer.headers.get('referrer-policy')]).toEqual([
      302,
      'https://a.example/?q=1&r=%22',
      'no-referrer',
    ]);
    await counted(emailId, 1);
    await later();
    await ask(file);
    const measure = await counted(emailId, 2);
    expect(measure).toMatchObject({
      address: IDA.address,
      opened: { times: 0, first: null },
      links: [
        { kind: 'link', name: 'https://a.example/?q=1&r=%22', times: 1 },
        { kind: 'link', name: 'https://b.example/', times: 0 },
        { kind: 'document', name: 'Tables', times: 1 },
      ],
      notCounted: { prefetch: 0, scanner: 0, own: 0 },
    });
  });

  const filtered = async (opened: 'yes' | 'no'): Promise<number[]> =>
    (await rep(routeTo('listEmails', { opened }))).json.emails.map(({ id }: { id: number }) => id);

  test('is not opened by twenty programs that load, twenty that check, and twenty of our own', async () => {
    const { picture, links, emailId } = await send('Sixty', '<p><a href="https://a.example/">a</a> <a href="https://b.example/">b</a></p>');
    for (let count = 0; count < 20; count += 1) {
      const url = [picture, ...links][count % 3] ?? '';
      await ask(
        url,
        [{ 'user-agent': 'Mozilla/5.0' }, { 'sec-purpose': 'prefetch' }, { 'user-agent': `${BROWSER} (via TernImageProxy)` }][count % 3],
      );
      await ask(url, count % 2 ? { 'user-agent': 'LinkScannerBot/2.0 (+https://scan.tern.example)' } : {}, count % 2 ? 'GET' : 'HEAD');
      await ask(url, { cookie: 'fulvet.session=s%3Ax.y' });
    }
    expect(await counted(emailId, 60)).toMatchObject({
      opened: { times: 0 },
      links: [{ times: 0 }, { times: 0 }],
      notCounted: { prefetch: 20, scanner: 20, own: 20 },
    });
    expect(await filtered('no')).toContain(emailId);
    expect(await filtered('yes')).not.toContain(emailId);
    // The company's own addresses, and what comes right after sending.
    good(await set({ ownRanges: ['127.0.0.0/8', '::1', '2001:db8::/32'] }));
    await ask(picture);
    expect((await counted(emailId, 61)).notCounted.own).toBe(21);
    good(await set({}));
    await owner(stage.server.ownerUrl, 'UPDATE measures SET sent_at = now() WHERE email_id = $1', [emailId]);
    await ask(picture);
    expect((await counted(emailId, 62)).notCounted.scanner).toBe(21);
    await owner(stage.server.ownerUrl, `UPDATE measures SET sent_at = now() - interval '1 hour' WHERE email_id = $1`, [emailId]);
    await later();
    await ask(picture);
    expect((await counted(emailId, 63)).opened.times).toBe(1);
    expect(await filtered('yes')).toContain(emailId);
    expect(await filtered('no')).not.toContain(emailId);
  });

  test('keeps no more than so many visits, nothing of who asked, and says the same to unknown tokens', async () => {
    const { picture, emailId } = await send('Many', '<p>x</p>');
    await owner(
      stage.server.ownerUrl,
      `INSERT INTO visits (measure_id, link_id, class, at) SELECT m.id, l.id, 'scanner', now() - interval '1 day' FROM measures m JOIN measured_links l ON l.measure_id = m.id, generate_series(1, 199) WHERE m.email_id = $1`,
      [emailId],
    );
    await ask(picture, { 'x-forwarded-for': '203.0.113.7' });
    await counted(emailId, 200);
    for (let count = 0; count < 5; count += 1) await ask(picture);
    const {
      links: [unseen = ''],
      emailId: next,
    } = await send('After many', '<p><a href="https://a.example/">a</a></p>');
    await ask(unseen);
    await counted(next, 1);
    await counted(emailId, 200);
    const rows = await owner(stage.server.ownerUrl, 'SELECT * FROM visits ORDER BY id DESC LIMIT 1');
    expect(Object.keys(rows[0] ?? {}).sort()).toEqual(['at', 'class', 'id', 'link_id', 'measure_id']);
    const unknown = await fetch(`${stage.server.url}/o/${'a'.repeat(43)}`);
    const known = await fetch(picture);
    expect([unknown.status, Buffer.from(await unknown.arrayBuffer())]).toEqual([known.status, Buffer.from(await known.arrayBuffer())]);
    expect((await ask(`${stage.server.url}/c/${'a'.repeat(43)}`)).status).toBe(404);
    // A picture's token is no link's.
    expect((await ask(picture.replace('/o/', '/c/'))).status).toBe(404);
  });
});

describe('what was counted', () => {
  test('is seen by who may read the email, and forgotten with its days; links lead on', async () => {
    const { picture, links, emailId } = await send('Forgotten', '<p><a href="https://a.example/">a</a></p>');
    await ask(picture);
    await counted(emailId, 1);
    expect((await measureOf(emailId, crew.tokens.manager)).opened.times).toBe(1);
    good(await as(crew.tokens.rep, routeTo('repair'), { emails: [emailId], seal: true }));
    expect((await as(crew.tokens.manager, routeTo('getEmail', { id: emailId }))).text).not.toContain('"times":1');
    expect((await measureOf(emailId)).opened.times).toBe(1);
    await owner(stage.server.ownerUrl, `UPDATE measures SET created_at = now() - interval '91 days' WHERE email_id = $1`, [emailId]);
    await forgetMeasures(stage.server.services.database.worker);
    expect(await measureOf(emailId)).toBeNull();
    expect(
      await owner(stage.server.ownerUrl, 'SELECT FROM visits v JOIN measures m ON m.id = v.measure_id WHERE m.email_id = $1', [emailId]),
    ).toEqual([]);
    expect((await ask(links[0] ?? '')).headers.get('location')).toBe('https://a.example/');
  });

  test('does not grow once it is switched off', async () => {
    const { picture, links, emailId } = await send('Switched off', '<p><a href="https://a.example/">a</a></p>');
    good(await set({ isOn: false }));
    expect((await ask(picture)).status).toBe(200);
    expect((await ask(links[0] ?? '')).status).toBe(302);
    expect(
      await owner(stage.server.ownerUrl, 'SELECT FROM visits v JOIN measures m ON m.id = v.measure_id WHERE m.email_id = $1', [emailId]),
    ).toEqual([]);
  });
});

describe('networks of members', () => {
  test('are known for a while by keyed hashes; the machine itself is none', async () => {
    const db = stage.server.services.database.worker;
    const networks = new MemberNetworks(db, 'secret');
    await networks.note('::ffff:203.0.113.7');
    for (const local of ['127.0.0.1', '::1', '::ffff:127.0.0.1', undefined]) await networks.note(local);
    expect(await Promise.all(['203.0.113.7', '203.0.113.8', '127.0.0.1', undefined].map((ip) => networks.has(ip)))).toEqual([
      true,
      false,
      false,
      false,
    ]);
    expect(await new MemberNetworks(db, 'other').has('203.0.113.7')).toBe(false);
    expect(JSON.stringify(await owner(stage.server.ownerUrl, 'SELECT * FROM member_networks'))).not.toContain('203.0.113');
    await owner(stage.server.ownerUrl, `UPDATE member_networks SET seen_at = now() - interval '31 days'`);
    expect(await networks.has('203.0.113.7')).toBe(false);
    await forgetMeasures(db);
    expect(await owner(stage.server.ownerUrl, 'SELECT FROM member_networks')).toEqual([]);
  });
});
