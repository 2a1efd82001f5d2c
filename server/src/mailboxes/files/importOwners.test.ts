import { routeTo } from '../../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { resetReaders } from '../../emails/owners';
import type { Crew, TestServer } from '../../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../../testing/testServer';

let server: TestServer;
let crew: Crew;
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

/** A mailbox of this kind that a rep looks after, with another user. */
async function mailboxOf(kind: string, address: string): Promise<number> {
  const [box] = await owner(server.ownerUrl, `INSERT INTO mailboxes (address, kind, owner_id) VALUES ($1, $2, $3) RETURNING id::int`, [
    address,
    kind,
    crew.ids.rep,
  ]);
  const id = Number(box?.id);
  await owner(server.ownerUrl, 'INSERT INTO mailbox_users (mailbox_id, user_id) VALUES ($1, $2)', [id, crew.ids.other]);
  return id;
}

const ownersOf = async (messageId: string): Promise<number[]> => {
  const [row] = await owner(server.ownerUrl, 'SELECT owner_ids::int[] AS owners FROM emails WHERE message_id = $1', [messageId]);
  return [...(row?.owners as number[])].sort((first, second) => first - second);
};

test('mail that is imported into a mailbox of several users is read by all of them, like mail that came in by itself', async () => {
  const id = await mailboxOf('shared', 'sales@quillmere.example');
  await importMail(server, crew.tokens.rep, 'sales@quillmere.example', {
    'shared.mbox': mbox([{ id: 'shared-in', from: 'ida@harbour.example', to: 'sales@quillmere.example', subject: 'To all of us' }]),
  });
  expect(await ownersOf('shared-in')).toEqual([crew.ids.rep, crew.ids.other].sort((first, second) => first - second));
  const [email] = (await server.call(routeTo('listEmails'), { token: crew.tokens.other })).json.emails;
  expect(email.content.subject).toBe('To all of us');
  expect(await resetReaders(server.services.database.worker, id)).toBe(0);
});

test('what is imported into a filing address is its sender’s, and of whom looks after it where that is no member', async () => {
  const id = await mailboxOf('filing', 'file@quillmere.example');
  await owner(server.ownerUrl, 'DELETE FROM mailbox_users WHERE mailbox_id = $1', [id]);
  await importMail(server, crew.tokens.rep, 'file@quillmere.example', {
    'filing.mbox': mbox([
      { id: 'by-other', from: 'other@quillmere.example', to: 'file@quillmere.example', subject: 'Sent on' },
      { id: 'by-nobody', from: 'ida@harbour.example', to: 'file@quillmere.example', subject: 'Strayed' },
    ]),
  });
  expect(await ownersOf('by-other')).toEqual([crew.ids.other]);
  expect(await ownersOf('by-nobody')).toEqual([crew.ids.rep]);
  expect(await resetReaders(server.services.database.worker, id)).toBe(0);
});
