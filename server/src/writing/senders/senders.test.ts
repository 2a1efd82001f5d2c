import { describe, expect, test } from '@jest/globals';
import { until } from '../../testing/mailboxTools';
import { routeTo } from '../../testing/routeTo';
import type { Answer } from '../../testing/testServer';
import { makeToken, owner } from '../../testing/testServer';
import { contentOf, crew, draft, IDA, mailboxId, outside, rep, REP, sendNow, stage } from '../../testing/writingStage';

const ALIAS = 'gauges@quillmere.example';
const place = { mailboxId: 0, address: ALIAS };
const codeIn = (mail: { text: string } | undefined): string => /code is (\d{6})/.exec(mail?.text ?? '')?.[1] ?? '';
const codes = () => stage.mailhost.delivery.outside.filter(({ to, subject }) => to === ALIAS && subject.startsWith('Code'));
const askForCode = (): Promise<Answer> => rep(routeTo('sendSenderCode'), { body: place });
const confirm = (code: string, token = crew.tokens.rep): Promise<Answer> =>
  stage.server.call(routeTo('confirmSender'), { token, body: { ...place, code } });
const sentAMinuteAgo = () => owner(stage.server.ownerUrl, `UPDATE senders SET code_sent_at = now() - interval '2 minutes'`);
const from = (json: Answer['json']) => json.senders.find(({ address }: { address: string }) => address === ALIAS);

describe('an alias', () => {
  test('is sent from once its owner has read there the code that was sent to it', async () => {
    place.mailboxId = mailboxId;
    expect((await askForCode()).json.error.code).toBe('not-your-mailbox');
    await rep(routeTo('putMailboxSettings', { id: mailboxId }), { body: { aliases: [ALIAS] } });
    expect(from((await rep(routeTo('listSenders'))).json)).toMatchObject({ isAlias: true, isProven: false });
    const email = await draft({ to: [IDA], subject: 'As another', html: '<p>Hello</p>' });
    const refused = await rep(routeTo('saveOutgoing', { id: email.id }), { body: contentOf(email, { fromAddress: ALIAS }) });
    expect([refused.status, refused.json.error.code]).toEqual([403, 'not-your-mailbox']);

    expect((await askForCode()).status).toBe(200);
    const code = codeIn(
      await until(
        async () => codes()[0],
        (mail) => mail !== undefined,
      ),
    );
    expect(code).toMatch(/^\d{6}$/);
    expect((await askForCode()).json.error.code).toBe('too-many-attempts');
    expect((await confirm(code, crew.tokens.other)).json.error.code).toBe('not-your-mailbox');
    const wrong = code === '000000' ? '000001' : '000000';
    expect((await confirm(wrong)).json.error).toMatchObject({ code: 'wrong-code', message: expect.stringContaining('is wrong') });
    expect(from((await confirm(code)).json)).toMatchObject({ isProven: true, codeSentAt: null });

    const { json: saved } = await rep(routeTo('saveOutgoing', { id: email.id }), { body: contentOf(email, { fromAddress: ALIAS }) });
    await rep(routeTo('saveSender'), {
      body: { ...place, name: 'Gauges team', signature: '<p>{{sender.name}}, {{sender.email}}<script>x</script></p>' },
    });
    const sent = await sendNow(saved);
    expect(sent).toMatchObject({ state: 'sent', from: ALIAS });
    const [mail] = outside('As another');
    expect(mail?.from).toBe(`Gauges team <${ALIAS}>`);
    expect(mail?.text).toContain(`Gauges team, ${ALIAS}`);
    expect(mail?.text).not.toContain('script');
    const [filed] = await owner(stage.server.ownerUrl, 'SELECT direction FROM emails WHERE id = $1', [sent.emailId]);
    expect(filed).toEqual({ direction: 'sent' });
  });

  test('that was written to is the one that answers, and is no recipient', async () => {
    const [asked] = await owner(
      stage.server.ownerUrl,
      `UPDATE participants SET address = $1 WHERE role = 'to' AND email_id = (SELECT id FROM emails WHERE message_id = 'question@harbour.example') RETURNING email_id::int`,
      [ALIAS],
    );
    const answer = (await rep(routeTo('startOutgoing'), { body: { kind: 'answer all', emailId: asked?.email_id } })).json;
    expect(answer).toMatchObject({ from: ALIAS, fromAddress: ALIAS });
    expect([...answer.to, ...answer.cc].map(({ address }: { address: string }) => address)).not.toContain(ALIAS);
  });

  test('is not sent from when its mailbox has it no more, though the email was due', async () => {
    const email = await draft({ to: [IDA], subject: 'Alias is gone', fromAddress: ALIAS });
    await rep(routeTo('sendOutgoing', { id: email.id }), { body: { revision: email.revision } });
    await rep(routeTo('putMailboxSettings', { id: mailboxId }), { body: { aliases: [] } });
    await owner(stage.server.ownerUrl, 'UPDATE outgoing SET due_at = now() WHERE id = $1', [email.id]);
    await owner(stage.server.ownerUrl, `SELECT pg_notify('fulvet_changes', '{"kind":"work","queue":"outgoing"}')`);
    const refused = await until(
      async () => (await rep(routeTo('getOutgoing', { id: email.id }))).json,
      ({ state }) => state === 'refused',
    );
    expect(refused.problem).toContain(`may not send from ${ALIAS}`);
    expect(outside('Alias is gone')).toEqual([]);
    await rep(routeTo('putMailboxSettings', { id: mailboxId }), { body: { aliases: [ALIAS] } });
  });

  test('is not proven by guessing, by an old code, or by a token that may not send', async () => {
    await owner(stage.server.ownerUrl, 'UPDATE senders SET proven_at = NULL');
    await sentAMinuteAgo();
    const { token } = (await makeToken(stage.server, REP)).json;
    expect((await stage.server.call(routeTo('sendSenderCode'), { token, body: place })).json.error.code).toBe('token-scope');
    const before = codes().length;
    await askForCode();
    const code = codeIn(
      await until(
        async () => codes()[before],
        (mail) => mail !== undefined,
      ),
    );
    for (let guess = 0; guess < 5; guess += 1) await confirm(code === `00000${guess}` ? '000009' : `00000${guess}`);
    expect((await confirm(code)).json.error.message).toContain('does not count any more');
    await owner(stage.server.ownerUrl, `UPDATE senders SET code_tries = 0, code_sent_at = now() - interval '31 minutes'`);
    expect((await confirm(code)).json.error.message).toContain('does not count any more');
    expect(from((await rep(routeTo('listSenders'))).json).isProven).toBe(false);
  });

  test('whose code the mail server does not take stays as it was, and says why', async () => {
    await sentAMinuteAgo();
    stage.mailhost.faults.set({ refuseContent: true } as never);
    const refused = await askForCode();
    expect([refused.status, refused.json.error.code]).toEqual([502, 'not-sent']);
    stage.mailhost.faults.clear();
    expect((await askForCode()).status).toBe(200);
  });
});

describe('a signature', () => {
  test('stands between the text and what is quoted; its writer can leave it out', async () => {
    await rep(routeTo('saveSender'), {
      body: { mailboxId, address: REP, name: '', signature: '<p>Rep of {{sender.name}}{{no.such}}</p>' },
    });
    const withIt = await draft({ to: [IDA], subject: 'Signed', html: '<p>Text</p>' });
    await sendNow(withIt);
    expect(outside('Signed')[0]?.text.replace(/\s+/g, ' ')).toContain('Text -- Rep of rep person ');
    await sendNow(await draft({ to: [IDA], subject: 'Unsigned', html: '<p>Text</p>', withSignature: false }));
    expect(outside('Unsigned')[0]?.text).not.toContain('Rep of');
  });

  test('an email with a field that is not filled is not sent', async () => {
    const email = await draft({ to: [IDA], subject: 'Gauge for {{account.name}}', html: '<p>Dear {{person.firstName}},</p>' });
    const refused = await rep(routeTo('sendOutgoing', { id: email.id }), { body: { revision: email.revision } });
    expect([refused.status, refused.json.error.code]).toEqual([422, 'empty-field']);
    expect(refused.json.error.message).toContain('account.name, person.firstName');
  });
});
