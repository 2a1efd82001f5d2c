import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { until } from '../../testing/mailboxTools';
import type { Crew, PlainEmail, TestServer } from '../../testing/testServer';
import {
  changeRulebook,
  decideAll,
  decisions,
  finished,
  importMail,
  mbox,
  owner,
  setUpCrew,
  startTestServer,
} from '../../testing/testServer';

const rep = 'rep@quillmere.example';
const lead = 'manager@quillmere.example';
let server: TestServer;
let crew: Crew;

const dateOf = (day: number): string => new Date(Date.UTC(2026, 4, day, 10)).toUTCString();
const BEGIN = Date.now();
const daysAgo = (days: number): string => new Date(BEGIN - days * 86_400_000).toUTCString();
const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), { text: 'name,domains\nHarbour Oriel,harbour.example\n' });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  const many = Array.from({ length: 900 }, (_, at): PlainEmail => ({
    id: `mail-${at}`,
    from: at % 3 === 0 ? 'ida@harbour.example' : `person${at % 7}@harbour.example`,
    to: rep,
    subject: `About ${at}`,
    date: dateOf(1 + (at % 25)),
  }));
  await importMail(server, crew.tokens.admin, rep, {
    'rep.mbox': mbox([...many, { id: 'both', from: 'ida@harbour.example', to: `${rep}, ${lead}`, subject: 'To both', date: daysAgo(3) }]),
  });
  await importMail(server, crew.tokens.admin, lead, {
    'lead.mbox': mbox([
      { id: 'both', from: 'ida@harbour.example', to: `${rep}, ${lead}`, subject: 'To both', date: daysAgo(3) },
      { id: 'to-lead', from: 'ida@harbour.example', to: lead, subject: 'To the lead', date: daysAgo(2) },
      { id: 'late-rep', from: 'ida@harbour.example', to: rep, subject: 'Re: About 0', references: '<mail-0>', date: daysAgo(2) },
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

const shareWith = (level: 'owner' | 'everyone') =>
  changeRulebook(server, crew.tokens.admin, (rulebook) => void (rulebook.share.level = level));
const seenByAll = async (): Promise<string[]> =>
  (await owner(server.ownerUrl, `SELECT message_id FROM emails WHERE visibility = 'everyone' ORDER BY 1`)).map((row) =>
    String(row.message_id),
  );

describe('a run over past mail', () => {
  beforeEach(async () => {
    await shareWith('owner');
    await decideAll(server, crew.tokens.admin);
  });

  test('is one step for a reader: no one ever meets half of it', async () => {
    await shareWith('everyone');
    const { json } = await admin(routeTo('decide'));
    const seen = new Set<number>();
    const phases = new Set<string>();
    for (let state = 'running'; state !== 'done';) {
      seen.add((await seenByAll()).length);
      ({ state } = (await admin(routeTo('getDecideRun', { id: json.id }))).json);
      phases.add((await admin(routeTo('getDecideRun', { id: json.id }))).json.phase);
    }
    const { changed } = (await admin(routeTo('getDecideRun', { id: json.id }))).json;
    expect([...seen].every((value) => value === 0 || value === changed)).toBe(true);
    expect([(await seenByAll()).length, seen.has(0)]).toEqual([changed, true]);
    expect(phases.has('deciding')).toBe(true);
    expect(await owner(server.ownerUrl, 'SELECT count(*)::int AS n FROM run_staged')).toEqual([{ n: 0 }]);
  });

  test('over a span decides that mail alone, with what its conversations hold from before', async () => {
    await shareWith('everyone');
    expect((await admin(routeTo('countPast'), { days: 7, mailboxes: [] })).json).toEqual({ emails: 3 });
    const run = await finished(
      server,
      crew.tokens.admin,
      routeTo('getDecideRun', { id: (await admin(routeTo('decide'), { days: 7 })).json.id }),
    );
    expect(run).toMatchObject({ state: 'done', changed: 3, mailboxes: [] });
    expect(await seenByAll()).toEqual(['both', 'late-rep', 'to-lead']);
  });

  test('over some mailboxes decides what lies in them', async () => {
    await shareWith('everyone');
    const run = await finished(
      server,
      crew.tokens.admin,
      routeTo('getDecideRun', { id: (await admin(routeTo('decide'), { mailboxes: [lead] })).json.id }),
    );
    expect(run).toMatchObject({ changed: 3, mailboxes: [lead] });
    expect(await seenByAll()).toEqual(['both', 'late-rep', 'to-lead']);
  });

  test('cancelled, changes nothing and cannot be undone', async () => {
    await shareWith('everyone');
    const { json } = await admin(routeTo('decide'));
    await admin(routeTo('cancelDecideRun', { id: json.id }));
    const run = await finished(server, crew.tokens.admin, routeTo('getDecideRun', { id: json.id }));
    expect(run).toMatchObject({ state: 'cancelled', message: 'Cancelled. Nothing was changed.' });
    expect(await seenByAll()).toEqual([]);
    expect((await admin(routeTo('undoDecideRun', { id: json.id }), {})).status).toBe(409);
  });

  test('whose process died is taken up again when the server starts', async () => {
    await shareWith('everyone');
    const [row] = await owner(
      server.ownerUrl,
      `WITH w AS (INSERT INTO work (kind, state, phase, done, total) VALUES ('past run', 'running', 'deciding', 400, 903) RETURNING id)
       INSERT INTO decide_runs (work_id, user_id) SELECT w.id, $1 FROM w RETURNING id`,
      [crew.ids.admin],
    );
    await owner(
      server.ownerUrl,
      `INSERT INTO run_staged (run_id, email_id, place, decision) SELECT $1, min(id), 0, '{"creations": []}' FROM emails`,
      [row?.id],
    );
    const again = await server.again();
    try {
      const run = await until(
        async () => (await admin(routeTo('getDecideRun', { id: row?.id }))).json,
        (item) => item.state === 'done',
      );
      expect(run.changed).toBe((await seenByAll()).length);
      expect(run.changed).toBeGreaterThan(900);
    } finally {
      await again.stop();
    }
  });

  test('while mail comes in, leaves everything as deciding it afterwards would', async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      rulebook.share.level = 'everyone';
      Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail' });
    });
    const { json } = await admin(routeTo('decide'));
    await importMail(server, crew.tokens.admin, rep, {
      'meanwhile.mbox': mbox(
        [1, 2, 3].map((at) => ({
          id: `meanwhile-${at}`,
          from: `person${at}@harbour.example`,
          to: rep,
          subject: `Re: About ${at}`,
          references: `<mail-${at}>`,
          date: dateOf(28),
        })),
      ),
    });
    expect(await finished(server, crew.tokens.admin, routeTo('getDecideRun', { id: json.id }))).toMatchObject({ state: 'done' });
    const all = await decisions(server, crew.tokens.admin);
    expect([all['meanwhile-1'].outcome, all['meanwhile-1'].visibility]).toEqual(['filed', 'everyone']);
    expect(await owner(server.ownerUrl, `SELECT count(*)::int AS n FROM contacts WHERE origin_email_id IS NOT NULL`)).toEqual([{ n: 7 }]);
    expect((await decideAll(server, crew.tokens.admin)).changed).toBe(0);
  });
});

describe('a pilot', () => {
  const draftSharing = async (level: string): Promise<number> => {
    const draft = (await admin(routeTo('getDraft'))).json;
    const kept = await admin(routeTo('putDraft', { revision: draft.revision }), { ...draft.document, share: { level, rules: [] } });
    return kept.json.revision;
  };
  const newMail = (id: string, to: string, mailbox = to) =>
    importMail(server, crew.tokens.admin, mailbox, {
      [`${id}.mbox`]: mbox([{ id, from: 'ida@harbour.example', to, subject: id, date: daysAgo(0) }]),
    });
  const visibility = async (id: string): Promise<string> => (await decisions(server, crew.tokens.admin))[id].visibility;

  beforeAll(async () => {
    await shareWith('owner');
    await decideAll(server, crew.tokens.admin);
  });

  test('is refused for mailboxes that are not there, without changes, and from an old revision', async () => {
    const revision = (await admin(routeTo('getDraft'))).json.revision;
    expect((await admin(routeTo('startPilot'), { revision, mailboxes: [rep] })).json.error.code).toBe('nothing-changed');
    const next = await draftSharing('everyone');
    expect((await admin(routeTo('startPilot'), { revision: next, mailboxes: ['x@quillmere.example'] })).json.error.code).toBe(
      'no-such-mailbox',
    );
    expect((await admin(routeTo('startPilot'), { revision: next - 1, mailboxes: [rep] })).json.error.code).toBe('changed-meanwhile');
    expect((await admin(routeTo('startPilot'), { revision: next, mailboxes: [] })).status).toBe(422);
  });

  test('decides the mail of its mailboxes; what others hold too goes by what is in force for everyone', async () => {
    const { revision } = (await admin(routeTo('getDraft'))).json;
    const started = await admin(routeTo('startPilot'), { revision, mailboxes: [rep.toUpperCase()], note: 'first the rep' });
    expect(started.status).toBe(200);
    expect((await admin(routeTo('startPilot'), { revision, mailboxes: [lead] })).json.error.code).toBe('pilot-runs');
    expect((await admin(routeTo('getRulebook'))).json.document.share.level).toBe('owner');
    await newMail('pilot-rep', rep);
    await newMail('pilot-lead', lead);
    await newMail('pilot-both', `${rep}, ${lead}`, rep);
    await newMail('pilot-both', `${rep}, ${lead}`, lead);
    await decideAll(server, crew.tokens.admin);
    expect([await visibility('pilot-rep'), await visibility('pilot-lead'), await visibility('pilot-both')]).toEqual([
      'everyone',
      'owner',
      'owner',
    ]);
  });

  test('shows its figures beside those of other mail', async () => {
    const { pilot } = (await admin(routeTo('getPilot'))).json;
    expect(pilot).toMatchObject({ mailboxes: [rep], behind: false, others: { everyone: 0 } });
    expect(pilot.summary).toContain('first the rep');
    expect(pilot.group.everyone).toBe(pilot.group.emails);
    expect(pilot.group.outcomes.filed).toBe(pilot.group.emails);
    expect(pilot.group.emails + pilot.others.emails).toBe((await owner(server.ownerUrl, 'SELECT count(*)::int AS n FROM emails'))[0]?.n);
  });

  test('gets what is kept out at once, too', async () => {
    await admin(routeTo('keepOut'), { kind: 'domain', value: 'press.example' });
    const [row] = await owner(server.ownerUrl, `SELECT document FROM rulebooks WHERE pilot_mailboxes IS NOT NULL`);
    expect(JSON.stringify(row?.document)).toContain('press.example');
    expect((await admin(routeTo('getPilot'))).json.pilot.behind).toBe(false);
  });

  test('ended, leaves its mail to what is in force for everyone', async () => {
    expect((await admin(routeTo('endPilot'))).status).toBe(200);
    await decideAll(server, crew.tokens.admin);
    expect(await seenByAll()).toEqual([]);
    expect((await admin(routeTo('endPilot'))).json.error.code).toBe('no-pilot');
  });

  test('put live for everyone, is in force for all; not over what changed meanwhile', async () => {
    const { revision } = (await admin(routeTo('getDraft'))).json;
    await admin(routeTo('startPilot'), { revision, mailboxes: [rep] });
    await changeRulebook(server, crew.tokens.admin, (rulebook) => void (rulebook.takeIn.scope = 'known'));
    expect((await admin(routeTo('putPilotLive'))).json.error.code).toBe('changed-meanwhile');
    await admin(routeTo('endPilot'));
    await admin(routeTo('dropDraft'));
    await admin(routeTo('startPilot'), { revision: await draftSharing('everyone'), mailboxes: [rep] });
    expect((await admin(routeTo('putPilotLive'), { note: 'it went well' })).json.document.share.level).toBe('everyone');
    expect((await admin(routeTo('getPilot'))).json.pilot).toBeNull();
    expect((await admin(routeTo('getDraft'))).json.revision).toBe(0);
    await newMail('after-lead', lead);
    expect(await visibility('after-lead')).toBe('everyone');
  });
});
