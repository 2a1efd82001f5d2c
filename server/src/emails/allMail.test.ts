import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, mbox, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const rep = 'rep@quillmere.example';
const day = (at: number): string => new Date(Date.UTC(2026, 2, at, 9)).toUTCString();

const emails: PlainEmail[] = [
  {
    id: 'r1',
    from: 'Ida Brandt <ida@harbour.example>',
    to: rep,
    subject: 'Tide gauge at the lock',
    text: 'The gauge reads too high.',
    date: day(1),
  },
  {
    id: 'r2',
    from: rep,
    to: 'ida@harbour.example',
    subject: 'Re: Tide gauge at the lock',
    references: '<r1>',
    text: 'Please purge it.\n\nOn Sun, 1 Mar 2026, Ida Brandt wrote:\n> The gauge reads too high.',
    date: day(2),
  },
  { id: 'r3', from: 'jo@mail.north.example', to: rep, subject: 'Buoys', text: 'How many buoys?', date: day(3) },
  { id: 'r4', from: 'news@letter.example', to: rep, subject: 'News', headers: 'List-Id: <x.letter.example>', date: day(4) },
  { id: 'r5', from: rep, to: 'manager@quillmere.example', subject: 'Lunch', date: day(5) },
  { id: 'r6', from: 'ida+orders@harbour.example', to: rep, subject: 'Order', date: 'someday' },
];

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await server.call(routeTo('importRecords', { kind: 'contact' }), {
    token: crew.tokens.admin,
    body: { text: 'name,emails\nIda Brandt,ida@harbour.example\n' },
  });
  await server.call(routeTo('importRecords', { kind: 'account' }), {
    token: crew.tokens.admin,
    body: { text: 'name,domains\nNorth,north.example\n' },
  });
  await importMail(server, crew.tokens.rep, rep, { 'r.mbox': mbox(emails) });
});
afterAll(() => server.remove());

const list = async (query: string, token = crew.tokens.rep): Promise<Answer['json']> =>
  (await server.call(routeTo('listEmails', Object.fromEntries(new URLSearchParams(query))), { token })).json;
const subjects = async (query: string): Promise<string[]> =>
  (await list(query)).emails.map((email: Answer['json']) => email.content?.subject ?? email.mailClass);

describe('the register', () => {
  test('is newest first; what has no readable date stands by the time of its mbox', async () => {
    expect(await subjects('')).toEqual(['Order', 'person', 'newsletter', 'Buoys', 'Re: Tide gauge at the lock', 'Tide gauge at the lock']);
  });

  test.each([
    ['outcome=filed', ['Order', 'Buoys', 'Re: Tide gauge at the lock', 'Tide gauge at the lock']],
    ['outcome=kept+out', ['person', 'newsletter']],
    ['direction=sent', ['Re: Tide gauge at the lock']],
    ['direction=internal', ['person']],
    ['mailClass=newsletter', ['newsletter']],
    ['person=IDA@harbour.example', ['Re: Tide gauge at the lock', 'Tide gauge at the lock']],
    ['domain=north.example', ['Buoys']],
    ['domain=mail.north.example', ['Buoys']],
    ['domain=rth.example', []],
    ['from=2026-03-03&until=2026-03-04', ['newsletter', 'Buoys']],
    ['text=gauge', ['Re: Tide gauge at the lock', 'Tide gauge at the lock']],
    ['text=gauge+-purge', ['Tide gauge at the lock']],
    ['text=%22reads+too%22', ['Re: Tide gauge at the lock', 'Tide gauge at the lock']],
    ['problems=yes', ['Order']],
    ['mailbox=rep%40quillmere.example&outcome=filed&direction=received&text=buoys', ['Buoys']],
    ['mailbox=no one%40quillmere.example', []],
  ])('%s', async (query, expected) => {
    expect(await subjects(query)).toEqual(expected);
  });

  test('its pages follow each other without gap or repetition', async () => {
    const seen: number[] = [];
    let after = '';
    for (;;) {
      const page = await list(`limit=2${after}`);
      expect(page.total).toBe(6);
      seen.push(...page.emails.map((email: Answer['json']) => email.id));
      if (page.next === null) break;
      after = `&after=${page.next}`;
    }
    expect(new Set(seen).size).toBe(6);
  });

  test.each(['after=nonsense', 'limit=0', 'limit=1000', 'from=yesterday', 'problems=no'])(
    '%s is refused with the field that is wrong',
    async (query) => {
      const answer = await server.call(routeTo('listEmails', Object.fromEntries(new URLSearchParams(query))), { token: crew.tokens.rep });
      expect([answer.status, answer.json.error.code, Object.keys(answer.json.error.fields)]).toEqual([
        422,
        'bad-input',
        [query.split('=')[0]],
      ]);
    },
  );

  test('words that mean something to SQL or to the search do no harm', async () => {
    for (const text of ["'; DROP TABLE emails; --", '&|!():*', '"', '\\', '%_'])
      expect((await server.call(routeTo('listEmails', { text }), { token: crew.tokens.rep })).status).toBe(200);
    expect((await list('')).total).toBe(6);
  });
});

describe('one email', () => {
  test('shows its parts, its docket in words, and where it lies', async () => {
    const [row] = (await list('direction=sent')).emails;
    const { json } = await server.call(routeTo('getEmail', { id: row.id }), { token: crew.tokens.rep });
    expect(json.content.parts.map((part: { kind: string }) => part.kind)).toEqual(['own', 'quote']);
    expect(json.sightings).toEqual([{ mailbox: rep, owner: 'rep person', folder: 'imported' }]);
    expect(json.docket.map((stop: Answer['json']) => `${stop.title}: ${stop.verdict}`)).toEqual([
      'Keep out: Let through',
      'Take in: Taken in',
      'Match: Matched',
      'Create: Nothing created',
      'Share: Its owner only',
    ]);
    expect(json.docket[2]).toMatchObject({
      rule: 'match.person',
      ruleText: 'The person by the address',
      because: ['ida@harbour.example is the contact Ida Brandt.'],
    });
  });

  test('its source comes as a download, byte for byte', async () => {
    const [row] = (await list('text=buoys')).emails;
    const answer = await server.call(routeTo('getEmailSource', { id: row.id }), { token: crew.tokens.rep });
    expect(answer.headers.get('content-disposition')).toContain('attachment');
    expect(answer.text).toContain('How many buoys?');
  });

  test('the source of a kept-out email is not given out, not even to its owner', async () => {
    const [row] = (await list('mailClass=newsletter')).emails;
    expect((await server.call(routeTo('getEmailSource', { id: row.id }), { token: crew.tokens.rep })).status).toBe(404);
    const { json } = await server.call(routeTo('getEmail', { id: row.id }), { token: crew.tokens.rep });
    expect([json.content, json.docket[0].verdict, json.docket[0].because[0]]).toEqual([
      null,
      'Kept out',
      'It is machine mail (newsletter): List-Id says “<x.letter.example>”.',
    ]);
  });

  test('HTML comes sandboxed, an attachment as a download that no browser runs', async () => {
    const boundary = 'Content-Type: multipart/mixed; boundary=b';
    const text =
      '--b\nContent-Type: text/html\n\n<p onclick="x()">Hi<script>y()</script></p>\n--b\nContent-Type: text/html; name="evil.html"\nContent-Disposition: attachment; filename="e\'vil.html"\n\n<script>z()</script>\n--b--';
    await importMail(server, crew.tokens.rep, rep, {
      'h.mbox': mbox([{ id: 'html', from: 'ida@harbour.example', to: rep, subject: 'Markup', headers: boundary, text }]),
    });
    const [row] = (await list('text=markup')).emails;
    const html = await server.call(routeTo('getEmailHtml', { id: row.id }), { token: crew.tokens.rep });
    expect(html.headers.get('content-security-policy')).toMatch(/^sandbox allow-same-origin.*default-src 'none'/);
    expect(html.text).toContain('<p>Hi</p>');
    const file = await server.call(routeTo('getAttachment', { id: row.id, position: 0 }), { token: crew.tokens.rep });
    expect([file.headers.get('content-type'), file.headers.get('x-content-type-options')]).toEqual(['application/octet-stream', 'nosniff']);
    expect(file.headers.get('content-disposition')).toBe("attachment; filename*=UTF-8''e%27vil.html");
    expect((await server.call(routeTo('getAttachment', { id: row.id, position: 7 }), { token: crew.tokens.rep })).status).toBe(404);
  });
});

describe('the line and arriving', () => {
  test('count what each reader may know of, and no more', async () => {
    await importMail(server, crew.tokens.rep, rep, {
      'now.mbox': mbox([
        { id: 'now1', from: 'ida@harbour.example', to: rep, date: new Date(Date.now() - 3_600_000).toUTCString() },
        { id: 'now2', from: 'x@nobody.example', to: rep, subject: 'Other', date: new Date(Date.now() - 7_200_000).toUTCString() },
      ]),
    });
    const line = (token: string) => server.call(routeTo('getLine'), { token }).then((answer) => answer.json);
    expect(await line(crew.tokens.rep)).toMatchObject({ came: 2, filed: 1, unfiled: 1, keptOut: 0, undecided: 0 });
    expect(await line(crew.tokens.other)).toMatchObject({ came: 0, filed: 0 });
    const arrival = (await server.call(routeTo('getArrival'), { token: crew.tokens.rep })).json;
    expect(arrival.unanswered.map((item: { subject: string }) => item.subject)).toContain('Gauge');
    expect((await server.call(routeTo('getArrival'), { token: crew.tokens.other })).json).toMatchObject({ unanswered: [], emails: 0 });
  });

  test('sharing with everyone opens what is filed, and leaves the rest', async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) => void (rulebook.share.level = 'everyone'));
    const { decideAll } = await import('../testing/testServer');
    await decideAll(server, crew.tokens.admin);
    const seen = await list('', crew.tokens.viewer);
    expect(seen.emails.every((email: Answer['json']) => email.outcome === 'filed' && email.content !== null)).toBe(true);
    expect(seen.total).toBeGreaterThan(3);
    expect((await list('outcome=loose', crew.tokens.viewer)).total).toBe(0);
  });
});

describe('what was sent', () => {
  const answered = (is: 'yes' | 'no') => subjects(`answered=${is}`);

  test('is answered by an external person in its conversation, or by what was written down, and by no machine or colleague', async () => {
    expect(await answered('no')).toEqual(['Re: Tide gauge at the lock']);
    const to = 'ida@harbour.example';
    await importMail(server, crew.tokens.rep, rep, {
      'more.mbox': mbox([
        { id: 's1', from: rep, to, subject: 'Quay', date: day(8) },
        { id: 's2', from: to, to: rep, subject: 'Re: Quay', references: '<s1>', date: day(9) },
        { id: 's3', from: rep, to, subject: 'Re: Quay', references: '<s1> <s2>', date: day(10) },
        { id: 's4', from: to, to: rep, subject: 'Away', headers: 'Auto-Submitted: auto-replied', references: '<s3>', date: day(11) },
        { id: 's5', from: rep, to: 'jo@north.example', subject: 'Mole', date: day(12) },
      ]),
    });
    expect(await answered('no')).toEqual(['Mole', 'Re: Quay', 'Re: Tide gauge at the lock']);
    expect(await answered('yes')).toEqual(['Quay']);
    const [ida] = (await server.call(routeTo('listRecords', { kind: 'contact' }), { token: crew.tokens.rep })).json.records;
    const logged = await server.call(routeTo('logActivity'), {
      token: crew.tokens.rep,
      body: {
        kind: 'call',
        at: new Date(Date.UTC(2026, 2, 20)).toISOString(),
        direction: 'received',
        text: 'She called back.',
        records: [{ kind: 'contact', id: ida.id }],
      },
    });
    expect(logged.status).toBe(200);
    expect(await answered('no')).toEqual(['Mole']);
  });
});
