import { routeTo } from '../../server/src/testing/routeTo';
import { startMailhost } from '@fulvet/mailhost';
import type { Mailhost } from '@fulvet/mailhost';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { MAIL_PASSWORD, mailOptions, putMail, until } from '../../server/src/testing/mailboxTools';
import { ics } from '../../server/src/testing/calendarObjects';
import type { Crew } from '../../server/src/testing/testServer';
import { changeRulebook, owner, PASSWORD, setUpCrew } from '../../server/src/testing/testServer';
import type { Stage } from './browser';
import { openStage, press, seen, signInAs } from './browser';

const rep = 'rep@quillmere.example';
const other = 'other@quillmere.example';
let mailhost: Mailhost;
let stage: Stage;
let crew: Crew;

beforeAll(async () => {
  mailhost = await startMailhost();
  stage = await openStage({ demo: false, server: await mailOptions(mailhost) });
  crew = await setUpCrew(stage.server);
  await changeRulebook(stage.server, crew.tokens.admin, (rulebook) => {
    Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
  });
  for (const address of [rep, other, 'sales@quillmere.example']) mailhost.store.addAccount(address, MAIL_PASSWORD);
  for (let at = 1; at <= 3; at += 1)
    putMail(
      mailhost,
      rep,
      {
        id: `old-${at}@harbour.example`,
        from: 'Ida Brack <ida@harbour.example>',
        to: rep,
        subject: `Gauge ${at}`,
        date: daysAgo(at * 20).toUTCString(),
      },
      'INBOX',
      daysAgo(at * 20),
    );
}, 240_000);
afterAll(async () => {
  await stage.close();
  await mailhost.stop();
});

const daysAgo = (days: number): Date => new Date(Date.now() - days * 86_400_000);
const open = async (path: string, words: string | RegExp): Promise<void> => {
  await stage.page.goto(stage.server.url + path);
  await seen(stage.page, words);
};
const type = async (selector: string, text: string): Promise<void> => {
  await stage.page.waitForSelector(selector);
  await stage.page.type(selector, text);
};

describe('a rep connects the own mailbox with only the screen to go by', () => {
  test('a refused password says what to do; the right one passes every check', async () => {
    const { page, server } = stage;
    await signInAs(page, server.url, rep, PASSWORD);
    await seen(page, 'Mail appears here when your mailbox is connected.');
    await press(page, 'Connect it now');
    await press(page, 'Find its server');
    await seen(page, 'The domain itself says where its mail servers are.');
    await page.locator('input[name=signIn]:not(:checked)').click();
    await type('input[name=password]', 'not this one');
    await press(page, 'Try it');
    await seen(page, 'Longshore did not know this password.');
    await seen(page, 'The server said: The address or the password is wrong');
    expect(await page.evaluate(() => document.body.innerText)).not.toContain('Working');
    await press(page, 'Enter the password again');
    await type('input[name=password]', MAIL_PASSWORD);
    await press(page, 'Try it');
    await seen(page, /Arrived in INBOX/);
  });

  test('each choice of how far back says how many emails that is', async () => {
    const { page } = stage;
    await seen(page, /30 days\s+3 emails/);
    await seen(page, /Everything\s+5 emails/);
    await seen(page, 'rep person only, until you change it');
    await page.locator('input[name=days]').click();
    await press(page, 'Start, and read 3 emails');
    await seen(page, 'Working');
    await seen(page, 'In step with the server.');
    const all = await until(
      async () => (await stage.server.call(routeTo('listEmails', { domain: 'harbour.example' }), { token: crew.tokens.rep })).json,
      (found) => found.total > 0,
    );
    expect(all.emails.map((email: { content: { subject: string } }) => email.content.subject)).toEqual(['Gauge 1']);
  });

  test('a new email stands on the open history without reload', async () => {
    const { page, server } = stage;
    const contacts = await until(
      async () => (await server.call(routeTo('listRecords', { kind: 'contact' }), { token: crew.tokens.rep })).json,
      (found) => found.total === 1,
    );
    await open(`/records/contact/${contacts.records[0].id}`, 'Gauge 1');
    const loaded = await page.evaluate(() => performance.timeOrigin);
    mailhost.delivery.write({ from: 'Ida Brack <ida@harbour.example>', to: rep, subject: 'The new buoy', text: 'It floats.' });
    await seen(page, 'It floats.');
    expect(await page.evaluate(() => performance.timeOrigin)).toBe(loaded);
  });

  test('trouble is told on the frame and at the mailbox, with what to do', async () => {
    const { page } = stage;
    await open('/mailboxes', '1 mailbox works.');
    const account = mailhost.store.accounts.get(rep);
    if (account) account.password = 'changed at the provider';
    mailhost.dropConnections();
    await seen(page, '1 in trouble');
    await seen(page, 'Stopped: needs you');
    await page.locator('[role=table][aria-label=Mailboxes] a').click();
    await seen(page, 'Fulvet has stopped trying and waits for you.');
    await seen(page, /Histories may lack this mailbox’s emails/);
    if (account) account.password = MAIL_PASSWORD;
    await press(page, 'Try now');
    await seen(page, 'Works again, after one failure.');
  });

  test('a folder stands for a record, chosen by keyboard', async () => {
    const { page } = stage;
    await press(page, 'Link to a record …');
    await page.keyboard.type('Ida');
    await seen(page, /Ida Brack\s+contact/);
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await seen(page, 'moved here: filed under Ida Brack');
  });
});

describe('calendars', () => {
  test('are found, chosen and read; an event stands on the history of its guest', async () => {
    const { page, server } = stage;
    const account = mailhost.store.accounts.get(rep);
    if (!account) throw new Error('no account');
    mailhost.store.putEvent(account, 'Work', 'visit.ics', ics({ uid: 'Visit of the gauges', day: 2 }));
    await press(page, 'Connect a calendar server');
    await type('[role=dialog] input[name=url]', mailhost.webUrl);
    await press(page, 'Find the calendars');
    await seen(page, '1 calendar found. Choose what is read.');
    await page.locator('input[aria-label="Read the calendar Work"]').click();
    await seen(page, /1 event, read/);
    const [contact] = await until(
      () =>
        owner(
          server.ownerUrl,
          `SELECT f.record_id AS id FROM filings f JOIN emails e ON e.id = f.email_id WHERE e.mail_class = 'event' AND f.kind = 'contact'`,
        ),
      (rows) => rows.length > 0,
    );
    await open(`/records/contact/${String(contact?.id)}`, /Visit of the gauges/);
    await seen(page, /, 1 event/);
  });

  test('say when their owner is free: a guest books a time, moves it, and cancels it', async () => {
    const { page, server } = stage;
    await server.call(routeTo('setLinkAddress'), { token: crew.tokens.admin, body: { address: server.url, unchecked: true } });
    await open('/meeting-times', 'There is none yet.');
    await press(page, 'New kind of meeting');
    await type('[role=dialog] input[name=name]', 'Short call');
    await press(page, 'Save');
    await seen(page, 'Short call is saved.');
    await press(page, 'Get a link: Short call');
    const link = await seen(page, /https?:\S+\/m\/[\w-]{43}/);
    await page.goto(/https?:\S+\/m\/[\w-]{43}/.exec(link)?.[0] ?? '');
    await seen(page, /30 minutes with rep person/);
    expect(new URL(page.url()).searchParams.get('zone')).not.toBeNull();
    await page.locator('a[href*="at="]').click();
    await type('input[name=name]', 'Ida Brack');
    await type('input[name=address]', 'ida@harbour.example');
    await page.locator('form[method=post] button').click();
    const booked = await seen(page, /Booked: /);
    await page.locator('::-p-text(Choose another time)').click();
    await page.locator('h2:nth-of-type(2) ~ a[href*="at="]').click();
    await page.locator('::-p-text(Move the meeting)').click();
    await seen(page, /Booked: /);
    expect(await page.evaluate(() => document.body.innerText)).not.toBe(booked);
    await page.locator('button[name=cancel]').click();
    await seen(page, 'The meeting is cancelled');
    await open('/mailboxes', '1 mailbox works.');
  });
});

describe('signing in at the provider', () => {
  test('leads there, and back to the checks', async () => {
    const { page, server } = stage;
    await signOut();
    await signInAs(page, server.url, other, PASSWORD);
    await open('/mailboxes/connect', 'Which mailbox?');
    await press(page, 'Find its server');
    await press(page, 'Go to Longshore Mail and sign in');
    await type('input[name=password]', MAIL_PASSWORD);
    await page.locator('button[value=yes]').click();
    await seen(page, /Arrived in INBOX/);
    expect(new URL(page.url()).pathname).toMatch(/^\/mailboxes\/connect\/\d+$/);
  });
});

describe('many at once', () => {
  test('the list is looked through before anything is done; then each shows how far it is', async () => {
    const { page, server } = stage;
    await signOut();
    await signInAs(page, server.url, 'admin@quillmere.example', PASSWORD);
    await open('/mailboxes/many', 'One mailbox a line');
    const fill = async (text: string): Promise<void> => {
      await page.locator('textarea').fill(text);
      await press(page, 'Look through the list');
    };
    await fill(`address,password,owner\nsales@quillmere.example,,admin@quillmere.example`);
    await seen(page, '1 line needs a correction; nothing has been changed.');
    await seen(page, 'has no password');
    await fill(`address,password,owner\nsales@quillmere.example,${MAIL_PASSWORD},admin@quillmere.example`);
    await press(page, 'Connect 1 mailbox');
    await seen(page, 'Tried and ready to start');
    await press(page, 'Start those that passed');
    await seen(page, '1 mailbox started.');
    await seen(page, 'Working');
  });
});

async function signOut(): Promise<void> {
  await press(stage.page, 'Sign out');
  await stage.page.waitForSelector('input[name=email]');
}
