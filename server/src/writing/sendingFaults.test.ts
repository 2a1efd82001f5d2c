import { describe, expect, test } from '@jest/globals';
import { until } from '../testing/mailboxTools';
import { routeTo } from '../testing/routeTo';
import { contentOf, draft, IDA, outside, rep, sendNow, sentFolder, stage } from '../testing/writingStage';

describe('where the mail server', () => {
  test('refuses it, it says why, and the email can be changed and sent again', async () => {
    stage.mailhost.faults.set({ refuseContent: true });
    const refused = await sendNow(await draft({ to: [IDA], subject: 'Refused first', html: '<p>x</p>' }), ['refused']);
    expect(refused.problem).toContain('This email is not taken');
    stage.mailhost.faults.clear();
    await sendNow((await rep(routeTo('saveOutgoing', { id: refused.id }), { body: contentOf(refused, {}) })).json);
    expect(outside('Refused first')).toHaveLength(1);
  });

  test('closes the connection before it answers, the sent folder tells', async () => {
    stage.mailhost.faults.set({ loseAnswer: true });
    const email = await draft({ to: [IDA], subject: 'Answer lost', html: '<p>x</p>' });
    expect((await sendNow(email, ['sent', 'unclear'])).state).toBe('sent');
    expect(outside('Answer lost')).toHaveLength(1);
    expect(sentFolder().filter(({ raw }) => raw.includes('Answer lost'))).toHaveLength(1);
  });

  test('closes it and keeps no copy, its writer is asked, and it is never sent by itself', async () => {
    stage.mailhost.faults.set({ loseAnswer: true, keepNoCopy: true });
    const email = await draft({ to: [IDA], subject: 'Nothing is known', html: '<p>x</p>' });
    const unclear = await sendNow(email, ['sent', 'unclear']);
    expect(unclear.state).toBe('unclear');
    stage.mailhost.faults.clear();
    const settled = await rep(routeTo('settleOutgoing', { id: email.id }), { body: { wasSent: true } });
    expect(settled.json.state).toBe('sent');
    await until(
      async () => sentFolder().filter(({ raw }) => raw.includes('Nothing is known')).length,
      (copies) => copies === 1,
    );
    expect(outside('Nothing is known')).toHaveLength(1);
  });
});
