import { startMailhost } from '@fulvet/mailhost';
import type { Mailhost } from '@fulvet/mailhost';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { MAIL_PASSWORD, mailOptions, until } from '../../server/src/testing/mailboxTools';
import type { TestServer } from '../../server/src/testing/testServer';
import { eml, makeToken, mbox, owner, startTestServer } from '../../server/src/testing/testServer';
import { runFulvet } from './testing/runFulvet';
import type { Ran } from './testing/runFulvet';

let server: TestServer;
let mailhost: Mailhost;
let token = '';
const file = (name: string): string => join(server.dataFolder, name);

const fulvet = (args: readonly string[], input = '', env: Record<string, string> = {}): Promise<Ran> =>
  runFulvet(args, input, { FULVET_URL: server.url, FULVET_TOKEN: token, ...env });

beforeAll(async () => {
  mailhost = await startMailhost();
  server = await startTestServer(await mailOptions(mailhost));
  await writeFile(file('password'), 'a long enough one\n');
});
afterAll(async () => {
  await server.remove();
  await mailhost.stop();
});

describe('the command line, from an empty installation on', () => {
  test('setup prints a token and nothing else on standard output', async () => {
    const ran = await fulvet(
      ['setup', '--admin', 'ada@own.example', '--password-file', file('password'), '--own-domain', 'own.example', 'own-too.example'],
      '',
      { FULVET_TOKEN: '' },
    );
    expect(ran.code).toBe(0);
    expect(ran.out).toMatch(/^fulvet_[\w-]+\n$/);
    token = ran.out.trim();
    const again = await fulvet(['setup', '--admin', 'x@own.example', '--password-file', file('password'), '--own-domain', 'own.example']);
    expect([again.code, again.out, again.err]).toEqual([1, '', 'fulvet: The installation is set up already. Sign in instead.\n']);
  });

  test('team add, with and without a password', async () => {
    expect(await fulvet(['team', 'add', 'rep@own.example', '--name', 'Rep', '--role', 'rep'])).toMatchObject({
      code: 0,
      err: 'rep@own.example is on the team as rep.\n',
    });
    expect(
      await fulvet(['team', 'add', 'two@own.example', '--name', 'Two', '--role', 'viewer', '--password-file', '-'], 'a long enough one\n'),
    ).toMatchObject({ code: 0 });
    expect(await fulvet(['team', 'add', 'REP@own.example', '--name', 'Rep', '--role', 'rep'])).toMatchObject({
      code: 1,
      err: 'fulvet: REP@own.example is on the team already.\n',
    });
  });

  test('records: preview, import, bad lines by number, export', async () => {
    await writeFile(file('accounts.csv'), 'name,domains,owner\nHarbour,harbour.example,rep@own.example\nBad,gmail.com,\n');
    const preview = await fulvet(['import', 'records', 'accounts', file('accounts.csv'), '--preview']);
    expect(preview.out).toBe('1 would be created, 0 would be updated, 0 the same, 1 not taken\n');
    expect(preview.err).toContain('accounts.csv, line 3: gmail.com is a public mail provider');
    expect(await fulvet(['import', 'records', 'accounts', file('accounts.csv')])).toMatchObject({
      code: 0,
      out: '1 created, 0 updated, 0 the same, 1 not taken\n',
    });
    expect(await fulvet(['import', 'records', 'contacts', '-'], 'name,emails,account\nIda,ida@harbour.example,Harbour\n')).toMatchObject({
      code: 0,
      out: '1 created, 0 updated, 0 the same, 0 not taken\n',
    });
    expect((await fulvet(['export', 'records', 'contacts'])).out).toBe(
      'name,emails,account,title,phone,owner\nIda,ida@harbour.example,Harbour,,,\n',
    );
    expect((await fulvet(['export', 'records', 'contacts', '--vcard'])).out).toContain('FN:Ida');
  });

  test('mail: files and folders, what became of them, decisions, and the mail again', async () => {
    await mkdir(file('folder/inside'), { recursive: true });
    await writeFile(file('folder/one.eml'), eml({ id: 'one', from: 'ida@harbour.example', to: 'rep@own.example' }));
    await writeFile(
      file('folder/inside/two.mbox'),
      mbox([
        { id: 'two', from: 'rep@own.example', to: 'ida@harbour.example', references: '<one>' },
        { id: 'three', from: 'x@nobody.example', to: 'rep@own.example', date: 'never', subject: 'Z' },
      ]),
    );
    const ran = await fulvet(['import', 'mail', file('folder'), '--mailbox', 'rep@own.example']);
    expect([ran.code, ran.out]).toEqual([0, '3 new, 0 known from another mailbox, 0 already here, 0 unreadable\n']);
    expect(ran.err).toContain('inside/two.mbox, message 2: The date of the email cannot be read');
    const lines = (await fulvet(['export', 'decisions'])).out
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>);
    expect(lines.find((line) => line.messageId === 'two')).toEqual({
      messageId: 'two',
      date: '2026-05-04T10:00:00.000Z',
      direction: 'sent',
      mailClass: 'person',
      outcome: 'filed',
      conversation: expect.any(Number),
      filings: [
        expect.objectContaining({ kind: 'account', name: 'Harbour', rule: 'match.account-by-person' }),
        expect.objectContaining({ kind: 'contact', name: 'Ida' }),
      ],
      created: [],
      visibility: 'owner',
    });
    // The administrator may know how mail was decided, and read only what is shared.
    expect((await fulvet(['export', 'mail'])).out).toBe('');
  });

  test('rulebook show, put and decide', async () => {
    const shown = JSON.parse((await fulvet(['rulebook', 'show'])).out) as { us: { ownDomains: string[] }; share: { level: string } };
    expect(shown.us.ownDomains).toEqual(['own.example', 'own-too.example']);
    shown.share.level = 'everyone';
    expect(await fulvet(['rulebook', 'put', '-'], JSON.stringify(shown))).toMatchObject({
      code: 0,
      err: 'Version 2 is in force. Past mail stays as decided; “decide” goes over it.\n',
    });
    expect(await fulvet(['decide'])).toMatchObject({ code: 0, out: '3 decided, 2 changed\n' });
    const mail = (await fulvet(['export', 'mail'])).out;
    expect(mail.match(/^From \S+@\S+ Mon May {2}4 10:00:00 2026$/gm)).toHaveLength(2);
    expect(mail).toContain('Message-ID: <one>');
    expect(mail).toContain('Message-ID: <two>');
    expect(await fulvet(['rulebook', 'put', '-'], '{"not": "a rulebook"}')).toMatchObject({ code: 1 });
    expect((await fulvet(['rulebook', 'put', '-'], 'not json')).err).toContain('is not JSON');
  });
});

describe('wrong usage', () => {
  test.each([
    [['bogus'], 2, 'unknown command'],
    [['team', 'add', 'x@own.example', '--name', 'X', '--role', 'boss'], 2, 'boss'],
    [['import', 'mail', '/does/not/exist', '--mailbox', 'rep@own.example'], 1, 'There is no file'],
    [['import', 'records', 'widgets', 'x.csv'], 2, 'widgets'],
  ])('%j ends with %i', async (args, code, words) => {
    const ran = await fulvet(args);
    expect([ran.code, ran.out]).toEqual([code, '']);
    expect(ran.err).toContain(words);
  });

  test('a server that is not there, and a token that is missing or wrong, are told apart', async () => {
    expect((await fulvet(['decide'], '', { FULVET_URL: 'http://127.0.0.1:9' })).err).toContain('does not answer');
    expect((await fulvet(['decide'], '', { FULVET_TOKEN: '' })).err).toContain('FULVET_TOKEN is not set');
    expect((await fulvet(['decide'], '', { FULVET_TOKEN: 'fulvet_wrong' })).err).toContain('not valid');
  });

  test.each([[['--help']], [['setup', '--help']], [['import', 'mail', '--help']], [['export', 'decisions', '--help']]])(
    '%j helps',
    async (args) => {
      const ran = await fulvet(args);
      expect([ran.code, ran.out.startsWith('Usage: fulvet')]).toEqual([0, true]);
    },
  );
});

describe('mailboxes by the command line', () => {
  const list = (lines: string): Promise<Ran> => fulvet(['mailbox', 'connect', '-'], `address,password,owner\n${lines}`);

  test('a list that is wrong changes nothing and says why', async () => {
    expect(await list('ada@own.example,x,nobody@own.example\n')).toMatchObject({
      code: 1,
      out: '',
      err: expect.stringContaining('Nothing was connected. Line 2: ada@own.example the owner nobody@own.example is not on the team'),
    });
  });

  test('each is tried; those that pass are started, the others say what to do', async () => {
    mailhost.store.addAccount('ada@own.example', MAIL_PASSWORD);
    mailhost.store.addAccount('rep@own.example', MAIL_PASSWORD);
    const ran = await list(`ada@own.example,${MAIL_PASSWORD},\nrep@own.example,wrong,\n`);
    expect([ran.code, ran.out]).toEqual([1, 'ada@own.example\tstarted\nrep@own.example\tSign-in was refused\n']);
    expect(ran.err).toContain('Longshore did not know this password.');
    const listed = await fulvet(['mailbox', 'list']);
    expect(listed.out).toMatch(/^ada@own\.example\t(?:Starting|Working|Reading back)\t/m);
    expect(listed.out).toMatch(/^rep@own\.example\tBeing connected\t/m);
  });

  test('an email is sent by a token that is for that, and what cannot be sent leaves nothing behind', async () => {
    await writeFile(file('letter.txt'), 'Dear Ida,\n\nhere is <the> drawing.\n');
    await writeFile(file('drawing.pdf'), 'PDF');
    const letter = ['send', file('letter.txt'), '--to', 'ida@harbour.example', '--subject', 'Drawing', '--attach', file('drawing.pdf')];
    expect(await fulvet(letter)).toMatchObject({ code: 1, out: '', err: expect.stringContaining('it lacks “send”') });
    expect(await fulvet([...letter, '--from', 'other@own.example'])).toMatchObject({
      code: 1,
      err: expect.stringContaining('You may from: ada@own.example'),
    });
    expect(await fulvet([...letter, '--record', 'deal'])).toMatchObject({ code: 2, err: expect.stringContaining('such as deal:7') });
    const { json } = await makeToken(server, 'ada@own.example', { scopes: ['read', 'write', 'send'] });
    const sender = { FULVET_TOKEN: json.token };
    const ran = await fulvet(letter, '', sender);
    expect([ran.code, ran.out]).toEqual([0, expect.stringMatching(/^\d+\n$/)]);
    expect(ran.err).toMatch(/It is sent at 20/);
    const kept = await owner(server.ownerUrl, 'SELECT id::int, state, html FROM outgoing ORDER BY id');
    expect(kept).toEqual([{ id: Number(ran.out), state: 'due', html: '<p>Dear Ida,</p><p>here is &lt;the&gt; drawing.</p>' }]);
    await owner(server.ownerUrl, 'UPDATE outgoing SET due_at = now()');
    await owner(server.ownerUrl, `SELECT pg_notify('fulvet_changes', '{"kind":"work","queue":"outgoing"}')`);
    const [mail] = await until(
      () => Promise.resolve(mailhost.delivery.outside),
      (mails) => mails.length > 0,
    );
    expect(mail).toMatchObject({ to: 'ida@harbour.example', subject: 'Drawing', text: expect.stringContaining('here is <the> drawing.') });
  });

  test('templates go out as JSON and come back, changed and new', async () => {
    const offer = { kind: 'template', name: 'Offer', subject: 'For {{account.name}}', html: '<p>Dear {{person.firstName}},</p>' };
    await writeFile(file('templates.json'), JSON.stringify({ templates: [offer, { kind: 'block', name: 'Terms', shortcut: 'terms' }] }));
    expect((await fulvet(['templates', 'import', file('templates.json')])).err).toContain('2 new, 0 changed.');
    const { templates } = JSON.parse((await fulvet(['templates', 'export'])).out) as { templates: object[] };
    expect(templates).toMatchObject([offer, { name: 'Terms', shortcut: 'terms' }]);
    await writeFile(file('templates.json'), JSON.stringify({ templates: [{ ...templates[0], subject: 'Changed' }] }));
    expect((await fulvet(['templates', 'import', file('templates.json')])).err).toContain('0 new, 1 changed.');
    expect((await fulvet(['templates', 'export'])).out).toContain('"subject": "Changed"');
    const folder = file('templates');
    expect((await fulvet(['templates', 'export', '--eml', folder])).err).toContain('2 written');
    const [offerFile = ''] = (await readdir(folder)).filter((name) => name.endsWith(' Offer.eml'));
    expect(await readFile(join(folder, offerFile), 'utf8')).toContain('Subject: Changed');
    expect((await fulvet(['templates', 'import', join(folder, offerFile)])).err).toContain('1 new.');
    expect((await fulvet(['templates', 'export'])).out.match(/"subject": "Changed"/g)).toHaveLength(2);
    await writeFile(file('templates.json'), '[]');
    expect(await fulvet(['templates', 'import', file('templates.json')])).toMatchObject({
      code: 2,
      err: expect.stringContaining('a list “templates”'),
    });
  });

  test('series are kept by the names of their templates, begun with someone, and stopped', async () => {
    const follow = { kind: 'template', name: 'Follow up', html: '<p>Hello</p>', subject: 'Hello' };
    await writeFile(file('templates.json'), JSON.stringify({ templates: [follow] }));
    await fulvet(['templates', 'import', file('templates.json')]);
    const steps = [
      { waitDays: 2, task: 'Read their site' },
      { waitDays: 3, template: 'Follow up' },
    ];
    await writeFile(file('series.json'), JSON.stringify({ name: 'After a fair', steps }));
    expect((await fulvet(['series', 'add', file('series.json')])).err).toContain('After a fair: 2 steps.');
    expect((await fulvet(['series', 'add', file('series.json')])).err).toContain('After a fair: 2 steps.');
    expect((await fulvet(['series', 'list'])).out).toBe('After a fair\t2\t0\n');
    await writeFile(file('series.json'), JSON.stringify({ name: 'x', steps: [{ template: 'None' }] }));
    expect(await fulvet(['series', 'add', file('series.json')])).toMatchObject({
      code: 1,
      err: expect.stringContaining('no template “None”'),
    });
    const start = ['series', 'start', 'After a fair', '--to', 'ida@harbour.example', '--zone', 'Europe/Berlin'];
    expect(await fulvet(start)).toMatchObject({ code: 1, err: expect.stringContaining('send') });
    const { json } = await makeToken(server, 'ada@own.example', { scopes: ['read', 'write', 'send'] });
    const sender = { FULVET_TOKEN: json.token };
    const { out } = await fulvet(start, '', sender);
    expect((await fulvet(['series', 'runs'])).out).toBe(`${out.trim()}\tAfter a fair\tida@harbour.example\t1 of 2\twaiting\n`);
    expect(await fulvet(['series', 'stop', out.trim()])).toMatchObject({ code: 0 });
    expect((await fulvet(['series', 'runs'])).out).toBe('');
    expect(await fulvet(['series', 'stop', 'x'])).toMatchObject({ code: 2 });
  });

  test('documents are added with versions, listed, and sent along', async () => {
    await writeFile(file('Price list.pdf'), 'prices of May');
    expect((await fulvet(['documents', 'add', file('Price list.pdf'), '--topic', 'Prices'])).err).toContain('Price list: version 1.');
    await writeFile(file('new.pdf'), 'prices of June');
    expect((await fulvet(['documents', 'add', file('new.pdf'), '--title', 'Price list'])).err).toContain('Price list: version 2.');
    expect((await fulvet(['documents', 'list'])).out).toBe('Price list\tPrices\t2\tnew.pdf\n');
    expect(await fulvet(['documents', 'add', file('none.pdf')])).toMatchObject({ code: 1 });
    expect((await fulvet(['documents', 'list'])).out).toBe('Price list\tPrices\t2\tnew.pdf\n');
    await writeFile(file('hello.txt'), 'Here are our prices.');
    const { json } = await makeToken(server, 'ada@own.example', { scopes: ['read', 'write', 'send'] });
    const sender = { FULVET_TOKEN: json.token };
    const email = ['send', file('hello.txt'), '--to', 'ida@harbour.example', '--subject', 'Prices'];
    expect((await fulvet([...email, '--document', 'Prices'], '', sender)).err).toContain('There is no document “Prices” in force.');
    expect(await fulvet([...email, '--document', 'Price list'], '', sender)).toMatchObject({ code: 0 });
    const [attached] = await owner(
      server.ownerUrl,
      `SELECT name, convert_from(content, 'UTF8') AS text FROM outgoing_files WHERE name = 'new.pdf'`,
    );
    expect(attached).toEqual({ name: 'new.pdf', text: 'prices of June' });
  });

  test('keys are changed', async () => {
    expect(await fulvet(['mailbox', 'rotate-keys'])).toMatchObject({
      code: 0,
      err: expect.stringMatching(/^\d+ secrets are sealed with a new key/),
    });
  });
});
