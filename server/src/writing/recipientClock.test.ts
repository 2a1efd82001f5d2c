import { expect, test } from '@jest/globals';
import { good } from '../testing/documentTools';
import { inStep, putMail, until } from '../testing/mailboxTools';
import { routeTo } from '../testing/routeTo';
import { owner } from '../testing/testServer';
import { crew, draft, mailboxId, REP, rep, stage } from '../testing/writingStage';

const RAVI = { name: 'Ravi Sen', address: 'ravi@far.example' };

async function writes(id: string, date: string): Promise<void> {
  putMail(stage.mailhost, REP, { id, from: 'Ravi Sen <ravi@far.example>', to: REP, subject: 'Hello', date, text: 'x' });
  await inStep(stage, crew.tokens.rep, mailboxId);
  await until(
    () => owner(stage.server.ownerUrl, 'SELECT FROM emails WHERE message_id = $1 AND decided_at IS NOT NULL', [id]),
    (rows) => rows.length === 1,
  );
}

test('the clock of a recipient is that of the last email that they wrote by a clock of their own', async () => {
  const { id } = await draft({ to: [RAVI] });
  const clock = async (): Promise<unknown> => good(await rep(routeTo('getRecipientClock', { id }))).clock;
  expect(await clock()).toBeNull();
  await writes('first@far.example', 'Mon, 2 Nov 2026 10:00:00 +0100');
  await writes('second@far.example', 'Mon, 9 Nov 2026 10:00:00 +0530');
  // A web mail that dates by UTC says nothing of where they are.
  await writes('third@far.example', 'Mon, 16 Nov 2026 10:00:00 +0000');
  expect(await clock()).toEqual({ offsetMinutes: 330, at: '2026-11-09T04:30:00.000Z', name: 'Ravi Sen' });
  for (const token of [crew.tokens.other, crew.tokens.admin])
    expect((await stage.server.call(routeTo('getRecipientClock', { id }), { token })).status).toBe(404);
  expect(good(await rep(routeTo('getRecipientClock', { id: (await draft()).id }))).clock).toBeNull();
});
