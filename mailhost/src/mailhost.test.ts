import { describe, expect, test } from '@jest/globals';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createTransport } from 'nodemailer';
import { inSet, tokenize } from './imap/tokens';
import { HOST } from './mailhost';
import { MailStore } from './mailStore';
import { nadia, sales, mailhost, withClient } from './testing/hostStage';

function put(subject: string, path = 'INBOX', address = nadia): void {
  const account = mailhost.store.accounts.get(address);
  const folder = account?.folders.get(path);
  if (!account || !folder) throw new Error('no folder');
  mailhost.store.append(
    account,
    folder,
    Buffer.from(
      `From: ida@harbour.example\r\nTo: ${nadia}\r\nSubject: ${subject}\r\nMessage-ID: <${subject}@x>\r\n\r\nBody of ${subject}\r\n`,
    ),
  );
}

describe('IMAP commands', () => {
  test('are split into atoms, strings, literals and lists', () => {
    expect(tokenize('a1 FETCH 1:* (UID BODY.PEEK[HEADER.FIELDS (Date From)]<0.10> "a \\"b")')).toEqual([
      { atom: 'a1' },
      { atom: 'FETCH' },
      { atom: '1:*' },
      [{ atom: 'UID' }, { atom: 'BODY.PEEK[HEADER.FIELDS (Date From)]<0.10>' }, { text: 'a "b' }],
    ]);
    expect(tokenize('a2 LOGIN {3}\r\na"b {2+}\r\npw')).toEqual([{ atom: 'a2' }, { atom: 'LOGIN' }, { text: 'a"b' }, { text: 'pw' }]);
    expect(() => tokenize('a3 LIST ("x')).toThrow(SyntaxError);
  });

  test('sequence sets know ranges in both directions and the highest number', () => {
    const within = inSet('7,3:1,9:*', 12);
    expect([1, 2, 3, 4, 7, 8, 9, 12, 13].filter(within)).toEqual([1, 2, 3, 7, 9, 12]);
  });
});

describe('a standard IMAP client', () => {
  test('signs in over TLS and by STARTTLS, and not without either', async () => {
    expect(await withClient((flow) => Promise.resolve(Boolean(flow.authenticated)))).toBe(true);
    expect(await withClient((flow) => Promise.resolve(flow.secureConnection), { port: mailhost.ports.imap, secure: false })).toBe(true);
    await expect(withClient(() => Promise.resolve(), { port: mailhost.ports.imap, secure: false, doSTARTTLS: false })).rejects.toThrow();
    await expect(withClient(() => Promise.resolve(), { auth: { user: nadia, pass: 'wrong' } })).rejects.toMatchObject({
      authenticationFailed: true,
    });
  });

  test('lists folders with their roles', async () => {
    const folders = await withClient((flow) => flow.list());
    expect(Object.fromEntries(folders.map((folder) => [folder.path, folder.specialUse]))).toMatchObject({
      Sent: '\\Sent',
      Spam: '\\Junk',
      Bin: '\\Trash',
    });
  });

  test('searches, fetches whole and in parts, and never marks as read by peeking', async () => {
    put('one');
    put('two');
    await withClient(async (flow) => {
      const opened = await flow.mailboxOpen('INBOX', { readOnly: true });
      expect(opened.exists).toBe(2);
      expect(await flow.search({ subject: 'two' }, { uid: true })).toEqual([2]);
      expect(await flow.search({ since: new Date(Date.now() - 86_400_000) }, { uid: true })).toEqual([1, 2]);
      const fetched = await flow.fetchAll(
        '1:*',
        { uid: true, source: true, envelope: true, internalDate: true, size: true },
        { uid: true },
      );
      expect(fetched.map((message) => message.envelope?.subject)).toEqual(['one', 'two']);
      expect(fetched[0]?.source?.toString()).toContain('Body of one');
      const part = await flow.fetchOne('1', { source: { start: 0, maxLength: 10 } }, { uid: true });
      expect(part && part.source?.toString()).toBe('From: ida@');
    });
    expect([...(mailhost.store.accounts.get(nadia)?.folders.get('INBOX')?.messages[0]?.flags ?? [])]).toEqual([]);
  });

  test('is told of new mail while it idles', async () => {
    await withClient(async (flow) => {
      await flow.mailboxOpen('INBOX');
      const arrived = new Promise<number>((resolve) => flow.on('exists', (told: { count: number }) => resolve(told.count)));
      void flow.idle();
      mailhost.delivery.write({ from: 'ida@harbour.example', to: nadia, subject: 'new', text: 'x' });
      expect(await arrived).toBe(1);
    });
  });

  test('stores keywords, appends, copies, moves and deletes', async () => {
    put('one');
    await withClient(async (flow) => {
      await flow.mailboxOpen('INBOX');
      await flow.messageFlagsAdd('1', ['Fulvet'], { uid: true });
      expect(await flow.search({ keyword: 'Fulvet' }, { uid: true })).toEqual([1]);
      const copied = await flow.messageCopy('1', 'Archive', { uid: true });
      expect(copied && copied.uidMap?.get(1)).toBe(1);
      await flow.messageMove('1', 'Bin', { uid: true });
      expect(await flow.status('INBOX', { messages: true })).toMatchObject({ messages: 0 });
      expect(await flow.status('Bin', { messages: true })).toMatchObject({ messages: 1 });
      await flow.append('Drafts', 'Subject: draft\r\n\r\nx', ['\\Draft']);
      expect(await flow.status('Drafts', { messages: true })).toMatchObject({ messages: 1 });
    });
  });

  test('does not change a folder that is open for reading', async () => {
    put('one');
    await withClient(async (flow) => {
      await flow.mailboxOpen('INBOX', { readOnly: true });
      expect(await flow.messageFlagsAdd('1', ['\\Seen'], { uid: true })).toBe(false);
    });
    expect(mailhost.store.accounts.get(nadia)?.folders.get('INBOX')?.messages[0]?.flags.size).toBe(0);
  });
});

describe('submission', () => {
  const send = (mail: object, auth = { user: nadia, pass: 'pw' }): Promise<unknown> =>
    createTransport({
      host: '127.0.0.1',
      port: mailhost.ports.submissions,
      secure: true,
      auth,
      tls: { ca: mailhost.certificate, servername: HOST },
    }).sendMail(mail);

  test('delivers to inboxes without the Bcc, and keeps a copy with it', async () => {
    await send({ from: nadia, to: 'ida@harbour.example', bcc: `sales+abc@quillmere.example`, subject: 'hidden', text: 'x' });
    const raw = (address: string, path: string): string =>
      mailhost.store.accounts.get(address)?.folders.get(path)?.messages[0]?.raw.toString() ?? '';
    expect(raw(nadia, 'Sent')).toMatch(/^Bcc: sales\+abc@quillmere\.example/im);
    expect(raw(sales, 'INBOX')).not.toMatch(/^Bcc:/im);
    expect(raw(sales, 'INBOX')).toMatch(/^Delivered-To: sales\+abc@quillmere\.example/im);
    expect(mailhost.delivery.outside[0]).toMatchObject({ to: 'ida@harbour.example', subject: 'hidden' });
  });

  test('an outside correspondent answers by script, in the same conversation', async () => {
    mailhost.delivery.scripts = [{ match: '@harbour.example', text: 'Thank you', afterMs: 1 }];
    const inbox = mailhost.store.accounts.get(nadia)?.folders.get('INBOX');
    const answered = new Promise<void>((resolve) =>
      mailhost.store.accounts.get(nadia)?.on('change', (path) => path === 'INBOX' && resolve()),
    );
    await send({ from: nadia, to: 'ida@harbour.example', subject: 'Gauge', text: 'x', messageId: '<q1@quillmere.example>' });
    await answered;
    const answer = inbox?.messages[0]?.raw.toString() ?? '';
    expect(answer).toContain('Subject: Re: Gauge');
    expect(answer).toContain('In-Reply-To: <q1@quillmere.example>');
  });

  test('everyone outside can answer by script, each in turn', async () => {
    mailhost.delivery.scripts = ['First', 'Second'].map((text) => ({ match: '*', text, afterMs: 1 }));
    const inbox = mailhost.store.accounts.get(nadia)?.folders.get('INBOX');
    const answers = (): string[] =>
      (inbox?.messages ?? []).map(({ raw }) => /^(?:First|Second)$/m.exec(raw.toString())?.[0] ?? '').filter(Boolean);
    const before = answers().length;
    for (const to of ['ida@harbour.example', 'tove@morland.example']) {
      const count = answers().length;
      const answered = new Promise<void>((resolve) =>
        mailhost.store.accounts.get(nadia)?.on('change', (path) => path === 'INBOX' && answers().length > count && resolve()),
      );
      await send({ from: nadia, to, subject: 'Gauge', text: 'x' });
      await answered;
    }
    mailhost.delivery.scripts = [];
    expect(answers().slice(before).sort()).toEqual(['First', 'Second']);
  });

  test('mail from a shared address names who signed in', async () => {
    await send({ from: sales, to: 'ida@harbour.example', subject: 'shared', text: 'x' });
    expect(mailhost.store.accounts.get(sales)?.folders.get('Sent')?.messages[0]?.raw.toString()).toContain(
      `X-Authenticated-Sender: ${nadia}`,
    );
  });
});

describe('misbehaviour', () => {
  test('the IMAP door can be shut, sign-in refused, the whole be down', async () => {
    mailhost.faults.set({ imapOff: true });
    await expect(withClient(() => Promise.resolve())).rejects.toMatchObject({ responseText: expect.stringContaining('IMAP door') });
    mailhost.faults.set({ imapOff: false, refuseSignIn: true });
    await expect(withClient(() => Promise.resolve())).rejects.toMatchObject({ authenticationFailed: true });
    mailhost.faults.set({ down: true });
    await expect(withClient(() => Promise.resolve())).rejects.toThrow();
  });

  test('the connection drops after n bytes', async () => {
    for (let at = 0; at < 20; at += 1) put(`mail ${at}`);
    mailhost.faults.set({ dropAfterBytes: 3000 });
    await expect(
      withClient(async (flow) => {
        await flow.mailboxOpen('INBOX');
        return (await flow.fetchAll('1:*', { source: true })).length;
      }),
    ).rejects.toThrow();
  });

  test('a folder gets a new UIDVALIDITY', async () => {
    put('one');
    const before = await withClient((flow) => flow.mailboxOpen('INBOX'));
    await fetch(`${mailhost.webUrl}/play/renumber`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ address: nadia }),
    });
    const after = await withClient((flow) => flow.mailboxOpen('INBOX'));
    expect(after.uidValidity).not.toBe(before.uidValidity);
  });
});

describe('the journal', () => {
  test('brings the mailboxes back as they were', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'mailhost-'));
    const first = new MailStore(folder);
    const account = first.addAccount(nadia, 'pw');
    const inbox = account.folders.get('INBOX');
    if (!inbox) throw new Error('no inbox');
    const kept = first.append(account, inbox, Buffer.from('Subject: a\r\n\r\nx'), { flags: ['\\Seen'] });
    const gone = first.append(account, inbox, Buffer.from('Subject: b\r\n\r\nx'));
    first.expunge(account, inbox, new Set([gone.uid]));
    first.setFlags(account, inbox, kept, ['Fulvet']);
    const again = new MailStore(folder).accounts.get(nadia)?.folders.get('INBOX');
    expect(again).toMatchObject({ uidValidity: inbox.uidValidity, uidNext: 3 });
    expect(again?.messages.map((message) => [message.uid, message.raw.toString(), [...message.flags]])).toEqual([
      [1, 'Subject: a\r\n\r\nx', ['Fulvet']],
    ]);
    await rm(folder, { recursive: true });
  });
});
