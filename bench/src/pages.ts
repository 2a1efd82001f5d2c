import { call } from '../../server/src/testing/testServer';
import type { Destination } from '../../server/src/testing/routeTo';
import { routeTo } from '../../server/src/testing/routeTo';
import type { Times } from './measure';
import { report, timesOf } from './measure';
import { measuredWorld, SIZES } from './world/measuredWorld';

const ROUNDS = 9;
/** What a page may take among the most emails, milliseconds. */
const GOAL_MS = 200;

/** The requests that pages begin with. */
const PAGES: Readonly<Record<string, Destination>> = {
  home: routeTo('getArrival'),
  'the steps': routeTo('getLine'),
  'mail of twelve weeks': routeTo('getMailFlow'),
  'all mail': routeTo('listEmails'),
  'all mail, filed': routeTo('listEmails', { outcome: 'filed' }),
  'all mail of a domain': routeTo('listEmails', { domain: 'company-7.example' }),
  'search, a word in a quarter': routeTo('search', { text: 'calibration' }),
  'search, a rare word': routeTo('search', { text: '77' }),
  'search, two words never together': routeTo('search', { text: 'calibration visit' }),
  contacts: routeTo('listRecords', { kind: 'contact' }),
  'contacts, by a part of a name': routeTo('listRecords', { kind: 'contact', text: 'person 77' }),
  accounts: routeTo('listRecords', { kind: 'account' }),
  'an account': routeTo('getRecord', { kind: 'account', id: 7 }),
  'history of an account': routeTo('getHistory', { kind: 'account', id: 7 }),
  'history of a domain': routeTo('getDomainHistory', { domain: 'company-7.example' }),
  'sorting desk': routeTo('getDesk'),
  'unknown people': routeTo('listUnknownPeople', { whose: 'all' }),
  mailboxes: routeTo('listMailboxes'),
  'rules and what they took': routeTo('useOfRules'),
  'domains of a month': routeTo('listDomainUse'),
  'first count of a rule, a domain': routeTo('countRule'),
};

/** Rules that are counted before any past mail is in memory. */
const COUNTS: Readonly<Record<string, unknown>> = {
  'first count of a rule, a domain': {
    step: 'takeIn',
    partly: true,
    rule: {
      id: 'new',
      on: true,
      name: '',
      note: '',
      when: { fact: 'participant', which: 'any', test: { is: 'domain', value: 'company-7.example', exactly: false } },
      then: { do: 'takeIn' },
      appliesTo: { mailboxes: [] },
    },
  },
};

const measure = (emails: number): Promise<Record<string, Times>> =>
  measuredWorld(emails, async (server, crew) => {
    const times: Record<string, Times> = {};
    for (const [name, target] of Object.entries(PAGES))
      times[name] = await timesOf(ROUNDS, async () => {
        const body = COUNTS[name];
        const answer = await call(server.url, target, { token: crew.tokens.admin, ...(body ? { body } : {}) });
        if (answer.status !== 200) throw new Error(`${name}: ${answer.text}`);
      });
    return times;
  });

/** What the pages ask of the server, over HTTP with row security, as mail grows a hundredfold: each against itself among the fewest emails. */
async function main(): Promise<void> {
  const all: Record<string, Times>[] = [];
  for (const size of SIZES) all.push(await measure(size));
  const ms = (value: number): string => (value < 10 ? value.toFixed(1) : value.toFixed(0));
  report(
    `pages among ${SIZES.join(', ')} emails, the middle of ${ROUNDS} requests in ms`,
    Object.keys(PAGES).map((name) => {
      const [few, , many] = all.map((times) => times[name] ?? { middle: 0, slowest: 0 });
      const middles = all.map((times) => ms(times[name]?.middle ?? 0)).join(', ');
      const growth = ((many?.middle ?? 0) / (few?.middle ?? 1)).toFixed(1);
      const isOver = (many?.slowest ?? 0) > GOAL_MS;
      return [name, `${middles}; ${growth} times the fewest, the slowest ${ms(many?.slowest ?? 0)}${isOver ? ` (goal ${GOAL_MS})` : ''}`];
    }),
  );
}

await main();
