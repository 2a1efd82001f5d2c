import { routeTo } from '../testing/routeTo';
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { changeRulebook, decideAll, importMail, mbox, owner } from '../testing/testServer';
import { server, crew, rep, US, mail, day, idOf } from '../testing/repairStage';
import { recordId, settled } from '../testing/repairStage';

test('a word about a conversation reaches no further into a colleague’s mailbox', async () => {
  const OTHER = 'other@quillmere.example';
  await importMail(server, crew.tokens.admin, US, {
    'shared.mbox': mbox([mail('shared', { date: day(9), from: 'Zed <zed@stranger.example>' })]),
  });
  await importMail(server, crew.tokens.admin, OTHER, {
    'theirs.mbox': mbox([{ ...mail('theirs', { date: day(10), from: 'Zed <zed@stranger.example>', references: '<shared>' }), to: OTHER }]),
  });
  const account = await recordId('account', 'Tidewise');
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.takeIn.scope = 'byHand'));
  await decideAll(server, crew.tokens.admin);
  const outcomes = () =>
    owner(server.ownerUrl, `SELECT message_id, outcome, visibility FROM emails WHERE message_id IN ('shared', 'theirs') ORDER BY 1`);
  const done = await rep(routeTo('repair'), {
    emails: [await idOf('shared')],
    reach: 'conversation',
    file: [{ kind: 'account', id: account }],
  });
  expect(await outcomes()).toEqual([
    { message_id: 'shared', outcome: 'filed', visibility: 'everyone' },
    { message_id: 'theirs', outcome: 'unfiled', visibility: 'owner' },
  ]);
  await rep(routeTo('undoRepair', { id: done.json.id }));
  const seal = await rep(routeTo('repair'), { emails: [await idOf('shared')], reach: 'conversation', seal: true });
  expect((await outcomes()).map((outcome) => outcome.outcome)).toEqual(['sealed', 'unfiled']);
  await rep(routeTo('undoRepair', { id: seal.json.id }));
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.takeIn.scope = 'external'));
  await decideAll(server, crew.tokens.admin);
}, 30_000);

test('a deal that a conversation leaves no longer counts as written about, for the emails decided together with it', async () => {
  const before = await settled();
  const filed = await rep(routeTo('repair'), {
    emails: [await idOf('second'), await idOf('alone')],
    reach: 'onward',
    file: [{ kind: 'deal', id: await recordId('deal', 'Inner basin') }],
  });
  await rep(routeTo('undoRepair', { id: filed.json.id }));
  expect(await settled()).toEqual(before);
});

test('any repairs, undone in any order, leave everything as it stood; decided again in between, nothing changes', async () => {
  const before = await settled();
  const messages = ['first', 'second', 'third', 'alone', 'other-1', 'reef'];
  const emails = Object.fromEntries(await Promise.all(messages.map(async (message) => [message, await idOf(message)] as const)));
  const records = await Promise.all(
    [
      ['deal', 'Outer harbour'],
      ['deal', 'Inner basin'],
      ['account', 'Tidewise'],
      ['account', 'Harbour Oriel'],
      ['contact', 'Ida Brandt'],
    ].map(async ([kind = '', name = '']) => ({ kind, id: await recordId(kind, name) })),
  );
  const deed = fc.oneof(
    fc.constantFrom(...records).map((item) => ({ file: [item] })),
    fc.constantFrom(...records).map((item) => ({ takeOff: [item] })),
    fc.constantFrom('deal', 'account', null).map((kind) => ({ takeOff: [{ kind, id: null }] })),
    fc.constantFrom({ settle: true }, { seal: true }),
  );
  const repairs = fc.array(
    fc.record({
      emails: fc.uniqueArray(fc.constantFrom(...messages), { minLength: 1, maxLength: 3 }),
      reach: fc.constantFrom('email', 'onward', 'soFar', 'conversation'),
      deed,
      back: fc.nat(),
    }),
    { minLength: 1, maxLength: 5 },
  );
  await fc.assert(
    fc.asyncProperty(repairs, async (all) => {
      const made: { id: number; back: number }[] = [];
      for (const item of all) {
        const done = await rep(routeTo('repair'), { emails: item.emails.map((name) => emails[name]), reach: item.reach, ...item.deed });
        expect(done.status).toBe(200);
        made.push({ id: done.json.id, back: item.back });
      }
      const repaired = await settled();
      await decideAll(server, crew.tokens.admin);
      expect(await settled()).toEqual(repaired);
      for (const { id } of made.sort((first, second) => first.back - second.back))
        expect((await rep(routeTo('undoRepair', { id }))).status).toBe(200);
      expect(await settled()).toEqual(before);
    }),
    { numRuns: 8 },
  );
}, 120_000);
