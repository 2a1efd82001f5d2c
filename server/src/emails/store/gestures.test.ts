import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { createTransport } from 'nodemailer';
import type { MailStage } from '../../testing/mailboxTools';
import { connect, MAIL_PASSWORD, openMailStage, putMail, until } from '../../testing/mailboxTools';
import type { Answer, Crew } from '../../testing/testServer';
import { decisions, owner, setUpCrew } from '../../testing/testServer';

const rep = 'rep@quillmere.example';
const filing = 'filing@quillmere.example';
let stage: MailStage;
let crew: Crew;
let repMailbox = 0;
let dealAddress = '';
let deal = 0;
let other = 0;

beforeAll(async () => {
  stage = await openMailStage();
  crew = await setUpCrew(stage.server);
  for (const [kind, text] of [
    ['account', 'name,domains\nHarbour Oriel,harbour.example\n'],
    ['deal', 'code,name,account,open\nQH-77,Outer harbour,Harbour Oriel,yes\nQH-78,Inner harbour,Harbour Oriel,yes\n'],
  ] as const)
    await stage.server.call(routeTo('importRecords', { kind }), { token: crew.tokens.admin, body: { text } });
  const account = stage.mailhost.store.addAccount(rep, MAIL_PASSWORD);
  stage.mailhost.store.addFolder(account, 'Customers/Outer harbour');
  stage.mailhost.store.addFolder(account, 'File it');
  repMailbox = await connect(stage, { token: crew.tokens.rep, address: rep });
  await connect(stage, { token: crew.tokens.admin, address: filing, body: { kind: 'filing' } });
  const deals = await get(routeTo('listRecords', { kind: 'deal' }));
  [deal, other] = ['Outer harbour', 'Inner harbour'].map(
    (name) => deals.records.find((record: { name: string }) => record.name === name).id as number,
  ) as [number, number];
  dealAddress = (await get(routeTo('getRecord', { kind: 'deal', id: deal }))).filingAddress;
}, 90_000);
afterAll(() => stage.close());

const get = async (target: Destination, token = crew.tokens.rep): Promise<Answer['json']> =>
  (await stage.server.call(target, { token })).json;
const decided = (id: string, holds: (item: Answer['json']) => boolean): Promise<Answer['json']> =>
  until(
    async () => (await decisions(stage.server, crew.tokens.admin))[id],
    (item) => item !== undefined && item.outcome !== null && holds(item),
    30_000,
  );
const filedUnder = (item: Answer['json']): string[] =>
  item.filings.map((filed: { kind: string; name: string }) => `${filed.kind} ${filed.name}`);
const because = async (id: string): Promise<string> => {
  const { emails } = await get(routeTo('listEmails', { limit: 100 }));
  const subject = id.split('@')[0];
  const row = emails.find((email: { content: { subject: string } | null }) => email.content?.subject === subject);
  const { docket } = await get(routeTo('getEmail', { id: row.id }));
  return docket.flatMap((entry: { because: string[] }) => entry.because).join(' ');
};

async function send(id: string, mail: { to: string; bcc?: string; text?: string }): Promise<void> {
  const transport = createTransport({
    host: '127.0.0.1',
    port: stage.mailhost.ports.submissions,
    secure: true,
    auth: { user: rep, pass: MAIL_PASSWORD },
    tls: { servername: stage.mailhost.host, ca: [stage.mailhost.certificate] },
  });
  await transport.sendMail({ from: rep, subject: id.split('@')[0] ?? id, messageId: `<${id}>`, text: 'Please see below.', ...mail });
  transport.close();
}

describe('a filing address', () => {
  test('is short, is shown on the record, and cannot be guessed', async () => {
    expect(dealAddress).toMatch(/^filing\+[0-9a-f]{12}@quillmere\.example$/);
    expect((await get(routeTo('getRecord', { kind: 'deal', id: other }))).filingAddress).not.toBe(dealAddress);
  });

  test('in Bcc files what a teammate sends, though no rule would', async () => {
    await send('bcc@quillmere.example', { to: 'somebody@lagoon.example', bcc: dealAddress });
    const item = await decided('bcc@quillmere.example', (it) => it.outcome === 'filed');
    expect(filedUnder(item)).toContain('deal Outer harbour');
    expect(await because('bcc@quillmere.example')).toContain(
      `rep person sent it to ${dealAddress}, the filing address of the deal Outer harbour.`,
    );
  });

  test('files what a teammate forwards to it', async () => {
    await send('forwarded@quillmere.example', {
      to: dealAddress,
      text: '---------- Forwarded ----------\nFrom: who@lagoon.example\n\nText',
    });
    expect(filedUnder(await decided('forwarded@quillmere.example', (it) => it.outcome === 'filed'))).toContain('deal Outer harbour');
  });

  test('used by someone outside files nothing: the email waits', async () => {
    putMail(stage.mailhost, filing, {
      id: 'stranger@lagoon.example',
      from: 'stranger@lagoon.example',
      to: dealAddress,
      subject: 'stranger',
      headers: `Delivered-To: ${dealAddress}`,
    });
    const item = await decided('stranger@lagoon.example', (it) => it.outcome === 'waiting');
    expect(item.filings).toEqual([]);
  });

  test('that no record has files nothing and asks', async () => {
    await send('nowhere@quillmere.example', { to: 'somebody@lagoon.example', bcc: 'filing+000000000000@quillmere.example' });
    const item = await decided('nowhere@quillmere.example', (it) => it.outcome === 'waiting');
    expect(item.filings).toEqual([]);
  });
});

describe('a folder that stands for a record', () => {
  test('files what is moved there, and only while it stands for it', async () => {
    const folders = (await get(routeTo('getMailbox', { id: repMailbox }))).folders as { id: number; path: string }[];
    const folder = folders.find((item) => item.path === 'Customers/Outer harbour');
    const settings = (fileAs: object | null) =>
      stage.server.call(routeTo('putMailboxSettings', { id: repMailbox }), {
        token: crew.tokens.rep,
        body: { folders: [{ id: folder?.id, fileAs }] },
      });
    expect((await settings({ target: 'deal', recordId: 999_999 })).json.error.message).toBe('There is no such deal.');
    // Nor is there one that the member does not see.
    const reach = (recordReach: string) => stage.server.call(routeTo('putWorkspace'), { token: crew.tokens.admin, body: { recordReach } });
    await owner(stage.server.ownerUrl, 'UPDATE deals SET owner_id = $1 WHERE id = $2', [crew.ids.other, other]);
    await reach('owner');
    expect((await settings({ target: 'deal', recordId: other })).json.error.message).toBe('There is no such deal.');
    await reach('all');
    await settings({ target: 'deal', recordId: other });
    putMail(
      stage.mailhost,
      rep,
      { id: 'moved@lagoon.example', from: 'who@lagoon.example', to: rep, subject: 'moved' },
      'Customers/Outer harbour',
    );
    const value = await decided('moved@lagoon.example', (it) => it.outcome === 'filed');
    expect(filedUnder(value)).toEqual(['deal Inner harbour']);
    expect(await because('moved@lagoon.example')).toContain(
      `rep person moved it to the folder Customers/Outer harbour of ${rep}, which stands for the deal Inner harbour.`,
    );
    await settings(null);
    expect((await decided('moved@lagoon.example', (it) => it.outcome === 'unfiled')).filings).toEqual([]);
  });

  test('“file this by the rules” takes in what the scope would leave loose', async () => {
    const rulebook = (await get(routeTo('getRulebook'), crew.tokens.admin)).document;
    await stage.server.call(routeTo('putRulebook'), {
      token: crew.tokens.admin,
      body: { ...rulebook, takeIn: { ...rulebook.takeIn, scope: 'byHand' } },
    });
    const folders = (await get(routeTo('getMailbox', { id: repMailbox }))).folders as { id: number; path: string }[];
    await stage.server.call(routeTo('putMailboxSettings', { id: repMailbox }), {
      token: crew.tokens.rep,
      body: { folders: [{ id: folders.find((folder) => folder.path === 'File it')?.id, fileAs: { target: 'rules' } }] },
    });
    const mail = { from: 'who@harbour.example', to: rep };
    putMail(stage.mailhost, rep, { ...mail, id: 'by-rules@harbour.example', subject: 'by-rules' }, 'File it');
    putMail(stage.mailhost, rep, { ...mail, id: 'left@harbour.example', subject: 'left' });
    expect(filedUnder(await decided('by-rules@harbour.example', (it) => it.outcome === 'filed'))).toEqual(['account Harbour Oriel']);
    expect((await decided('left@harbour.example', () => true)).outcome).toBe('unfiled');
  });
});
