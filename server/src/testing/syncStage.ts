import type { Destination } from './routeTo';
import { afterAll, afterEach, beforeAll, expect } from '@jest/globals';
import type { MailStage } from './mailboxTools';
import { connect, inStep, MAIL_PASSWORD, openMailStage, putMail, storedOf, until } from './mailboxTools';
import type { Answer, Crew } from './testServer';
import { changeRulebook, owner, setUpCrew } from './testServer';

// Two mailboxes at the stand-in provider, connected, for the tests of staying in step: they start before the first of them.

export let stage: MailStage;
export let crew: Crew;
export const rep = 'rep@quillmere.example';
export const other = 'other@quillmere.example';
export let repId = 0;
export let otherId = 0;
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
// Dropping a database waits for the disk.
afterAll(() => stage.close(), 180_000);
afterEach(() => stage.mailhost.faults.clear());
export function incoming(id: string, path = 'INBOX', at = new Date(), more: { from?: string; subject?: string } = {}): number {
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
export const ids = async (address = rep): Promise<string[]> => (await storedOf(stage.server, address)).map((item) => item.id);
export const stored = (id: string, address = rep): Promise<string[]> =>
  until(
    () => ids(address),
    (all) => all.includes(`${id}@harbour.example`),
  );
export const get = async (target: Destination, token = crew.tokens.rep): Promise<Answer['json']> =>
  (await stage.server.call(target, { token })).json;
export const account = (address = rep) => {
  const found = stage.mailhost.store.accounts.get(address);
  if (!found) throw new Error(`no account ${address}`);
  return found;
};
/** No email is stored twice: each Message-ID once, with one sighting a folder. */
export async function nothingTwice(): Promise<void> {
  const rows = await owner(
    stage.server.ownerUrl,
    `SELECT message_id, count(*)::int FROM emails WHERE message_id IS NOT NULL GROUP BY 1 HAVING count(*) > 1`,
  );
  expect(rows).toEqual([]);
}
