import { compileRulebook, countRule } from '@fulvet/core';
import type { CompiledRulebook, CompiledStep, Condition, Rulebook } from '@fulvet/core';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { routeTo } from '../testing/routeTo';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';
import { liveRulebook } from '../rulebook/liveRulebook';
import { keyedPast } from './keyedPast';
import type { PastMail } from './pastMail';
import { emailsFor } from './pastMail';
import { PastMailCache } from './pastMailCache';

const REP = 'rep@quillmere.example';
const HOUR = 3_600_000;
const MAIL = 160;
const DOMAINS = [
  'harbour.example',
  'mail.harbour.example',
  'north.mail.harbour.example',
  'arbour.example',
  'pier.example',
  'freemail.example',
];
const PEOPLE = DOMAINS.flatMap((domain) => ['ida', 'jo', 'jo+orders', 'no-reply'].map((local) => `${local}@${domain}`));

let server: TestServer;
let crew: Crew;
let whole: PastMail;
let source: Rulebook;
const random = (
  (seed: number) => () =>
    (seed = (seed * 48271) % 2147483647) / 2147483647
)(20261203);
const oneOf = <T>(all: readonly T[]): T => all[Math.floor(random() * all.length)]!;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const mail = Array.from({ length: MAIL }, (_, at) => {
    const person = oneOf(PEOPLE);
    const sent = random() < 0.4;
    return {
      id: `m${at}`,
      from: sent ? REP : person,
      to: sent ? person : REP,
      ...(random() < 0.3 ? { cc: oneOf(PEOPLE) } : {}),
      ...(at > 10 && random() < 0.4 ? { references: `<m${Math.floor(random() * at)}>` } : {}),
      subject: oneOf(['Tide gauge', 'Invoice', 'The quay wall']),
      body: oneOf(['Good morning', 'The invoice is attached']),
      date: new Date(Date.now() - (MAIL - at) * HOUR).toUTCString(),
    };
  });
  await importMail(server, crew.tokens.admin, REP, { 'a.mbox': mbox(mail) });
  const some = await owner(server.ownerUrl, `SELECT id FROM emails WHERE outcome <> 'kept out' ORDER BY id LIMIT 5 OFFSET 20`);
  await server.call(routeTo('repair'), { token: crew.tokens.rep, body: { emails: some.map((row) => Number(row.id)), seal: true } });
  // A process ended before these were decided.
  await owner(
    server.ownerUrl,
    `UPDATE emails e SET decided_at = NULL, external_domains = '{}', outcome = NULL WHERE message_id LIKE 'm9_' AND EXISTS (SELECT FROM participants p WHERE p.email_id = e.id)`,
  );
  const live = await liveRulebook(server.services.database);
  source = live.compiled.source;
  whole = await new PastMailCache(server.services.database, server.services.blobs).whole(live.compiled);
}, 60_000);
afterAll(() => server.remove());

function keyedCondition(): Condition {
  const domain = oneOf([...DOMAINS, 'mail.example', 'example.example']);
  const test = oneOf([
    { is: 'domain', value: domain, exactly: random() < 0.3 },
    { is: 'address', value: oneOf(PEOPLE) },
  ] as const);
  const about = { fact: 'participant', which: oneOf(['any', 'sender', 'recipient'] as const), test } as Condition;
  const more: Condition[] = [
    { fact: 'subject', test: { contains: ['invoice'] } },
    { fact: 'body', test: { contains: ['attached'] } },
    { fact: 'conversation', is: oneOf(['first', 'answerToFiled'] as const) },
    { fact: 'direction', in: [oneOf(['sent', 'received'] as const)] },
    { none: [{ fact: 'subject', test: { contains: ['quay'] } }] },
  ];
  return random() < 0.4 ? about : { all: [about, oneOf(more)] };
}

function withRule(when: Condition): { compiled: CompiledRulebook; alone: CompiledStep<unknown> } {
  const rule = {
    id: 'r1',
    on: true,
    name: '',
    note: '',
    when,
    then: { do: 'out' },
    appliesTo: { mailboxes: [], teams: [], users: [], from: null, to: null },
  };
  const known = source.keepOut.rules[0];
  const document = { ...source, keepOut: { ...source.keepOut, rules: [{ ...(known ?? {}), ...rule }] } } as unknown as Rulebook;
  const compiled = compileRulebook(document, { teamAddresses: [], publicProviders: new Set() });
  const step = compiled.steps.keepOut as CompiledStep<unknown>;
  return { compiled, alone: step.alone(document.keepOut.rules[0] as never) };
}

test('what is found by its keys counts the same as all past mail, whatever the rule', async () => {
  let spoke = 0;
  for (let round = 0; round < 80; round += 1) {
    const when = keyedCondition();
    const { compiled, alone } = withRule(when);
    const keyed = await keyedPast(server.services.database, server.services.blobs, compiled, [alone]);
    if (keyed === null) throw new Error(`not found by keys: ${JSON.stringify(when)}`);
    const counted = (past: PastMail) =>
      countRule(emailsFor(past, alone, -Infinity).emails, compiled, past.directory, { rule: alone, earlier: alone, perPerson: false }, 8);
    expect({ when, ...counted(keyed) }).toEqual({ when, ...counted(whole) });
    expect(keyed.total).toBe(whole.total);
    if (counted(keyed).took > 0) spoke += 1;
  }
  expect(spoke).toBeGreaterThan(30);
});

test('a rule that can speak without a key is not counted by keys', async () => {
  const { compiled, alone } = withRule({ fact: 'subject', test: { contains: ['invoice'] } });
  expect(await keyedPast(server.services.database, server.services.blobs, compiled, [alone])).toBeNull();
});
