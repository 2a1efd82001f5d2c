import { routeTo } from '../../server/src/testing/routeTo';
import type { Destination } from '../../server/src/testing/routeTo';
import { request } from 'node:http';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { gzipSync } from 'node:zlib';
import type { Answer, Crew, TestServer } from '../../server/src/testing/testServer';
import { eml, importMail, makeToken, mbox, owner, PASSWORD, setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { mail, calendar, GROWING, pictured } from './attack/growingMail';
import { MOST_PATTERN_MS, costliestPattern } from './attack/hardPatterns';

/** One attack: what it tries, and what came of it. */
interface Attack {
  name: string;
  run: (at: Target) => Promise<Outcome>;
}

interface Outcome {
  held: boolean;
  figure: string;
}

interface Target {
  server: TestServer;
  crew: Crew;
}

/** Milliseconds for which the serving process may be busy with one email. */
const MOST_BUSY = 50;

const call = ({ server, crew }: Target, who: keyof Crew['tokens'], target: Destination, body?: unknown): Promise<Answer> =>
  server.call(target, { token: crew.tokens[who], body });

const inbox = ({ server, crew }: Target, who: 'rep' | 'other', bytes: string | Uint8Array): Promise<Answer['json']> =>
  importMail(server, crew.tokens[who], `${who}@quillmere.example`, { 'mail.eml': bytes });

/** The longest time for which the process answered no one while work went on. */
async function longestStop(work: () => Promise<unknown>): Promise<number> {
  const delay = monitorEventLoopDelay({ resolution: 5 });
  delay.enable();
  await work();
  delay.disable();
  return delay.max / 1e6;
}

async function stopsNoOne(work: () => Promise<unknown>): Promise<Outcome> {
  const longest = await longestStop(work);
  return { held: longest <= MOST_BUSY, figure: `the longest stop was ${longest.toFixed(0)} ms (goal ${MOST_BUSY})` };
}

/** Seconds for n, 2n and 4n; it holds when four times as much costs less than eight times as long. */
async function growth(n: number, work: (count: number) => Promise<unknown>): Promise<Outcome> {
  const times: number[] = [];
  for (const count of [n, 2 * n, 4 * n]) {
    const began = performance.now();
    await work(count);
    times.push((performance.now() - began) / 1000);
  }
  const [first = 0, , last = 0] = times;
  return {
    held: last < first * 8 + 1,
    figure: `${n}, ${2 * n}, ${4 * n}: ${times.map((seconds) => `${seconds.toFixed(1)} s`).join(', ')}`,
  };
}

const ATTACKS: readonly Attack[] = [
  {
    name: 'a pattern that is hard, on 100 kB made for it',
    run: () => {
      const { pattern, ms } = costliestPattern();
      return Promise.resolve({ held: ms <= MOST_PATTERN_MS, figure: `${pattern} takes ${ms.toFixed(2)} ms (goal ${MOST_PATTERN_MS})` });
    },
  },
  ...Object.entries(GROWING).map(([name, { from, message }]): Attack => ({
    name: `more and more ${name}`,
    run: (at) =>
      growth(from, (count) => importMail(at.server, at.crew.tokens.other, 'other@quillmere.example', { 'a.mbox': message(count) })),
  })),
  {
    name: 'one picture, shown more and more often',
    run: async (at) => {
      const counts = [125, 250, 500];
      for (const count of counts) await inbox(at, 'other', pictured(count));
      const rows = await owner(at.server.ownerUrl, `SELECT id::int FROM emails WHERE message_id LIKE 'pictures%' ORDER BY id`);
      let largest = 0;
      const times = await growth(125, async (count) => {
        const shown = await call(at, 'other', routeTo('getEmailHtml', { id: rows[counts.indexOf(count)]?.id }));
        largest = Math.max(largest, shown.text.length);
      });
      return { held: times.held && largest < 33_000_000, figure: `${times.figure}; at most ${(largest / 1e6).toFixed(1)} MB` };
    },
  },
  {
    name: 'an email in a customer’s name, by X-Original-From',
    run: async (at) => {
      await inbox(
        at,
        'other',
        eml(
          mail('claimed', {
            from: 'x@evil.example',
            to: 'other@quillmere.example',
            headers: 'X-Original-From: Ida Brandt <ida@harbour.example>',
          }),
        ),
      );
      const [row] = await owner(
        at.server.ownerUrl,
        `SELECT p.address FROM participants p JOIN emails e ON e.id = p.email_id WHERE e.message_id = 'claimed' AND p.role = 'from'`,
      );
      return { held: row?.address === 'x@evil.example', figure: `it is from ${String(row?.address)}` };
    },
  },
  {
    name: 'a forged copy of a private email',
    run: async (at) => {
      const secret = mail('secret@harbour.example', {
        text: 'The price is 41,250, and no one else is to know of it before Friday, when we sign.',
      });
      await inbox(at, 'rep', eml(secret));
      const [real] = await owner(at.server.ownerUrl, `SELECT id::int FROM emails WHERE message_id = 'secret@harbour.example'`);
      for (const text of ['x', '', secret.text?.slice(0, 40) ?? ''])
        await inbox(at, 'other', eml({ ...secret, text, bcc: 'm@elsewhere.example' }));
      const opened = await call(at, 'other', routeTo('getEmail', { id: real?.id }));
      return { held: opened.status === 404, figure: `answered ${opened.status}` };
    },
  },
  {
    name: 'invitations that never recur',
    run: (at) =>
      stopsNoOne(async () => {
        for (const rule of ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', 'FREQ=SECONDLY', 'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31;COUNT=99999999'])
          await inbox(at, 'other', calendar(rule));
      }),
  },
  {
    name: 'a message of 200,000 parts',
    run: (at) =>
      stopsNoOne(() =>
        inbox(
          at,
          'other',
          `From: x@elsewhere.example\nMessage-ID: <parts>\nContent-Type: multipart/mixed; boundary=b\n\n${'--b\n\nx\n'.repeat(200_000)}--b--`,
        ),
      ),
  },
  {
    name: 'an email with 10,000 recipients',
    run: (at) => {
      const to = Array.from({ length: 10_000 }, (_, n) => `p${n}@company${n % 500}.example`).join(', ');
      return stopsNoOne(() => inbox(at, 'other', eml(mail('many', { to, cc: 'other@quillmere.example' }))));
    },
  },
  {
    name: 'one subject without references, thousands of times',
    run: (at) =>
      growth(250, (count) =>
        importMail(at.server, at.crew.tokens.other, 'other@quillmere.example', {
          'a.mbox': mbox(
            Array.from({ length: count }, (_, n) =>
              mail(`s${count}-${n}`, {
                subject: `Re: same ${count}`,
                date: new Date(Date.UTC(2026, 4, 1, 0, n)).toUTCString().replace('GMT', '+0000'),
              }),
            ),
          ),
        }),
      ),
  },
  {
    name: 'a file that is compressed again and again',
    run: async (at) => {
      let bytes: Uint8Array = Buffer.from(mbox([mail('deep')]));
      for (let layer = 0; layer < 12; layer += 1) bytes = gzipSync(bytes);
      const run = await importMail(at.server, at.crew.tokens.other, 'other@quillmere.example', { 'a.gz': bytes });
      return { held: run.state === 'done' && run.counts.unreadable === 1, figure: `${run.state}, ${run.counts.unreadable} unreadable` };
    },
  },
  {
    name: 'a body of 64 MB from anyone',
    run: async (at) => {
      const longest = await longestStop(() =>
        at.server
          .call(routeTo('signIn'), {
            bytes: `${'['.repeat(32_000_000)}${']'.repeat(32_000_000)}`,
            headers: { 'content-type': 'application/json' },
          })
          .catch(() => undefined),
      );
      return { held: longest < 500, figure: `the longest stop was ${longest.toFixed(0)} ms, most of it the attacker’s own` };
    },
  },
  {
    name: 'eight downloads that are not read',
    run: async (at) => {
      const held = await Promise.all(
        Array.from(
          { length: 8 },
          () =>
            new Promise<number>((resolve) => {
              const asked = request(
                `${at.server.url}/api/v1/export/mail`,
                { headers: { authorization: `Bearer ${at.crew.tokens.other}` } },
                (answer) => {
                  answer.pause();
                  resolve(answer.statusCode ?? 0);
                },
              );
              asked.on('error', () => resolve(0));
              asked.end();
            }),
        ),
      );
      const answer = await call(at, 'admin', routeTo('listEmails'));
      return {
        held: answer.status === 200 && held.filter((status) => status === 200).length <= 3,
        figure: `${held.filter((status) => status === 200).length} were taken; others were answered ${answer.status}`,
      };
    },
  },
  {
    name: 'a token that makes a stronger one',
    run: async (at) => {
      const made = await makeToken(at.server, 'manager@quillmere.example', { scopes: ['read'] });
      const answer = await at.server.call(routeTo('createToken'), {
        token: made.json.token,
        body: { name: 'x', scopes: ['read', 'write'], password: PASSWORD },
      });
      return { held: answer.status === 403, figure: `answered ${answer.status}` };
    },
  },
  {
    name: 'an import request whose header is called __proto__',
    run: async (at) => {
      const answer = await call(at, 'admin', routeTo('previewRecords', { kind: 'contact' }), {
        text: 'name,emails,__proto__\nIda,ida@harbour.example,x\n',
      });
      return { held: answer.status < 500 && !('x' in {}), figure: `answered ${answer.status}` };
    },
  },
  {
    name: 'a hundred passwords at once, by many spellings',
    run: async (at) => {
      const spellings = ['viewer@quillmere.example', 'VIEWER@quillmere.example', ' viewer@quillmere.example'];
      const answers = await Promise.all(
        Array.from({ length: 100 }, (_, n) =>
          at.server.call(routeTo('signIn'), { body: { email: spellings[n % 3], password: `guess ${n}` } }),
        ),
      );
      const tried = answers.filter((answer) => answer.status === 401).length;
      return { held: tried <= 10, figure: `${tried} were tried` };
    },
  },
];

/** Attacks an installation of its own on loopback, and prints for each attack whether it held. */
async function main(): Promise<void> {
  // Work goes on in a thread, as where people use it.
  const server = await startTestServer({ downloadLimits: { unread: 2_000 }, worksApart: true });
  try {
    const crew = await setUpCrew(server);
    const idle = await longestStop(() => new Promise((resolve) => setTimeout(resolve, 2_000)));
    process.stdout.write(`\nattacks (this machine stops an idle process for up to ${idle.toFixed(0)} ms)\n`);
    for (const attack of ATTACKS) {
      const { held, figure } = await attack
        .run({ server, crew })
        .catch((error: unknown): Outcome => ({ held: false, figure: String(error) }));
      process.stdout.write(`  ${held ? 'held  ' : 'BROKEN'}  ${attack.name.padEnd(52)} ${figure}\n`);
      if (!held) process.exitCode = 1;
    }
  } finally {
    await server.remove();
  }
}

await main();
