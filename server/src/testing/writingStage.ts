import { afterAll, afterEach, beforeAll } from '@jest/globals';
import { connect, inStep, MAIL_PASSWORD, openMailStage, putMail, until } from './mailboxTools';
import type { MailStage } from './mailboxTools';
import { routeTo } from './routeTo';
import type { Answer, Crew } from './testServer';
import { changeRulebook, owner, setUpCrew } from './testServer';

// A rep with a connected mailbox at the stand-in provider, and tools to write from it: for the tests of writing.

export const REP = 'rep@quillmere.example';
export const IDA = { name: 'Ida Brandt', address: 'ida@harbour.example' };
export let stage: MailStage;
export let crew: Crew;
export let mailboxId = 0;
export let accountId = 0;

beforeAll(async () => {
  stage = await openMailStage();
  crew = await setUpCrew(stage.server);
  const admin = { token: crew.tokens.admin };
  await stage.server.call(routeTo('importRecords', { kind: 'account' }), {
    ...admin,
    body: { text: 'name,domains\nHarbour Works,harbour.example\nMorland Docks,morland.example\n' },
  });
  await stage.server.call(routeTo('importRecords', { kind: 'contact' }), {
    ...admin,
    body: { text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Works\nTove Lund,tove@morland.example,Morland Docks\n' },
  });
  await changeRulebook(stage.server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  stage.mailhost.store.addAccount(REP, MAIL_PASSWORD);
  putMail(stage.mailhost, REP, {
    id: 'question@harbour.example',
    from: 'Ida Brandt <ida@harbour.example>',
    to: `Rep <${REP}>`,
    cc: 'Finn <finn@harbour.example>, kim@quillmere.example',
    subject: 'Gauge at quay 4',
    references: '<first@harbour.example>',
    date: new Date(Date.now() - 3_600_000).toUTCString(),
    text: 'When does the gauge come?\n\nIda',
  });
  mailboxId = await connect(stage, { token: crew.tokens.rep, address: REP });
  await inStep(stage, crew.tokens.rep, mailboxId);
  const [account] = await owner(stage.server.ownerUrl, `SELECT id FROM accounts WHERE name = 'Morland Docks'`);
  accountId = Number(account?.id);
}, 120_000);
// Dropping a database waits for the disk.
afterAll(() => stage.close(), 180_000);
afterEach(() => stage.mailhost.faults.clear());

type Options = NonNullable<Parameters<MailStage['server']['call']>[1]>;
export const rep = async (target: ReturnType<typeof routeTo>, options: Options = {}): Promise<Answer> =>
  stage.server.call(target, { token: crew.tokens.rep, ...options });

export async function draft(change: object = {}, start: object = {}): Promise<Answer['json']> {
  const { json: begun, status, text } = await rep(routeTo('startOutgoing'), { body: start });
  if (status !== 200) throw new Error(text);
  const saved = await rep(routeTo('saveOutgoing', { id: begun.id }), { body: contentOf(begun, change) });
  if (saved.status !== 200) throw new Error(saved.text);
  return saved.json;
}

const KEPT = [
  'revision',
  'mailboxId',
  'fromAddress',
  'withSignature',
  'to',
  'cc',
  'bcc',
  'subject',
  'html',
  'withQuote',
  'remindDays',
  'measured',
];

export const contentOf = (email: Answer['json'], change: object): object => ({
  ...Object.fromEntries(KEPT.map((key) => [key, email[key]])),
  filing: { how: email.filing.how, records: email.filing.records.map(({ kind, id }: { kind: string; id: number }) => ({ kind, id })) },
  ...change,
});

/** Sends, and does not wait the seconds in which it could be taken back. */
export async function sendNow({ id, revision }: { id: number; revision: number }, states = ['sent']): Promise<Answer['json']> {
  const sent = await rep(routeTo('sendOutgoing', { id }), { body: { revision } });
  if (sent.status !== 200) throw new Error(sent.text);
  await owner(stage.server.ownerUrl, 'UPDATE outgoing SET due_at = now() WHERE id = $1', [id]);
  await owner(stage.server.ownerUrl, `SELECT pg_notify('fulvet_changes', '{"kind":"work","queue":"outgoing"}')`);
  return until(
    async () => (await rep(routeTo('getOutgoing', { id }))).json,
    (email) => states.includes(email.state) && (email.state !== 'sent' || email.html === ''),
  );
}

export const sentFolder = () => stage.mailhost.store.accounts.get(REP)?.folders.get('Sent')?.messages ?? [];
export const outside = (subject: string) => stage.mailhost.delivery.outside.filter((mail) => mail.subject === subject);
