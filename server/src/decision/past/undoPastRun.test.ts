import { routeTo } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Rulebook } from '@fulvet/core';
import fc from 'fast-check';
import { until } from '../../testing/mailboxTools';
import type { Answer, Crew, PlainEmail, TestServer } from '../../testing/testServer';
import {
  changeRulebook,
  decideAll,
  decisions,
  importMail,
  importRecords,
  mbox,
  owner,
  setUpCrew,
  startTestServer,
} from '../../testing/testServer';

const rep = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;
// The log tells that the rulebook was changed, and is only added to.
const NOT_COMPARED = [
  'undo_log',
  'access_tokens',
  'audit_log',
  'session',
  'rulebooks',
  'decide_runs',
  'work',
  'run_befores',
  'run_created',
  'undo_steps',
  'users',
];

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const records = (kind: string, text: string) => importRecords(server, crew.tokens.admin, kind, text);
  await records('account', 'name,domains\nHarbour Oriel,harbour.example\n');
  await records('contact', 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n');
  await records(
    'deal',
    'code,name,account,open,people\nQH-1,Gauges,Harbour Oriel,yes,ida@harbour.example\nQH-2,Buoys,Harbour Oriel,yes,ida@harbour.example\n',
  );
  const domains = ['harbour.example', 'fish.example', 'press.example'];
  const emails = Array.from({ length: 36 }, (_, at): PlainEmail => {
    const who = at % 4 === 0 ? 'ida@harbour.example' : `person${at % 5}@${domains[at % 3] ?? ''}`;
    const sent = at % 3 === 1;
    return {
      id: `mail-${at}`,
      from: sent ? rep : who,
      to: sent ? who : rep,
      subject: at % 6 === 0 ? `Invoice ${at}` : `About ${at}`,
      date: new Date(Date.UTC(2026, 4, 1 + (at % 25), at % 24)).toUTCString(),
      ...(at % 7 === 3 ? { references: `<mail-${at - 3}>` } : {}),
      ...(at % 11 === 0 ? { headers: 'List-Unsubscribe: <mailto:u@x.example>' } : {}),
    };
  });
  await importMail(server, crew.tokens.admin, rep, { 'rep.mbox': mbox(emails) });
}, 60_000);
afterAll(() => server.remove());

/** Every row of every table but those that tell of runs and sign-ins. */
async function everything(): Promise<Record<string, unknown>> {
  const tables = await owner(
    server.ownerUrl,
    `SELECT relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = 'public' AND relkind = 'r' ORDER BY 1`,
  );
  const dump: Record<string, unknown> = {};
  for (const name of tables.map((row) => String(row.relname)).filter((value) => !NOT_COMPARED.includes(value)))
    dump[name] = (
      await owner(server.ownerUrl, `SELECT coalesce(jsonb_agg(to_jsonb(t) ORDER BY to_jsonb(t)::text), '[]') AS rows FROM "${name}" t`)
    )[0]?.rows;
  return dump;
}
const undo = async (body: object = {}): Promise<Answer> => {
  const { runs } = (await server.call(routeTo('listDecideRuns'), { token: crew.tokens.admin })).json;
  return server.call(routeTo('undoDecideRun', { id: runs[0].id }), { token: crew.tokens.admin, body });
};
const leaf = (value: string) => ({
  fact: 'participant' as const,
  which: 'any' as const,
  test: { is: 'domain' as const, value, exactly: false },
});

const change = fc.record({
  people: fc.constantFrom('contact' as const, 'lead' as const, 'nothing' as const),
  after: fc.constantFrom('weWrote' as const, 'firstEmail' as const),
  scope: fc.constantFrom('external' as const, 'known' as const, 'byHand' as const),
  deal: fc.constantFrom('certain' as const, 'scored' as const, 'never' as const),
  level: fc.constantFrom('owner' as const, 'everyone' as const),
  out: fc.option(fc.constantFrom('fish.example', 'press.example', 'harbour.example')),
  newsletters: fc.boolean(),
});

function apply(rulebook: Rulebook, to: typeof change extends fc.Arbitrary<infer T> ? T : never): void {
  Object.assign(rulebook.create, { people: to.people, after: to.after });
  rulebook.takeIn.scope = to.scope;
  rulebook.match.deal = to.deal;
  rulebook.share.level = to.level;
  rulebook.keepOut.machineMail = to.newsletters ? [] : ['newsletter'];
  rulebook.keepOut.rules =
    to.out === null
      ? []
      : [
          {
            id: 'out',
            name: '',
            note: '',
            on: true,
            appliesTo: { mailboxes: [], users: [] },
            when: leaf(to.out),
            then: { do: 'ignore' },
          },
        ];
}

describe('a run over past mail', () => {
  test('undone, leaves everything as it stood: outcomes, filings, dockets, visibility, contents, records', async () => {
    await fc.assert(
      fc.asyncProperty(change, change, fc.boolean(), async (first, second, withoutMade) => {
        await changeRulebook(server, crew.tokens.admin, (rulebook) => apply(rulebook, first));
        await decideAll(server, crew.tokens.admin);
        const before = await everything();
        await changeRulebook(server, crew.tokens.admin, (rulebook) => apply(rulebook, second));
        await decideAll(server, crew.tokens.admin, { withoutMade });
        const report = await undo({ rulebook: true });
        expect([report.json.kept, report.json.away]).toEqual([[], []]);
        expect(await everything()).toEqual(before);
      }),
      { numRuns: 6, endOnFailure: true },
    );
  }, 300_000);

  test('is undone once only', async () => {
    await decideAll(server, crew.tokens.admin);
    expect((await undo()).status).toBe(200);
    expect((await undo()).json.error.message).toBe('This run is undone already.');
  });

  test('keeps a record that something else has come to depend on, and names it', async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) =>
      apply(rulebook, {
        people: 'nothing',
        after: 'weWrote',
        scope: 'external',
        deal: 'certain',
        level: 'owner',
        out: null,
        newsletters: false,
      }),
    );
    await decideAll(server, crew.tokens.admin);
    await owner(
      server.ownerUrl,
      `DELETE FROM filings WHERE kind = 'contact' AND record_id IN (SELECT id FROM contacts WHERE origin_email_id IS NOT NULL)`,
    );
    await owner(
      server.ownerUrl,
      `DELETE FROM person_addresses WHERE kind = 'contact' AND person_id IN (SELECT id FROM contacts WHERE origin_email_id IS NOT NULL)`,
    );
    await owner(server.ownerUrl, 'DELETE FROM contacts WHERE origin_email_id IS NOT NULL');
    await decideAll(server, crew.tokens.admin);
    await changeRulebook(
      server,
      crew.tokens.admin,
      (rulebook) => void Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail' }),
    );
    await decideAll(server, crew.tokens.admin);
    const made = await owner(server.ownerUrl, `SELECT id, name FROM contacts WHERE origin_email_id IS NOT NULL ORDER BY id`);
    expect(made.length).toBeGreaterThan(2);
    await owner(server.ownerUrl, `INSERT INTO deal_people (deal_id, kind, person_id) SELECT min(id), 'contact', $1 FROM deals`, [
      made[0]?.id,
    ]);
    const report = await undo();
    expect(report.json.kept).toContainEqual({ kind: 'contact', id: made[0]?.id, name: made[0]?.name, because: 'it is on a deal' });
    const left = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE origin_email_id IS NOT NULL`);
    expect(left).toEqual([{ id: made[0]?.id }]);
  });

  test('email that came in since is not lost by the undo', async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) => void (rulebook.share.level = 'everyone'));
    await decideAll(server, crew.tokens.admin);
    await importMail(server, crew.tokens.admin, rep, {
      'new.mbox': mbox([
        {
          id: 'came-since',
          from: 'ida@harbour.example',
          to: rep,
          subject: 'Re: About 4',
          references: '<mail-4>',
          date: 'Sat, 30 May 2026 10:00:00 +0000',
        },
      ]),
    });
    const report = await undo({ rulebook: true });
    expect(report.json.again).toBeGreaterThan(0);
    // It was decided by what is taken back; it is decided again by what stands again.
    const now = await until(
      async () => (await decisions(server, crew.tokens.admin))['came-since'],
      (item) => item.visibility === 'owner',
    );
    expect(now.outcome).toBe('waiting');
  });
});
