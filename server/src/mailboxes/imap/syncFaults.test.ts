import { routeTo } from '../../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { MAIL_PASSWORD, putMail, until } from '../../testing/mailboxTools';
import { owner } from '../../testing/testServer';
import { stage, crew, rep, other, repId, otherId, incoming, ids, stored, get, account, nothingTwice } from '../../testing/syncStage';

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
    expect(events.some((event: { level: string }) => event.level === 'solved')).toBe(true);
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
