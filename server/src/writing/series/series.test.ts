import { beforeAll, describe, expect, test } from '@jest/globals';
import { inStep, putMail, until } from '../../testing/mailboxTools';
import { good } from '../../testing/documentTools';
import { routeTo } from '../../testing/routeTo';
import {
  begin,
  email,
  finishedWith,
  goneFromOutgoing,
  hurry,
  keep,
  playedUntil,
  runOf,
  sentUntil,
  setAutomatic,
  stoppedFor,
  task,
  template,
} from '../../testing/seriesTools';
import { owner } from '../../testing/testServer';
import { crew, mailboxId, outside, REP, rep, sentFolder, stage } from '../../testing/writingStage';

beforeAll(() => setAutomatic());

let people = 0;
/** A contact of a company of their own. */
async function person(more: { company?: string } = {}): Promise<string> {
  people += 1;
  const company = more.company ?? `Weir ${people}`;
  const address = `p${people}@${company.replace(' ', '').toLowerCase()}.example`;
  const admin = { token: crew.tokens.admin };
  const csv = (text: string) => ({ ...admin, body: { text } });
  await stage.server.call(routeTo('importRecords', { kind: 'account' }), csv(`name,domains\n${company},${address.split('@')[1]}\n`));
  await stage.server.call(
    routeTo('importRecords', { kind: 'contact' }),
    csv(`name,emails,account\nPerson ${people},${address},${company}\n`),
  );
  return address;
}
const started = async (id: number, address: string, more: object = {}): Promise<number> => good(await begin(id, address, more)).id;

let letters = 0;
async function arrives(from: string, subject: string, more: { headers?: string; text?: string } = {}): Promise<void> {
  letters += 1;
  putMail(stage.mailhost, REP, {
    id: `letter${letters}@outside.example`,
    from,
    to: REP,
    subject,
    date: new Date(Date.now() + 1000).toUTCString(),
    text: more.text ?? 'Yes.',
    ...(more.headers ? { headers: more.headers } : {}),
  });
  await until(
    async () => {
      await inStep(stage, crew.tokens.rep, mailboxId);
      return owner(stage.server.ownerUrl, `SELECT FROM emails WHERE message_id = $1 AND decided_at IS NOT NULL`, [
        `letter${letters}@outside.example`,
      ]);
    },
    (rows) => rows.length === 1,
  );
}

describe('a series with someone', () => {
  test('shows each email before it is sent, follows in its conversation, and comes to its end', async () => {
    const opening = await template('Fair {{account.name}}', '<p>Dear {{person.firstName}}</p>');
    const second = await template('', '<p>Did you find time?</p>', { name: 'Again' });
    const address = await person();
    const series = await keep([email(opening), task('Call them', 2), email(second, 3)]);
    const id = await started(series, address, { asks: true });
    const shown = await playedUntil(id, ({ state }) => state === 'to look at');
    const draft = good(await rep(routeTo('getOutgoing', { id: shown.outgoingId })));
    expect(draft).toMatchObject({ state: 'draft', subject: `Fair Weir ${people}`, html: '<p>Dear Person</p>' });
    await rep(routeTo('sendOutgoing', { id: draft.id }), { body: { revision: draft.revision } });
    const toDo = await playedUntil(id, ({ state }) => state === 'to do');
    expect(toDo).toMatchObject({ atStep: 2, task: 'Call them' });
    const done = good(await rep(routeTo('goOnWithSeriesRun', { id })));
    expect(done).toMatchObject({ state: 'waiting', atStep: 3 });
    expect(new Date(done.dueAt).getTime() - Date.now()).toBeGreaterThan(2.5 * 86_400_000);
    const again = await playedUntil(id, ({ state }) => state === 'to look at');
    const next = good(await rep(routeTo('getOutgoing', { id: again.outgoingId })));
    expect(next.subject).toBe(`Re: Fair Weir ${people}`);
    await rep(routeTo('sendOutgoing', { id: next.id }), { body: { revision: next.revision } });
    expect(await playedUntil(id, ({ state }) => state === 'ended')).toMatchObject({ why: null });
    const [first] = await owner(stage.server.ownerUrl, `SELECT message_id FROM series_steps WHERE run_id = $1 AND step = 0`, [id]);
    const copy = sentFolder().find(({ raw }) => raw.includes(`Subject: Re: Fair Weir ${people}`));
    expect(copy?.raw.toString()).toContain(`References: <${String(first?.message_id)}>`);
    expect(outside(`Re: Fair Weir ${people}`)).toHaveLength(1);
    expect(outside(`Fair Weir ${people}`)).toHaveLength(1);
  });

  test('goes by itself where its member does not want to look, within the day’s number', async () => {
    const text = await template('By itself', '<p>Hello</p>');
    const series = await keep([email(text), email(text, 1)]);
    const id = await started(series, await person());
    await sentUntil(id, ({ state, atStep }) => state === 'waiting' && atStep === 2);
    await setAutomatic({ perDay: 1 });
    await hurry(id);
    const waits = await until(
      () => runOf(id),
      ({ problem }) => problem !== '',
    );
    expect(waits.problem).toContain('as many emails by itself today');
    expect(new Date(waits.dueAt).getTime()).toBeGreaterThan(Date.now() + 6 * 3_600_000);
    await setAutomatic();
    await playedUntil(id, ({ state }) => state === 'ended');
    expect(outside('By itself')).toHaveLength(2);
  });

  test('sends no step again that the backup does not know of, which is put in place after it', async () => {
    const series = await keep([email(await template('Known to the mailbox', '<p>Hello</p>'))]);
    const id = await started(series, await person());
    await playedUntil(id, ({ state }) => state === 'ended');
    const [step] = await owner(stage.server.ownerUrl, 'SELECT message_id FROM series_steps WHERE run_id = $1', [id]);
    await finishedWith(String(step?.message_id));
    await owner(stage.server.ownerUrl, 'DELETE FROM series_steps WHERE run_id = $1', [id]);
    await owner(stage.server.ownerUrl, 'DELETE FROM emails WHERE message_id = $1', [step?.message_id]);
    await owner(
      stage.server.ownerUrl,
      `UPDATE series_runs SET state = 'waiting', at_step = 0, ended_at = NULL, due_at = now() - interval '5 minutes', look_at = now() WHERE id = $1`,
      [id],
    );
    await playedUntil(id, ({ state }) => state === 'ended');
    expect(outside('Known to the mailbox')).toHaveLength(1);
    // Filed right after it is known to be sent.
    const filed = await until(
      () => owner(stage.server.ownerUrl, 'SELECT FROM emails WHERE message_id = $1', [step?.message_id]),
      (rows) => rows.length > 0,
    );
    expect(filed).toHaveLength(1);
  });

  test('is held with everything else by one switch, and shows what was due meanwhile', async () => {
    const text = await template('Held', '<p>Hello</p>');
    const id = await started(await keep([task('Read'), email(text)]), await person());
    await playedUntil(id, ({ state }) => state === 'to do');
    const hold = (isHeld: boolean) => setAutomatic({ isHeld });
    await hold(true);
    await rep(routeTo('goOnWithSeriesRun', { id }));
    await hurry(id);
    await until(
      () => owner(stage.server.ownerUrl, `SELECT FROM series_runs WHERE id = $1 AND look_at > now() + interval '2 minutes'`, [id]),
      (rows) => rows.length === 1,
    );
    expect(await runOf(id)).toMatchObject({ state: 'waiting' });
    await owner(stage.server.ownerUrl, `UPDATE series_runs SET due_at = now() - interval '2 hours', look_at = now() WHERE id = $1`, [id]);
    await hold(false);
    expect(await playedUntil(id, ({ state }) => state !== 'waiting' && state !== 'sending')).toMatchObject({ state: 'to look at' });
    expect(outside('Held')).toHaveLength(0);
  });

  test('waits where an absence note to its email comes, though the rules keep such mail out', async () => {
    const text = await template('Absent', '<p>x</p>');
    const address = await person();
    const id = await started(await keep([email(text), email(text, 1)]), address);
    await sentUntil(id, ({ state, atStep }) => state === 'waiting' && atStep === 2);
    const [step] = await owner(stage.server.ownerUrl, `SELECT message_id FROM series_steps WHERE run_id = $1`, [id]);
    await arrives(address, 'Automatic reply: away', {
      headers: `Auto-Submitted: auto-replied\r\nIn-Reply-To: <${String(step?.message_id)}>`,
    });
    await hurry(id);
    const waits = await until(
      () => runOf(id),
      ({ problem }) => problem !== '',
    );
    expect(waits.problem).toContain('They are away');
    expect(new Date(waits.dueAt).getTime()).toBeGreaterThan(Date.now() + 4 * 86_400_000);
  });
});

describe('a series stops', () => {
  const waiting = async (more: { company?: string } = {}, order: object = {}): Promise<{ id: number; address: string }> => {
    const address = await person(more);
    const id = await started(await keep([task('Wait'), email(await template(`Never ${people}`, '<p>x</p>'))]), address, order);
    await playedUntil(id, ({ state }) => state === 'to do');
    return { id, address };
  };

  test('when the person answers, or anyone of their account, from whichever address', async () => {
    const { id, address } = await waiting();
    await arrives(`Person <${address}>`, 'A new subject');
    expect(await stoppedFor(id)).toBe('answered');
    const run = await runOf(id);
    expect((await rep(routeTo('getEmail', { id: run.stoppedByEmail }))).text).toContain('A new subject');
    const other = await waiting({ company: 'Long Weir' });
    const colleague = await person({ company: 'Long Weir' });
    await arrives(`Colleague <${colleague}>`, 'For my colleague');
    expect(await stoppedFor(other.id)).toBe('answered');
  });

  test('not when a stranger, a newsletter or old mail comes', async () => {
    const { id, address } = await waiting();
    await arrives('Stranger <s@elsewhere.example>', 'Something else');
    await arrives(`Person <${address}>`, 'Our news', {
      headers: 'List-Unsubscribe: <mailto:off@news.example>\r\nList-Id: <news.example>',
    });
    await owner(
      stage.server.ownerUrl,
      `UPDATE emails SET arrived_at = now() - interval '9 days', sent_at = now() - interval '9 days' WHERE id IN (SELECT email_id FROM participants WHERE address = $1)`,
      [address],
    );
    await hurry(id);
    expect(await runOf(id)).toMatchObject({ state: 'to do' });
    await rep(routeTo('stopSeriesRun', { id }));
    expect(await runOf(id)).toMatchObject({ state: 'stopped', why: 'by hand' });
  });

  test('when someone logs that they answered in another way', async () => {
    const { id, address } = await waiting();
    const [contact] = await owner(stage.server.ownerUrl, `SELECT person_id::int AS id FROM person_addresses WHERE address = $1`, [address]);
    const records = [{ kind: 'contact', id: Number(contact?.id) }];
    const call = { kind: 'call', at: new Date().toISOString(), text: 'She called.', records };
    good(await rep(routeTo('logActivity'), { body: { ...call, direction: 'received' } }));
    expect(await stoppedFor(id)).toBe('answered');
  });

  test('when the deal is closed, a meeting is made, or their mail is kept out', async () => {
    const [deal] = await owner(stage.server.ownerUrl, `INSERT INTO deals (name, stage, open) VALUES ('Gauges', 'open', true) RETURNING id`);
    const closed = await waiting({}, { dealId: Number(deal?.id) });
    await owner(stage.server.ownerUrl, `UPDATE deals SET open = false WHERE id = $1`, [deal?.id]);
    expect(await stoppedFor(closed.id)).toBe('deal closed');
    const out = await waiting();
    const value = out.address.split('@')[1];
    await stage.server.call(routeTo('keepOut'), { token: crew.tokens.admin, body: { kind: 'domain', value, effect: 'keepOut' } });
    await rep(routeTo('goOnWithSeriesRun', { id: out.id }));
    expect(await stoppedFor(out.id)).toBe('kept out');
  });

  test('when its text is gone, and when its member leaves the email out for good', async () => {
    const text = await template('Gone', '<p>x</p>');
    const id = await started(await keep([task('Wait'), email(text)]), await person());
    await playedUntil(id, ({ state }) => state === 'to do');
    await rep(routeTo('removeTemplate', { id: text }));
    await rep(routeTo('goOnWithSeriesRun', { id }));
    expect(await stoppedFor(id)).toBe('no text');
    expect((await runOf(id)).problem).toContain('The template of step 2');
    const shown = await started(await keep([email(await template('Discarded', '<p>x</p>'))]), await person(), { asks: true });
    const { outgoingId } = await playedUntil(shown, ({ state }) => state === 'to look at');
    await rep(routeTo('discardOutgoing', { id: outgoingId }));
    expect(await stoppedFor(shown)).toBe('by hand');
  });

  test('when an answer comes while its email waits to be taken back', async () => {
    const address = await person();
    const id = await started(await keep([email(await template('Too late', '<p>x</p>'))]), address);
    await until(
      () => runOf(id),
      ({ state, outgoingId }) => state === 'sending' && outgoingId !== null,
    );
    await until(
      () => owner(stage.server.ownerUrl, `SELECT FROM outgoing WHERE subject = 'Too late' AND state = 'due'`),
      (rows) => rows.length === 1,
    );
    await owner(stage.server.ownerUrl, `UPDATE outgoing SET due_at = now() + interval '1 hour' WHERE subject = 'Too late'`);
    await arrives(`Person <${address}>`, 'I was faster');
    expect(await stoppedFor(id)).toBe('answered');
    expect(outside('Too late')).toHaveLength(0);
    await goneFromOutgoing('Too late');
  });
});

describe('one person', () => {
  test('gets one series at a time, whoever sends it, and a colleague gets none', async () => {
    const series = await keep([task('Wait', 3)], { scope: 'own' });
    const address = await person();
    const id = await started(series, address);
    const again = await begin(series, address.toUpperCase());
    expect([again.status, again.json.error.code]).toEqual([409, 'own-series']);
    const instead = good(await begin(series, address, { instead: true }));
    expect(await runOf(id)).toMatchObject({ state: 'stopped', why: 'other series' });
    expect(instead.state).toBe('waiting');
    await owner(stage.server.ownerUrl, `UPDATE series_runs SET writer_id = $1 WHERE id = $2`, [crew.ids.other, instead.id]);
    const taken = await begin(series, address, { instead: true });
    expect([taken.status, taken.json.error.code]).toEqual([409, 'other-series']);
    const colleague = await begin(series, 'kim@quillmere.example');
    expect([colleague.status, colleague.json.error.code]).toEqual([422, 'colleague']);
  });

  test('is known to whoever writes to them alone', async () => {
    const series = await keep([task('Secret step', 3)], { name: 'Secret series' });
    await started(series, await person());
    for (const token of [crew.tokens.other, crew.tokens.admin]) {
      const runs = await stage.server.call(routeTo('listSeriesRuns'), { token });
      expect(runs.text).not.toContain('Secret');
      expect((await stage.server.call(routeTo('getSeries', { id: series }), { token })).status).toBe(404);
      expect([403, 404]).toContain((await begin(series, 'p1@weir1.example', {}, token)).status);
    }
  });

  test('fits what a series is: bad input says what is wrong', async () => {
    const bad = await rep(routeTo('createSeries'), { body: { name: 'x', steps: [{ kind: 'email', waitDays: 0 }] } });
    expect(bad.status).toBe(422);
    const none = await rep(routeTo('createSeries'), { body: { name: 'x', steps: [{ kind: 'email', waitDays: 0, templateId: 999_999 }] } });
    expect(none.json.error.fields).toEqual({ 'steps.0.templateId': 'is not there any more' });
    const zone = await begin(await keep([task('x')]), 'z@weir.example', { zone: 'Mars/Base' });
    expect(zone.status).toBe(422);
    expect((await rep(routeTo('goOnWithSeriesRun', { id: 999_999 }))).status).toBe(404);
  });
});
