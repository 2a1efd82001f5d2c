import { startMailhost } from '@fulvet/mailhost';
import type { Mailhost } from '@fulvet/mailhost';
import { afterAll, beforeAll } from '@jest/globals';
import { connect, inStep, MAIL_PASSWORD, mailOptions, putMail, until } from '../../../server/src/testing/mailboxTools';
import { routeTo } from '../../../server/src/testing/routeTo';
import type { Answer, Crew } from '../../../server/src/testing/testServer';
import { changeRulebook, owner, PASSWORD, setUpCrew } from '../../../server/src/testing/testServer';
import type { Stage } from '../browser';
import { openStage, signInAs } from '../browser';

// A rep with a connected mailbox and two contacts, in a browser: for the tests of writing.

export const REP = 'rep@quillmere.example';
export let mailhost: Mailhost;
export let stage: Stage;
export let crew: Crew;
export let contactId = 0;

beforeAll(async () => {
  mailhost = await startMailhost();
  stage = await openStage({ demo: false, server: await mailOptions(mailhost) });
  const { server } = stage;
  crew = await setUpCrew(server);
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await server.call(routeTo('importRecords', { kind: 'contact' }), {
    token: crew.tokens.admin,
    body: { text: 'name,emails\nIda Brandt,ida@harbour.example\nTove Lund,tove@morland.example\n' },
  });
  mailhost.store.addAccount(REP, MAIL_PASSWORD);
  putMail(mailhost, REP, {
    id: 'q@harbour.example',
    from: 'Ida Brandt <ida@harbour.example>',
    to: REP,
    subject: 'Gauge at quay 4',
    text: 'When?',
  });
  const connected = { mailhost, server, close: () => Promise.resolve() };
  await inStep(connected, crew.tokens.rep, await connect(connected, { token: crew.tokens.rep, address: REP }));
  const [contact] = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Ida Brandt'`);
  contactId = Number(contact?.id);
  await signInAs(stage.page, server.url, REP, PASSWORD);
}, 240_000);
afterAll(async () => {
  await stage.close();
  await mailhost.stop();
});

/** What can be taken back goes out now. */
export async function hurry(): Promise<void> {
  const { ownerUrl } = stage.server;
  await until(
    () => owner(ownerUrl, `UPDATE outgoing SET due_at = now() WHERE state = 'due' RETURNING id`),
    (rows) => rows.length > 0,
  );
  await owner(ownerUrl, `SELECT pg_notify('fulvet_changes', '{"kind":"work","queue":"outgoing"}')`);
}

export const good = ({ status, json, text }: Answer): Answer['json'] => {
  if (status !== 200) throw new Error(text);
  return json;
};

export const received = (subject: string) =>
  until(
    () => Promise.resolve(mailhost.delivery.outside.filter((mail) => mail.subject === subject)),
    (mails) => mails.length > 0,
  );

/** Puts the keyboard on a control, as Tab does. */
export const reach = (selector: string): Promise<void> =>
  stage.page
    .locator(selector)
    .setTimeout(10_000)
    .waitHandle()
    .then((found) => found.evaluate((element) => (element as HTMLElement).focus()));
