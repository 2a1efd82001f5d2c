import type { Rulebook } from '@fulvet/core';
import { keepOutEntrySchema, ruleSchema, ACTIONS } from '@fulvet/core';
import { PROVIDER } from '../../../demo/src/world';
import type { AnswerWorld, Case } from './answerWorld';
import { account, contact, deal, party } from './answerWorld';

/** Another rulebook, and what is right under it. */
export interface Policy {
  change: (rulebook: Rulebook) => void;
  cases: Record<string, Case>;
}

const lead = (item: { email: string }): string => `lead:${item.email}`;

/** Someone at a company that is not on record, of whom nothing is known. */
function stranger(w: AnswerWorld): { name: string; email: string; domain: string } {
  const company = w.company({ onRecord: false });
  const { name, email } = w.person(company, { kind: 'unknown' });
  return { name, email, domain: company.domains[0] ?? '' };
}

const answered: Record<string, Case> = {
  'written to, never answered': (w, of) => {
    const una = stranger(w);
    const first = w.send(of, 40, { from: party(w.rep()), to: [party(una)], subject: 'Our gauges' }, {});
    w.answer(of, first, w.rep(), 24 * 7, {}, { to: [party(una)] });
    w.answer(
      of,
      first,
      una,
      1,
      { keptOut: true },
      { subject: 'Automatic reply: Our gauges', headers: [['Auto-Submitted', 'auto-replied']] },
    );
  },
  'written to and answered': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    const under = [lead(una)];
    const first = w.send(of, 40, { from: party(rep), to: [party(una)], subject: 'Our gauges' }, { under });
    const second = w.answer(of, first, una, 9, { under, creates: [una.email] });
    w.answer(of, second, rep, 3, { under });
    w.send(of, 10, { from: party(rep), to: [party(una)], subject: 'Price list' }, { under });
  },
  'wrote first, and wrote again after our answer': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    const under = [lead(una)];
    const first = w.send(of, 40, { from: party(una), to: [party(rep)], subject: 'Enquiry' }, { under });
    const second = w.answer(of, first, rep, 9, { under });
    w.answer(of, second, una, 3, { under, creates: [una.email] });
  },
  'wrote first, and was not heard of again': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    const first = w.send(of, 40, { from: party(una), to: [party(rep)], subject: 'Enquiry' }, {});
    w.answer(of, first, rep, 9, {});
  },
  'others in copy of the answer': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    const others = [1, 2, 3].map((at) => ({ name: `Copied Person${at}`, email: `copied.person${at}@${una.domain}` }));
    const first = w.send(of, 40, { from: party(rep), to: [party(una)], subject: 'Our gauges' }, { under: [lead(una)] });
    const second = w.answer(of, first, una, 9, { under: [lead(una), lead(others[0]!)], creates: [una.email] }, { cc: others });
    const third = w.answer(of, second, rep, 3, { under: [lead(una), lead(others[0]!)] }, { to: [party(una)], cc: others });
    w.answer(of, third, others[0]!, 3, { under: [lead(others[0]!)], creates: [others[0]!.email] });
  },
  'an answer without References': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    w.send(of, 40, { from: party(rep), to: [party(una)], subject: 'Gauges for your quay' }, { under: [lead(una)] });
    w.send(
      of,
      39,
      { from: party(una), to: [party(rep)], subject: 'AW: Gauges for your quay' },
      { under: [lead(una)], creates: [una.email] },
    );
  },
  'someone new at a customer': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const anew = w.person(company, { kind: 'unknown' });
    const first = w.send(of, 20, { from: party(rep), to: [party(anew)], subject: 'Your quay' }, { under: [account(company), lead(anew)] });
    w.answer(of, first, anew, 5, { under: [account(company), lead(anew)], creates: [anew.email] });
  },
};

const known: Record<string, Case> = {
  'unknown-people stay with their reader': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    const first = w.send(of, 40, { from: party(una), to: [party(rep)], subject: 'Enquiry' }, {});
    w.answer(of, first, rep, 9, {});
  },
  'unknown-people among known people': (w, of) => {
    const [company, rep, una] = [w.company(), w.rep(), stranger(w)];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(of, 30, { from: party(ida), to: [party(rep)], cc: [party(una)], subject: 'Crane' }, { under });
    w.answer(of, first, rep, 3, { under });
    w.answer(of, first, una, 5, {}, { to: [party(rep)] });
  },
  'someone new at a customer': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const anew = w.person(company, { kind: 'unknown' });
    w.send(of, 20, { from: party(anew), to: [party(rep)], subject: 'Your quay' }, {});
  },
};

const answersOnly: Record<string, Case> = {
  'what we began is not filed, what stands filed goes on': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const first = w.send(of, 30, { from: party(ida), to: [party(rep)], subject: 'Crane' }, {});
    w.answer(of, first, rep, 3, {});
    // A rule takes in what is about orders; answers to that follow.
    const order = w.send(
      of,
      20,
      { from: party(ida), to: [party(rep)], subject: 'Purchase order 17' },
      { under: [contact(ida), account(company)] },
    );
    const reply = w.answer(of, order, rep, 3, { under: [contact(ida), account(company)] }, { subject: 'Your order' });
    w.answer(of, reply, ida, 4, { under: [contact(ida), account(company)] }, { subject: 'Thank you' });
  },
};

const BRIDGE = 'talentbridge.example';
const recruiters: Record<string, Case> = {
  'the recruiters, and the one that is a customer': (w, of) => {
    const rep = w.rep();
    const bridge = w.company({ domains: [BRIDGE] });
    const greta = w.person(bridge, { email: `greta.${w.sent.length}@${BRIDGE}` });
    const rick = { name: 'Rick Talbot-Sands', email: `rick.${w.sent.length}@${BRIDGE}` };
    const its = w.deal(bridge, [greta], 'training gauges', 80);
    const under = [contact(greta), account(bridge), deal(its)];
    w.send(of, 25, { from: rick, to: [party(rep)], subject: 'Talented people' }, { keptOut: true });
    const first = w.send(of, 24, { from: party(greta), to: [party(rep)], subject: 'A gauge to train with' }, { under });
    w.answer(of, first, rep, 3, { under }, { cc: [rick] });
    const other = { name: 'Hunter Vale', email: `hunter.${w.sent.length}@headhunt-${w.sent.length}.example` };
    w.send(of, 23, { from: other, to: [party(rep)], subject: 'A vacancy' }, { keptOut: true });
  },
};

const afterThree: Record<string, Case> = {
  'three emails, whoever wrote them': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    const who = [contact(una), `account:${una.domain}`];
    const first = w.send(of, 40, { from: party(una), to: [party(rep)], subject: 'Enquiry' }, { under: who });
    const second = w.answer(of, first, rep, 5, { under: who });
    w.answer(of, second, una, 9, { under: who, creates: [una.email, una.domain] });
    const [bo, other] = [stranger(w), w.rep()];
    w.send(of, 40, { from: party(bo), to: [party(other)], subject: 'One question' }, {});
    w.send(of, 20, { from: party(bo), to: [party(other)], subject: 'Another question' }, {});
  },
  'machine mail does not count': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    const first = w.send(of, 40, { from: party(rep), to: [party(una)], subject: 'Our gauges' }, {});
    for (const hours of [1, 2, 3])
      w.answer(
        of,
        first,
        una,
        hours,
        { keptOut: true },
        { subject: 'Automatic reply: Our gauges', headers: [['Auto-Submitted', 'auto-replied']] },
      );
  },
};

const asking: Record<string, Case> = {
  'at providers no one is created, at companies a person is asked': (w, of) => {
    const [una, rep] = [stranger(w), w.rep()];
    const home = { name: 'Olga Prentiss', email: `olga.prentiss${w.sent.length}@${PROVIDER}` };
    w.send(of, 40, { from: party(una), to: [party(rep)], subject: 'Enquiry' }, { asks: ['person'] });
    w.send(of, 40, { from: home, to: [party(rep)], subject: 'Enquiry' }, {});
    w.send(of, 40, { from: party(rep), to: [{ name: '', email: `info@${una.domain}` }], subject: 'Prospectus' }, {});
  },
};

const certain: Record<string, Case> = {
  'only what is certain': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const [first, second] = [w.deal(company, [ida], 'tide gauges', 90, null, rep), w.deal(company, [ida], 'telemetry', 90, null, w.rep())];
    const who = [contact(ida), account(company)];
    w.send(of, 40, { from: party(ida), to: [party(rep)], subject: 'Which sensors?' }, { under: who, asks: ['deal'] });
    w.send(of, 39.5, { from: party(ida), to: [party(rep)], subject: 'Telemetry' }, { under: [...who, deal(second)] });
    w.send(of, 39, { from: party(ida), to: [party(rep)], subject: `Order ${first.code}` }, { under: [...who, deal(first)] });
    w.send(of, 38, { from: party(ida), to: [party(rep)], subject: `Order ${second.code}` }, { under: [...who, deal(second)] });
  },
};

const rule = <Step extends keyof typeof ACTIONS>(step: Step, id: string, when: object, then: object): never =>
  ruleSchema(ACTIONS[step]).parse({ id, name: id, when, then }) as never;

/** What is right under other rulebooks than the usual one, by the name of what they do. */
export const POLICIES: Record<string, Policy> = {
  'leads after they answered': {
    change: ({ create }) => void Object.assign(create, { people: 'lead', after: 'theyAnswered', accounts: false }),
    cases: answered,
  },
  'known people only': { change: ({ takeIn }) => void (takeIn.scope = 'known'), cases: known },
  'answers only, and orders': {
    change: ({ takeIn, create }) => {
      takeIn.scope = 'answers';
      takeIn.rules = [rule('takeIn', 'orders', { fact: 'subject', test: { contains: ['order'] } }, { do: 'takeIn' })];
      create.people = 'nothing';
    },
    cases: answersOnly,
  },
  'no recruiters, but our customer': {
    change: ({ keepOut }) => {
      keepOut.entries.push(keepOutEntrySchema.parse({ id: 'bridge', kind: 'domain', value: BRIDGE }));
      keepOut.rules = [
        rule('keepOut', 'customers', { fact: 'participant', which: 'any', test: { is: 'contact' } }, { do: 'letThrough' }),
        rule('keepOut', 'vacancies', { fact: 'subject', test: { contains: ['vacancy'] } }, { do: 'keepOut' }),
      ];
    },
    cases: recruiters,
  },
  'after three emails': { change: ({ create }) => void Object.assign(create, { after: 'emails', emails: 3 }), cases: afterThree },
  'ask about people at companies': {
    change: ({ create }) => {
      create.people = 'nothing';
      create.rules = [
        rule('create', 'providers', { fact: 'participant', which: 'this', test: { is: 'publicProvider' } }, { do: 'nothing' }),
        rule('create', 'ask', { fact: 'participant', which: 'this', test: { is: 'unknown' } }, { do: 'ask' }),
      ];
    },
    cases: asking,
  },
  'certain deals only': { change: ({ match }) => void (match.deal = 'certain'), cases: certain },
};
