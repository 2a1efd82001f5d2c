import { expect, test } from '@jest/globals';
import { RULES } from '@fulvet/core';
import { routeTo } from '../testing/routeTo';
import { crew, day, emailOf, idOf, mail, recordId, rep, server, settled, US } from '../testing/repairStage';
import { importMail, mbox } from '../testing/testServer';

const filings = async (messageId: string): Promise<string[]> =>
  (await emailOf(messageId)).filings.map(
    ({ name, rule }: { name: string; rule: string }) => `${name}${rule === RULES.principal ? ' (principal)' : ''}`,
  );
const make = async (messageId: string, deal: string) =>
  rep(routeTo('repair'), {
    emails: [await idOf(messageId)],
    reach: 'onward',
    principal: { kind: 'deal', id: await recordId('deal', deal) },
  });

test('the principal record is shown first, and answers and forwards follow it, whoever takes part', async () => {
  const before = await filings('first');
  const made = await make('first', 'Outer harbour');
  expect(made.json.summary).toBe('Made the deal Outer harbour the principal record of an email and what follows');
  await importMail(server, crew.tokens.admin, US, {
    'more.mbox': mbox([
      mail('forwarded', { from: US, to: 'kim@elsewhere.example', references: '<first>', subject: 'Fwd: first', date: day(9) }),
      mail('by-kim', { from: 'kim@elsewhere.example', references: '<forwarded>', subject: 'AW: Fwd: first', date: day(10) }),
    ]),
  });
  await settled();
  for (const id of ['first', 'second', 'third', 'forwarded', 'by-kim'])
    expect([id, (await filings(id))[0]]).toEqual([id, 'Outer harbour (principal)']);
  expect((await filings('alone')).join()).not.toContain('principal');
  expect(JSON.stringify(await emailOf('second'))).toContain('made the deal Outer harbour the principal record of this and later emails');

  // One at a time: the one before stays where it is, as any record does.
  const other = await make('second', 'Inner basin');
  expect((await filings('second')).slice(0, 1)).toEqual(['Inner basin (principal)']);
  expect(await filings('second')).toContain('Outer harbour');
  expect((await filings('first'))[0]).toBe('Outer harbour (principal)');

  for (const { json } of [other, made]) expect((await rep(routeTo('undoRepair', { id: json.id }))).status).toBe(200);
  await settled();
  expect(await filings('first')).toEqual(before);
  expect((await filings('forwarded')).join()).not.toContain('Outer harbour');
});

test('a record that is not there is refused', async () => {
  const refused = await rep(routeTo('repair'), { emails: [await idOf('first')], principal: { kind: 'deal', id: 999_999 } });
  expect([refused.status, refused.json.error.code]).toEqual([404, 'not-found']);
});
