import { describe, expect, test } from '@jest/globals';
import { inStep, putMail, until } from '../testing/mailboxTools';
import { routeTo } from '../testing/routeTo';
import { owner } from '../testing/testServer';
import { accountId, contentOf, crew, draft, IDA, mailboxId, outside, rep, REP, sendNow, sentFolder, stage } from '../testing/writingStage';

describe('an email that is written here', () => {
  test('goes out once, is kept in the sent folder once, and is filed under the record from which it was written', async () => {
    const email = await draft(
      {
        to: [IDA],
        bcc: [{ name: '', address: 'kim@quillmere.example' }],
        subject: 'A new quay',
        html: '<p>Dear Ida,</p><p><strong>Hello</strong>.</p>',
      },
      { record: { kind: 'account', id: accountId } },
    );
    const sent = await sendNow(email);
    expect(sent).toMatchObject({ state: 'sent', problem: '' });
    expect(
      outside('A new quay')
        .map(({ to }) => to)
        .sort(),
    ).toEqual(['ida@harbour.example', 'kim@quillmere.example']);
    const [mail] = outside('A new quay');
    expect(mail?.from).toBe(`rep person <${REP}>`);
    expect(mail?.text).toContain('Hello.');
    const copies = sentFolder().filter(({ raw }) => raw.includes('A new quay'));
    expect(copies).toHaveLength(1);
    const detail = (await rep(routeTo('getEmail', { id: sent.emailId }))).json;
    expect(detail.filings.map(({ kind, name }: { kind: string; name: string }) => `${kind} ${name}`).sort()).toEqual([
      'account Harbour Works',
      'account Morland Docks',
      'contact Ida Brandt',
    ]);
    // Reading the mailbox finds it known.
    await inStep(stage, crew.tokens.rep, mailboxId);
    const rows = await owner(
      stage.server.ownerUrl,
      `SELECT id FROM emails WHERE message_id = (SELECT message_id FROM outgoing WHERE id = $1)`,
      [email.id],
    );
    expect(rows).toHaveLength(1);
  });

  test('stands in the sent folder where the provider keeps no copy, with its blind copies, which no one else gets', async () => {
    stage.mailhost.faults.set({ keepNoCopy: true });
    await sendNow(
      await draft({ to: [IDA], bcc: [{ name: 'Tove', address: 'tove@morland.example' }], subject: 'Our own copy', html: '<p>Hello</p>' }),
    );
    const copies = sentFolder().filter(({ raw }) => raw.includes('Our own copy'));
    expect(copies).toHaveLength(1);
    expect(copies[0]?.raw.toString()).toContain('Bcc: Tove <tove@morland.example>');
    expect(
      outside('Our own copy')
        .map(({ to }) => to)
        .sort(),
    ).toEqual(['ida@harbour.example', 'tove@morland.example']);
  });

  test('is filed under no record where its writer says so', async () => {
    const email = await draft({ to: [IDA], subject: 'Lunch', html: '<p>Lunch?</p>', filing: { how: 'none', records: [] } });
    const preview = (await rep(routeTo('previewOutgoing', { id: email.id }))).json;
    expect(preview.sentence).toBe('It will not be filed under a record.');
    const { emailId } = await sendNow(email);
    expect((await rep(routeTo('getEmail', { id: emailId }))).json.filings).toEqual([]);
  });

  test('can be taken back for some seconds, and not later', async () => {
    const email = await draft({ to: [IDA], subject: 'Too early', html: '<p>Wait</p>' });
    const sent = (await rep(routeTo('sendOutgoing', { id: email.id }), { body: { revision: email.revision } })).json;
    expect(Date.parse(sent.dueAt) - Date.now()).toBeGreaterThan(5000);
    expect((await rep(routeTo('takeBackOutgoing', { id: email.id }))).json.state).toBe('draft');
    const again = await sendNow((await rep(routeTo('getOutgoing', { id: email.id }))).json);
    expect(again.state).toBe('sent');
    expect((await rep(routeTo('takeBackOutgoing', { id: email.id }))).status).toBe(409);
    expect(outside('Too early')).toHaveLength(1);
  });
});

describe('an answer', () => {
  const question = async (): Promise<number> => {
    const [row] = await owner(stage.server.ownerUrl, `SELECT id FROM emails WHERE message_id = 'question@harbour.example'`);
    return Number(row?.id);
  };

  test('goes to whoever wrote, all of them where that is asked for, and follows the conversation', async () => {
    const emailId = await question();
    const single = (await rep(routeTo('startOutgoing'), { body: { kind: 'answer', emailId } })).json;
    expect(single).toMatchObject({ to: [IDA], cc: [], subject: 'Re: Gauge at quay 4', answers: { emailId } });
    expect(single.quote).toContain('<blockquote><p>When does the gauge come?</p><p>Ida</p></blockquote>');
    const ofRecord = { kind: 'answer', emailId, record: { kind: 'account', id: accountId } };
    expect((await rep(routeTo('startOutgoing'), { body: ofRecord })).json.filing).toMatchObject({
      how: 'records',
      records: [{ name: 'Morland Docks' }],
    });
    const all = (await rep(routeTo('startOutgoing'), { body: { kind: 'answer all', emailId } })).json;
    expect(all).toMatchObject({ to: [IDA], cc: [{ name: 'Finn', address: 'finn@harbour.example' }, { address: 'kim@quillmere.example' }] });
    const sent = await sendNow((await rep(routeTo('saveOutgoing', { id: single.id }), { body: contentOf(single, {}) })).json);
    const copy =
      sentFolder()
        .find(({ raw }) => raw.includes('Re: Gauge at quay 4'))
        ?.raw.toString() ?? '';
    expect(copy).toContain('In-Reply-To: <question@harbour.example>');
    expect(copy.replace(/\r\n\s+/g, ' ')).toContain('References: <first@harbour.example> <question@harbour.example>');
    const [row] = await owner(
      stage.server.ownerUrl,
      'SELECT count(DISTINCT conversation_id)::int AS count FROM emails WHERE id IN ($1, $2)',
      [emailId, sent.emailId],
    );
    expect(row?.count).toBe(1);
  });

  test('is another than a forwarded email, which takes the files along', async () => {
    putMail(
      stage.mailhost,
      REP,
      [
        'From: Ida Brandt <ida@harbour.example>',
        `To: ${REP}`,
        'Subject: Drawing',
        'Message-ID: <drawing@harbour.example>',
        `Date: ${new Date().toUTCString()}`,
        'MIME-Version: 1.0',
        'Content-Type: multipart/mixed; boundary=x',
        '',
        '--x\r\nContent-Type: text/plain\r\n\r\nSee the drawing.',
        '--x\r\nContent-Type: application/pdf\r\nContent-Disposition: attachment; filename="quay.pdf"\r\n\r\nPDF of the quay',
        '--x--',
        '',
      ].join('\r\n'),
    );
    const [row] = await until(
      () => owner(stage.server.ownerUrl, `SELECT id FROM emails WHERE message_id = 'drawing@harbour.example' AND decided_at IS NOT NULL`),
      (rows) => rows.length > 0,
    );
    const forwarded = (await rep(routeTo('startOutgoing'), { body: { kind: 'forward', emailId: row?.id } })).json;
    expect(forwarded).toMatchObject({ to: [], subject: 'Fwd: Drawing', files: [{ name: 'quay.pdf', type: 'application/pdf' }] });
    expect(forwarded.quote).toContain('See the drawing.');
  });

  test('to an email that cannot be read is refused', async () => {
    const emailId = await question();
    await owner(stage.server.ownerUrl, `UPDATE emails SET visibility = 'owner' WHERE id = $1`, [emailId]);
    const asked = await stage.server.call(routeTo('startOutgoing'), { token: crew.tokens.other, body: { kind: 'answer', emailId } });
    expect(asked.status).toBeGreaterThanOrEqual(400);
  });
});

describe('before it is sent', () => {
  test('its writer is told how it will be filed, and what may be overlooked', async () => {
    const email = await draft({
      to: [IDA, { name: 'Tove', address: 'tove@morland.example' }],
      subject: '',
      html: '<p>The drawing is attached.</p>',
    });
    const preview = (await rep(routeTo('previewOutgoing', { id: email.id }))).json;
    expect(preview.outcome).toBe('filed');
    expect(preview.sentence).toContain('It will be filed under');
    expect(preview.warnings.map(({ code }: { code: string }) => code)).toEqual(['other company', 'no file', 'no subject']);
    const attached = await rep(routeTo('attachToOutgoing', { id: email.id }), {
      bytes: 'drawing',
      headers: { 'content-type': 'application/octet-stream' },
    });
    expect(attached.status).toBe(422);
    const path = routeTo('attachToOutgoing', { id: email.id });
    const named = await rep(
      { ...path, path: `${path.path}?name=quay.txt&type=text%2Fplain` },
      { bytes: 'drawing', headers: { 'content-type': 'application/octet-stream' } },
    );
    expect(named.json.files).toMatchObject([{ name: 'quay.txt', type: 'text/plain', size: 7 }]);
    expect((await rep(routeTo('previewOutgoing', { id: email.id }))).json.warnings.map(({ code }: { code: string }) => code)).not.toContain(
      'no file',
    );
    const sent = await sendNow((await rep(routeTo('getOutgoing', { id: email.id }))).json);
    const detail = (await rep(routeTo('getEmail', { id: sent.emailId }))).json;
    expect(detail.content.attachments).toMatchObject([{ name: 'quay.txt' }]);
  });

  test('a draft that was changed elsewhere is not overwritten, and one without recipients not sent', async () => {
    const email = await draft({ subject: 'Two windows' });
    const first = await rep(routeTo('saveOutgoing', { id: email.id }), { body: contentOf(email, { subject: 'First' }) });
    expect(first.status).toBe(200);
    const second = await rep(routeTo('saveOutgoing', { id: email.id }), { body: contentOf(email, { subject: 'Second' }) });
    expect([second.status, second.json.error.code]).toEqual([409, 'changed-meanwhile']);
    const sent = await rep(routeTo('sendOutgoing', { id: email.id }), { body: { revision: first.json.revision } });
    expect([sent.status, sent.json.error.code]).toEqual([422, 'no-recipient']);
  });

  test('what a writer pastes is kept without scripts, pictures from elsewhere and handlers', async () => {
    const { html } = await draft({
      html: '<p onclick="x()">A<script>alert(1)</script><img src="https://elsewhere.example/x.png"><a href="javascript:x()">b</a><a href="https://quay.example">c</a></p>',
    });
    expect(html).toBe('<p>A<a>b</a><a href="https://quay.example">c</a></p>');
  });
});

describe('a reminder', () => {
  const reminders = async (): Promise<string[]> =>
    (await rep(routeTo('getArrival'))).json.reminders.map(({ subject }: { subject: string }) => subject);
  const comesIn = async (subject: string, headers: string): Promise<void> => {
    const [sent] = await owner(stage.server.ownerUrl, `SELECT message_id FROM outgoing WHERE subject = $1`, [subject]);
    const id = `${headers === '' ? 'answer' : 'absence'}-${subject.replace(/ /g, '-')}@harbour.example`;
    putMail(stage.mailhost, REP, {
      id,
      from: 'Finn <finn@harbour.example>',
      to: REP,
      subject: `Re: ${subject}`,
      references: `<${String(sent?.message_id)}>`,
      date: new Date().toUTCString(),
      ...(headers ? { headers } : {}),
    });
    await until(
      () => owner(stage.server.ownerUrl, 'SELECT id FROM emails WHERE message_id = $1 AND decided_at IS NOT NULL', [id]),
      (rows) => rows.length > 0,
    );
  };

  test('comes when no one of the other side answered in time, and goes when someone does', async () => {
    for (const [subject, remindDays] of [
      ['Remind me', 3],
      ['Later', 30],
      ['Never', null],
      ['Enough', 3],
    ] as const) {
      const email = await draft({ to: [IDA], subject, html: '<p>Hello</p>', remindDays });
      await sendNow(email);
    }
    expect(await reminders()).toEqual([]);
    await owner(
      stage.server.ownerUrl,
      `WITH o AS (UPDATE outgoing SET sent_at = sent_at - interval '4 days' RETURNING email_id) UPDATE emails SET sent_at = sent_at - interval '4 days' WHERE id IN (SELECT email_id FROM o)`,
    );
    expect((await reminders()).sort()).toEqual(['Enough', 'Remind me']);
    const [ida] = await owner(stage.server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Ida Brandt'`);
    const of = async (record: string): Promise<number> => (await rep(routeTo('listReminders', { record }))).json.reminders.length;
    expect([await of(`contact:${String(ida?.id)}`), await of(`account:${accountId}`)]).toEqual([2, 0]);
    await comesIn('Remind me', 'Auto-Submitted: auto-replied');
    expect((await reminders()).sort()).toEqual(['Enough', 'Remind me']);
    const call = { kind: 'call', at: new Date().toISOString(), text: 'She called.', records: [{ kind: 'contact', id: Number(ida?.id) }] };
    const { json: logged } = await rep(routeTo('logActivity'), { body: { ...call, direction: 'received' } });
    expect(await reminders()).toEqual([]);
    await rep(routeTo('removeActivity', { id: logged.id }), { body: { removed: true } });
    await rep(routeTo('logActivity'), { body: { ...call, direction: 'sent' } });
    expect((await reminders()).sort()).toEqual(['Enough', 'Remind me']);
    await comesIn('Remind me', '');
    expect(await reminders()).toEqual(['Enough']);
    const [row] = await owner(stage.server.ownerUrl, `SELECT id FROM outgoing WHERE subject = 'Enough'`);
    await rep(routeTo('endReminder', { id: row?.id }));
    expect(await reminders()).toEqual([]);
    expect((await stage.server.call(routeTo('getArrival'), { token: crew.tokens.admin })).json.reminders).toEqual([]);
  });
});

describe('people to write to', () => {
  const found = async (query: string): Promise<string[]> => {
    const route = routeTo('findRecipients');
    return (await rep({ ...route, path: `${route.path}?${query}` })).json.people.map(
      ({ name, address, hint }: { name: string; address: string; hint: string }) => `${name} <${address}> ${hint}`,
    );
  };

  test('are those of the record first, then whoever is found by name or address, colleagues last', async () => {
    expect(await found(`record=account:${accountId}`)).toEqual(['Tove Lund <tove@morland.example> Morland Docks']);
    expect(await found(`text=ida&record=account:${accountId}`)).toEqual(['Ida Brandt <ida@harbour.example> Harbour Works']);
    expect(await found('text=harbour.ex')).toEqual(['Ida Brandt <ida@harbour.example> Harbour Works']);
    expect((await found('text=quillmere')).at(-1)).toContain('colleague');
    expect(await found('text=%25%25')).toEqual([]);
  });

  test('are those first who usually get such emails, too; blind copies, colleagues and what the writer may not see say nothing', async () => {
    const to = (name: string) => ({ name, address: `${name.toLowerCase()}@together.example` });
    for (const [count, cc] of [
      [1, [to('Lena'), { name: 'Kim', address: 'kim@quillmere.example' }]],
      [2, [to('Lena')]],
      [3, [to('Once')]],
    ] as const)
      await sendNow(await draft({ to: [to('Mia')], cc, bcc: [to('Hidden')], subject: `Together ${count}`, html: '<p>x</p>' }));
    const usual = ['Lena <lena@together.example> usually gets a copy'];
    expect(await found('with=mia@together.example')).toEqual(usual);
    expect(await found('text=len&with=MIA@together.example')).toEqual(usual);
    expect(await found('text=mia&with=mia@together.example')).toEqual([]);
    expect(await found('with=mia@together.example,lena@together.example')).toEqual([]);
    expect(await found(`with=mia@together.example&record=account:${accountId}`)).toEqual([
      ...usual,
      'Tove Lund <tove@morland.example> Morland Docks',
    ]);
    await owner(
      stage.server.ownerUrl,
      `UPDATE emails SET visibility = 'owner' WHERE id IN (SELECT email_id FROM participants WHERE address = 'mia@together.example')`,
    );
    const route = routeTo('findRecipients', { with: 'mia@together.example' });
    expect((await stage.server.call(route, { token: crew.tokens.other })).json.people).toEqual([]);
    expect((await stage.server.call(route, { token: crew.tokens.rep })).json.people).toHaveLength(1);
  });
});
