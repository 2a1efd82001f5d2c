import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { ImapFlow } from 'imapflow';
import { HOST } from '@fulvet/mailhost';
import type { MailStage } from '../../testing/mailboxTools';
import { connect, inStep, MAIL_PASSWORD, openMailStage, putMail, storedOf, until } from '../../testing/mailboxTools';
import type { Answer, Crew } from '../../testing/testServer';
import { changeRulebook, decisions, owner, setUpCrew } from '../../testing/testServer';

let stage: MailStage;
let crew: Crew;
const rep = 'rep@quillmere.example';
const other = 'other@quillmere.example';
let repId = 0;
let otherId = 0;

beforeAll(async () => {
  stage = await openMailStage();
  crew = await setUpCrew(stage.server);
  await changeRulebook(stage.server, crew.tokens.admin, (rulebook) => {
    Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
    rulebook.share.level = 'everyone';
  });
  stage.mailhost.store.addAccount(rep, MAIL_PASSWORD);
  for (let at = 1; at <= 7; at += 1) incoming(`old-${at}`, 'INBOX', new Date(Date.now() - at * 86_400_000));
  incoming('kept-copy', 'INBOX');
  incoming('kept-copy', 'Archive');
  repId = await connect(stage, { token: crew.tokens.rep, address: rep });
  otherId = await connect(stage, { token: crew.tokens.other, address: other });
  await inStep(stage, crew.tokens.rep, repId);
  await inStep(stage, crew.tokens.other, otherId);
}, 120_000);
afterAll(() => stage.close());
afterEach(() => stage.mailhost.faults.clear());

function incoming(id: string, path = 'INBOX', at = new Date(), more: { from?: string; subject?: string } = {}): number {
  return putMail(
    stage.mailhost,
    rep,
    {
      id: `${id}@harbour.example`,
      from: 'Ida Brandt <ida@harbour.example>',
      to: rep,
      date: at.toUTCString(),
      subject: `Gauge ${id}`,
      ...more,
    },
    path,
    at,
  );
}
const ids = async (address = rep): Promise<string[]> => (await storedOf(stage.server, address)).map((item) => item.id);
const stored = (id: string, address = rep): Promise<string[]> =>
  until(
    () => ids(address),
    (all) => all.includes(`${id}@harbour.example`),
  );
const get = async (target: Destination, token = crew.tokens.rep): Promise<Answer['json']> =>
  (await stage.server.call(target, { token })).json;
const folder = (path: string, address = rep) => {
  const found = stage.mailhost.store.accounts.get(address)?.folders.get(path);
  if (!found) throw new Error(`no folder ${path}`);
  return found;
};
const account = (address = rep) => {
  const found = stage.mailhost.store.accounts.get(address);
  if (!found) throw new Error(`no account ${address}`);
  return found;
};
/** No email is stored twice: each Message-ID once, with one sighting a folder. */
async function nothingTwice(): Promise<void> {
  const rows = await owner(
    stage.server.ownerUrl,
    `SELECT message_id, count(*)::int FROM emails WHERE message_id IS NOT NULL GROUP BY 1 HAVING count(*) > 1`,
  );
  expect(rows).toEqual([]);
}

describe('the first look', () => {
  test('reads all that lies there, an email in two folders once', async () => {
    const all = await storedOf(stage.server, rep);
    expect(all.map((item) => item.id)).toEqual([
      'kept-copy@harbour.example',
      ...[1, 2, 3, 4, 5, 6, 7].map((at) => `old-${at}@harbour.example`),
    ]);
    expect(all[0]?.sightings).toBe(2);
    await nothingTwice();
  });

  test('files it, and shows it to its owner only, as long as nothing else is said', async () => {
    const made = await decisions(stage.server, crew.tokens.rep);
    expect(made['old-1@harbour.example']).toMatchObject({ outcome: 'filed', visibility: 'owner' });
    const { json } = await stage.server.call(routeTo('listEmails', { domain: 'harbour.example' }), { token: crew.tokens.other });
    expect(json.total).toBe(0);
    await stage.server.call(routeTo('putMailboxSettings', { id: repId }), { token: crew.tokens.rep, body: { share: 'rules' } });
    await until(
      () => get(routeTo('listEmails', { domain: 'harbour.example' }), crew.tokens.other),
      (page) => page.total === 8,
    );
  });

  test('leaves the mailbox as it was: nothing read, nothing flagged', () => {
    for (const path of ['INBOX', 'Archive'])
      expect(folder(path).messages.map((message) => [...message.flags])).toEqual(folder(path).messages.map(() => []));
  });
});

describe('staying in step', () => {
  test('new mail is filed within a second or so, and an open page is told', async () => {
    const told = openEvents(crew.tokens.rep);
    await told.ready;
    const before = Date.now();
    incoming('live');
    const event = await told.next((item) => item.kind === 'mail' && item.records.some((record: string) => record.startsWith('contact:')));
    expect(event.records.some((record: string) => record.startsWith('account:'))).toBe(true);
    told.close();
    const contact = Number(event.records.find((record: string) => record.startsWith('contact:')).split(':')[1]);
    const history = await get(routeTo('getHistory', { kind: 'contact', id: contact }));
    expect(JSON.stringify(history)).toContain('Gauge live');
    // The speed itself is measured by a benchmark; this only tells waiting for news from looking now and then.
    expect(Date.now() - before).toBeLessThan(8000);
  });

  test('what others may not see, they are not told of', async () => {
    await stage.server.call(routeTo('putMailboxSettings', { id: repId }), { token: crew.tokens.rep, body: { share: 'owner' } });
    await until(
      () => get(routeTo('listEmails', { domain: 'harbour.example' }), crew.tokens.other),
      (page) => page.total === 0,
    );
    const mine = openEvents(crew.tokens.rep);
    const theirs = openEvents(crew.tokens.other);
    await Promise.all([mine.ready, theirs.ready]);
    incoming('private');
    await mine.next((told) => told.kind === 'mail');
    expect(theirs.heard.filter((told) => told.kind === 'mail')).toEqual([]);
    mine.close();
    theirs.close();
  });

  test('mail that this person sends from any program comes too, without waiting for the next look', async () => {
    putMail(stage.mailhost, rep, { id: 'sent-1@quillmere.example', from: rep, to: 'ida@harbour.example' }, 'Sent');
    await until(
      () => ids(),
      (all) => all.includes('sent-1@quillmere.example'),
      25_000,
    );
    const decided = await until(
      async () => (await decisions(stage.server, crew.tokens.rep))['sent-1@quillmere.example'],
      (item) => item.outcome !== null,
    );
    expect(decided).toMatchObject({ direction: 'sent', outcome: 'filed' });
  });

  test('a moved email stays one, a deleted one stays in the history', async () => {
    incoming('mover');
    incoming('goner');
    await stored('goner');
    const client = new ImapFlow({
      host: '127.0.0.1',
      servername: HOST,
      port: stage.mailhost.ports.imaps,
      secure: true,
      auth: { user: rep, pass: MAIL_PASSWORD },
      tls: { ca: stage.mailhost.certificate },
      logger: false,
    });
    await client.connect();
    await client.mailboxOpen('INBOX');
    await client.messageMove({ header: { 'message-id': '<mover@harbour.example>' } }, 'Archive');
    await client.messageDelete({ header: { 'message-id': '<goner@harbour.example>' } });
    await client.logout();
    const places = () =>
      owner(
        stage.server.ownerUrl,
        `SELECT e.message_id, f.path, m.gone_at IS NOT NULL AS gone FROM folder_messages m JOIN mailbox_folders f ON f.id = m.folder_id JOIN emails e ON e.id = m.email_id WHERE e.message_id IN ('mover@harbour.example', 'goner@harbour.example') ORDER BY 1, 2`,
      );
    await until(places, (rows) => rows.length === 3 && rows.filter((row) => row.gone).length === 2, 30_000);
    expect(await places()).toEqual([
      { message_id: 'goner@harbour.example', path: 'INBOX', gone: true },
      { message_id: 'mover@harbour.example', path: 'Archive', gone: false },
      { message_id: 'mover@harbour.example', path: 'INBOX', gone: true },
    ]);
    expect(await ids()).toContain('goner@harbour.example');
    await nothingTwice();
  });

  test('a changed UIDVALIDITY loses nothing and doubles nothing', async () => {
    const before = await ids();
    stage.mailhost.store.renumber(account(), folder('INBOX'));
    incoming('after-renumbering');
    await until(
      () => ids(),
      (all) => all.length === before.length + 1,
      30_000,
    );
    await inStep(stage, crew.tokens.rep, repId);
    expect((await ids()).filter((id) => id !== 'after-renumbering@harbour.example')).toEqual(before);
    await nothingTwice();
    const { events } = await get(routeTo('listMailboxEvents', { id: repId }));
    expect(events.map((event: { message: string }) => event.message)).toContain(
      'The server has renumbered INBOX. It is read again; nothing is doubled.',
    );
  });

  test('without IDLE it asks', async () => {
    stage.mailhost.faults.set({ noIdle: true });
    stage.mailhost.dropConnections();
    incoming('asked-for');
    await stored('asked-for');
    incoming('asked-for-2');
    await stored('asked-for-2');
  });
});

describe('when things go wrong', () => {
  const health = async () => (await get(routeTo('getMailbox', { id: repId }))).health;

  test.each([
    ['the connection breaks after some bytes', { dropAfterBytes: 9000 }],
    ['answers are broken', { brokenAnswers: 1 }],
    ['emails vanish while they are read', { expungeWhileReading: true }],
    ['the server is slow', { delayMs: 15 }],
  ])('%s: all comes in the end, once', async (name, faults) => {
    stage.mailhost.faults.set(faults, rep);
    stage.mailhost.dropConnections();
    const key = name.replace(/\W/g, '');
    for (let at = 0; at < 9; at += 1) incoming(`${key}-${at}`);
    await until(health, (item) => item.problem !== null || 'delayMs' in faults || 'expungeWhileReading' in faults);
    stage.mailhost.faults.clear();
    await stage.server.call(routeTo('retryMailbox', { id: repId }), { token: crew.tokens.rep });
    if ('expungeWhileReading' in faults) stage.mailhost.dropConnections();
    await until(
      () => ids(),
      (all) => all.filter((id) => id.startsWith(`${key}-`)).length === 9,
      30_000,
    );
    await until(health, (item) => item.state === 'Working', 30_000);
    await nothingTwice();
  });

  test('while the provider is down it says since when, what it means and what is done; then it mends itself', async () => {
    stage.mailhost.faults.set({ down: true });
    stage.mailhost.dropConnections();
    const down = await until(health, (item) => item.problem !== null);
    expect(down).toMatchObject({ level: 'trouble', state: 'In trouble: trying again' });
    expect(down.problem.means).toContain('Histories may lack this mailbox’s emails');
    expect(down.problem.doing).toMatch(/^Fulvet has tried (once|\d+ times) and tries again (now|in \d+ seconds)\.$/);
    const line = await get(routeTo('getLine'));
    expect(line.mailboxTrouble).toBe(1);
    incoming('while-down');
    stage.mailhost.faults.clear();
    await stored('while-down');
    expect((await until(health, (item) => item.state === 'Working')).problem).toBeNull();
    const { events } = await get(routeTo('listMailboxEvents', { id: repId }));
    expect(events.some((event: { level: string }) => event.level === 'mended')).toBe(true);
  });

  test('a refused sign-in stops at once and asks; it is not tried again by itself', async () => {
    await stage.server.call(routeTo('pauseMailbox', { id: otherId }), { token: crew.tokens.other });
    // Inbox and sent folder of this mailbox are watched again, and nothing else: no connection is on its way any more.
    await until(
      async () => ({
        connections: stage.mailhost.connectionCount(),
        mailboxes: await owner(
          stage.server.ownerUrl,
          `SELECT address, state, problem, lease_holder IS NOT NULL AS held, (SELECT json_agg(message ORDER BY e.id DESC) FROM (SELECT * FROM mailbox_events e WHERE e.mailbox_id = m.id ORDER BY id DESC LIMIT 5) e) AS events FROM mailboxes m ORDER BY id`,
        ),
      }),
      ({ connections }) => connections === 2,
    );
    let tries = 0;
    account().password = 'another now';
    const signIn = stage.mailhost.store.accounts.get.bind(stage.mailhost.store.accounts);
    stage.mailhost.store.accounts.get = (key: string) => {
      if (key === rep) tries += 1;
      return signIn(key);
    };
    stage.mailhost.dropConnections();
    const stopped = await until(
      () => get(routeTo('getMailbox', { id: repId })),
      (item) => item.state === 'stopped',
    );
    stage.mailhost.store.accounts.get = signIn;
    expect(tries).toBe(1);
    expect(stopped.health).toMatchObject({
      level: 'stopped',
      state: 'Stopped: needs you',
      problem: { code: 'sign-in-refused', doing: 'Fulvet has stopped trying and waits for you.' },
    });
    account().password = MAIL_PASSWORD;
    incoming('after-refusal');
    await stage.server.call(routeTo('retryMailbox', { id: repId }), { token: crew.tokens.rep });
    await stored('after-refusal');
    await stage.server.call(routeTo('startMailbox', { id: otherId }), { token: crew.tokens.other });
  });

  test('a turn whose end was never noted does not keep its mailbox from the next one', async () => {
    await stage.server.call(routeTo('pauseMailbox', { id: repId }), { token: crew.tokens.rep });
    const held = () => owner(stage.server.ownerUrl, `SELECT FROM mailboxes WHERE id = ${repId} AND lease_holder IS NOT NULL`);
    await until(held, (rows) => rows.length === 0);
    const jobs = `pgboss.job WHERE name = 'mailbox-turn' AND singleton_key = '${repId}'`;
    await until(
      () => owner(stage.server.ownerUrl, `SELECT FROM ${jobs} AND state IN ('created', 'active')`),
      (rows) => rows.length === 0,
    );
    await owner(
      stage.server.ownerUrl,
      `UPDATE pgboss.job SET state = 'active', started_on = now() - interval '1 minute' WHERE id = (SELECT id FROM ${jobs} ORDER BY created_on DESC LIMIT 1)`,
    );
    incoming('after-the-lost-turn');
    await stage.server.call(routeTo('startMailbox', { id: repId }), { token: crew.tokens.rep });
    await stored('after-the-lost-turn');
  });

  test('paused, it reads nothing; started again, it catches up', async () => {
    await stage.server.call(routeTo('pauseMailbox', { id: repId }), { token: crew.tokens.rep });
    await until(
      () => Promise.resolve(stage.mailhost.connectionCount()),
      // The other mailbox’s inbox is still watched, and its sent folder, when that connection has come back.
      (count) => count <= 2,
    );
    incoming('in-the-pause');
    expect((await get(routeTo('getMailbox', { id: repId }))).health.state).toBe('Paused');
    await stage.server.call(routeTo('startMailbox', { id: repId }), { token: crew.tokens.rep });
    await stored('in-the-pause');
  });
});

describe('several mailboxes', () => {
  test('the same email in two of them is one, and both owners may read it', async () => {
    const at = new Date();
    const mail = { id: 'both@harbour.example', from: 'ida@harbour.example', to: `${rep}, ${other}`, date: at.toUTCString() };
    putMail(stage.mailhost, rep, mail);
    putMail(stage.mailhost, other, mail);
    await stored('both');
    await stored('both', other);
    await nothingTwice();
    const rows = await owner(stage.server.ownerUrl, `SELECT owner_ids FROM emails WHERE message_id = 'both@harbour.example'`);
    expect(rows[0]?.owner_ids).toEqual(expect.arrayContaining([crew.ids.rep, crew.ids.other]));
  });
});

describe('marking', () => {
  test('only an administrator switches it on; then a keyword stands on what is filed, and on nothing else', async () => {
    const refused = await stage.server.call(routeTo('putMailboxSettings', { id: repId }), {
      token: crew.tokens.rep,
      body: { markFiled: true },
    });
    expect(refused.status).toBe(403);
    putMail(stage.mailhost, rep, {
      id: 'letter@news.example',
      from: 'news@news.example',
      to: rep,
      headers: 'List-Unsubscribe: <mailto:u@news.example>',
    });
    await until(
      () => ids(),
      (all) => all.includes('letter@news.example'),
    );
    await stage.server.call(routeTo('putMailboxSettings', { id: repId }), { token: crew.tokens.admin, body: { markFiled: true } });
    const marks = () =>
      folder('INBOX').messages.map(
        (message) => [/Message-ID: <([^>]*)>/.exec(message.raw.toString())?.[1] ?? '', [...message.flags]] as const,
      );
    const all = await until(
      () => Promise.resolve(marks()),
      (list) => list.filter(([, flags]) => flags.includes('Fulvet-filed')).length > 10,
    );
    expect(all.find(([id]) => id === 'letter@news.example')?.[1]).toEqual([]);
    expect(all.find(([id]) => id === 'old-1@harbour.example')?.[1]).toEqual(['Fulvet-filed']);
    await stage.server.call(routeTo('putMailboxSettings', { id: repId }), { token: crew.tokens.admin, body: { markFiled: false } });
    await until(
      () => Promise.resolve(marks()),
      (list) => list.every(([, flags]) => flags.length === 0),
    );
  });
});

interface Told {
  kind: string;
  records: string[];
}

/** The events that a page of this user would hear. */
function openEvents(token: string): {
  ready: Promise<void>;
  heard: Told[];
  next: (wanted: (told: Told) => boolean) => Promise<Answer['json']>;
  close: () => void;
} {
  const heard: Told[] = [];
  const stop = new AbortController();
  let begun: () => void = () => undefined;
  const ready = new Promise<void>((resolve) => (begun = resolve));
  const listen = async (): Promise<void> => {
    const response = await fetch(`${stage.server.url}/api/v1/changes`, {
      headers: { authorization: `Bearer ${token}` },
      signal: stop.signal,
    });
    let text = '';
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
      begun();
      text += Buffer.from(chunk).toString();
      const parts = text.split('\n\n');
      text = parts.pop() ?? '';
      for (const part of parts) if (part.startsWith('data: ')) heard.push(JSON.parse(part.slice(6)) as Told);
    }
  };
  listen().catch(() => undefined);
  return {
    ready,
    heard,
    next: (wanted) =>
      until(
        () => Promise.resolve(heard.find(wanted)),
        (told) => told !== undefined,
      ),
    close: () => stop.abort(),
  };
}
