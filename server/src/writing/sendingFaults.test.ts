import { describe, expect, test } from '@jest/globals';
import { putMail, until } from '../testing/mailboxTools';
import { routeTo } from '../testing/routeTo';
import { owner } from '../testing/testServer';
import { contentOf, draft, IDA, outside, REP, rep, sendNow, sentFolder, stage } from '../testing/writingStage';

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

describe('an email that comes back', () => {
  const TOVE = { name: 'Tove Lund', address: 'tove@morland.example' };
  const report = (messageId: string, groups: readonly string[]): string =>
    [
      'From: MAILER-DAEMON@mx.harbour.example',
      `To: ${REP}`,
      'Subject: Undelivered Mail Returned to Sender',
      'MIME-Version: 1.0',
      'Content-Type: multipart/report; report-type=delivery-status; boundary="b"',
      '',
      '--b',
      'Content-Type: text/plain',
      '',
      'It could not be delivered.',
      '--b',
      'Content-Type: message/delivery-status',
      '',
      'Reporting-MTA: dns; mx.harbour.example',
      '',
      groups.join('\r\n\r\n'),
      '',
      '--b',
      'Content-Type: message/rfc822',
      '',
      `Message-ID: <${messageId}>`,
      '',
      'x',
      '--b--',
      '',
    ].join('\r\n');
  const failed = (address: string, code: string, said: string): string =>
    `Final-Recipient: rfc822; ${address}\r\nAction: failed\r\nStatus: ${code}\r\nDiagnostic-Code: smtp; ${said}`;

  test('says of each recipient why, in words, once; a report about another recipient or another email changes nothing', async () => {
    const sent = await sendNow(await draft({ to: [IDA], cc: [TOVE], subject: 'Comes back', html: '<p>x</p>' }));
    const [row] = await owner(stage.server.ownerUrl, 'SELECT message_id FROM outgoing WHERE id = $1', [sent.id]);
    const messageId = String(row?.message_id);
    const look = async () => (await rep(routeTo('getOutgoing', { id: sent.id }))).json;
    const come = async (mail: string): Promise<void> => {
      const reports = (): Promise<Record<string, unknown>[]> =>
        owner(stage.server.ownerUrl, `SELECT id FROM emails WHERE mail_class = 'bounce' AND decided_at IS NOT NULL`);
      const before = (await reports()).length;
      putMail(stage.mailhost, REP, mail);
      await until(reports, (rows) => rows.length > before);
    };
    await come(report(messageId, [failed('kim@nowhere.example', '5.2.2', '552 full')]));
    await come(report('other@quillmere.example', [failed(IDA.address, '5.2.2', '552 full')]));
    expect((await look()).state).toBe('sent');
    await come(report(messageId, [failed('Ida@Harbour.example', '5.2.2', '552 5.2.2 Over quota')]));
    const first = 'It came back. ida@harbour.example: the mailbox is full. The server said: “552 5.2.2 Over quota”';
    expect(await look()).toMatchObject({ state: 'bounced', problem: first });
    const second = `${first} tove@morland.example: there is no such address. The server said: “550 User unknown”`;
    for (let twice = 0; twice < 2; twice += 1) {
      // Another copy of it is another email.
      await come(report(messageId, [failed(TOVE.address, '5.1.1', '550 User unknown')]).replace('to Sender', `to Sender ${twice}`));
      expect(await look()).toMatchObject({ state: 'bounced', problem: second });
    }
    const next = await draft({ to: [IDA], subject: 'Again' });
    const { warnings } = (await rep(routeTo('previewOutgoing', { id: next.id }))).json;
    expect(warnings.map(({ code }: { code: string }) => code)).toContain('bounced');
  });
});
