import { CASES } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { routeTo } from '../testing/routeTo';
import { owner } from '../testing/testServer';
import { accountId, crew, IDA, rep, stage } from '../testing/writingStage';
import { subjectWith } from './recordNumbers';

describe('the subject of an answer', () => {
  test.each([
    ['Re: Gauges', ['CASE-1'], 'Re: Gauges [CASE-1]'],
    ['Re: Gauges [CASE-1]', ['CASE-1'], 'Re: Gauges [CASE-1]'],
    ['Re: case 1', ['CASE-1', 'PROJ-7'], 'Re: case 1 [PROJ-7]'],
    ['', ['CASE-1'], '[CASE-1]'],
    ['Re: Gauges', [], 'Re: Gauges'],
  ])('%s with %p', (subject, numbers, expected) => expect(subjectWith(subject, numbers)).toBe(expected));

  test('names the open record of an own kind under which the email stands, and no closed one', async () => {
    const [row] = await owner(stage.server.ownerUrl, `SELECT id FROM emails WHERE message_id = 'question@harbour.example'`);
    const emailId = Number(row?.id);
    await stage.server.call(routeTo('createOwnKind'), { token: crew.tokens.admin, body: CASES });
    const own = { kind: 'case', name: 'The gauge is late', people: [IDA.address] };
    const started = await rep(routeTo('repair'), { body: { emails: [emailId], reach: 'email', own } });
    const answer = async () => (await rep(routeTo('startOutgoing'), { body: { kind: 'answer', emailId } })).json.subject;
    expect(await answer()).toBe('Re: Gauge at quay 4 [CASE-1]');
    const [{ id }] = started.json.created;
    await rep(routeTo('editRecord', { kind: 'own', id }), { body: { values: { state: 'Solved' } } });
    expect(await answer()).toBe('Re: Gauge at quay 4');
  });

  test('follows the principal record of the answered email, and is forwarded with it', async () => {
    const [row] = await owner(stage.server.ownerUrl, `SELECT id FROM emails WHERE message_id = 'question@harbour.example'`);
    const emailId = Number(row?.id);
    await rep(routeTo('repair'), { body: { emails: [emailId], reach: 'onward', principal: { kind: 'account', id: accountId } } });
    for (const kind of ['answer', 'answer all', 'forward']) {
      const { filing } = (await rep(routeTo('startOutgoing'), { body: { kind, emailId } })).json;
      expect([kind, filing]).toMatchObject([kind, { how: 'records', records: [{ name: 'Morland Docks' }] }]);
    }
  });
});
