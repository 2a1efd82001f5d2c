import type { Case } from './answerWorld';
import { account, contact, deal, party } from './answerWorld';

/** Conversations that turn to another deal or rest, and resellers, of which it is known what is right. */
export const CONVERSATION_CASES: Record<string, Case> = {
  'old conversation, new matter': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const old = w.deal(company, [ida], 'tide gauges', 300, 150);
    const fresh = w.deal(company, [ida], 'wave staff', 40);
    const who = [contact(ida), account(company)];
    const first = w.send(of, 200, { from: party(ida), to: [party(rep)], subject: 'Bracket drawings' }, { under: [...who, deal(old)] });
    const second = w.answer(of, first, rep, 6, { under: [...who, deal(old)] });
    const anew = w.answer(
      of,
      second,
      ida,
      24 * 180,
      { under: [...who, deal(fresh)] },
      { subject: 'A wave staff for the mole (was: Bracket drawings)' },
    );
    w.answer(of, anew, rep, 5, { under: [...who, deal(fresh)] });
  },
  'old conversation of an open deal, another deal named': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const gauges = w.deal(company, [ida], 'tide gauges', 200, null, rep);
    const buoys = w.deal(company, [ida], 'survey buoys', 60, null, rep);
    const who = [contact(ida), account(company)];
    const first = w.send(
      of,
      150,
      { from: party(ida), to: [party(rep)], subject: `Bracket drawings ${gauges.code}` },
      { under: [...who, deal(gauges)] },
    );
    const second = w.answer(of, first, rep, 6, { under: [...who, deal(gauges)] });
    const right = { under: [...who, deal(buoys)] };
    const anew = w.answer(of, second, ida, 24 * 110, right, { subject: 'Survey buoys: price of two' });
    const reply = w.answer(of, anew, rep, 5, right);
    w.answer(of, reply, ida, 20, right);
    w.answer(of, second, ida, 24 * 111, { under: [...who, deal(gauges)] });
  },
  'a conversation that turns to another deal by its code': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const item = w.deal(company, [ida], 'tide gauges', 90, null, rep);
    const other = w.deal(company, [ida], 'telemetry', 90, null, rep);
    const who = [contact(ida), account(company)];
    const first = w.send(of, 40, { from: party(ida), to: [party(rep)], subject: `Papers ${item.code}` }, { under: [...who, deal(item)] });
    const second = w.answer(of, first, rep, 6, { under: [...who, deal(item)] });
    const turned = w.answer(of, second, ida, 30, { under: [...who, deal(other)] }, { subject: `Papers ${other.code}` });
    w.answer(of, turned, rep, 4, { under: [...who, deal(other)] });
  },
  'another subject, the same matter': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 90, null, rep);
    w.deal(company, [ida], 'survey buoys', 90, null, rep);
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(of, 40, { from: party(ida), to: [party(rep)], subject: `Crane ${its.code}` }, { under });
    const second = w.answer(of, first, rep, 6, { under }, { subject: 'Crane dates, new week' });
    w.answer(of, second, ida, 24 * 9, { under }, { subject: 'Week 32 it is (was: Crane dates)' });
  },
  'a conversation that had rested, two deals open': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 200, null, rep);
    const other = w.deal(company, [ida], 'survey buoys', 50, null, rep);
    const who = [contact(ida), account(company)];
    const first = w.send(of, 150, { from: party(ida), to: [party(rep)], subject: `Crane ${its.code}` }, { under: [...who, deal(its)] });
    w.answer(
      of,
      first,
      ida,
      24 * 120,
      { under: who, asks: ['deal'], may: [its, other].map(deal) },
      { subject: 'Something else', to: [party(rep)] },
    );
  },
  'a reseller names the company, whose name no deal has': (w, of) => {
    const [reseller, rep] = [w.company({ type: 'reseller' }), w.rep()];
    const rosa = w.person(reseller);
    const ends = [0, 1, 2].map((at) => {
      const company = w.company();
      const its = w.deal(company, [w.person(company), rosa], 'gauges', 100, null, rep);
      its.name = `Outer works, lot ${at + 1}`;
      return { company, its };
    });
    const [{ company, its }] = ends as [(typeof ends)[0]];
    const right = { under: [contact(rosa), account(reseller), deal(its)], may: [account(company)] };
    const first = w.send(of, 30, { from: party(rosa), to: [party(rep)], subject: `Crates for ${company.name}` }, right);
    w.answer(of, first, rep, 9, right);
  },
  'a reseller, the end customer named': (w, of) => {
    const [reseller, rep] = [w.company({ type: 'reseller' }), w.rep()];
    const rosa = w.person(reseller);
    const ends = [0, 1, 2, 3].map(() => {
      const company = w.company();
      return { company, its: w.deal(company, [w.person(company), rosa], w.random.pick(['tide gauges', 'survey buoys']), 100, null, rep) };
    });
    const [{ company, its }] = ends as [(typeof ends)[0]];
    const place = company.name.split(' ').slice(0, 2).join(' ');
    const under = [contact(rosa), account(reseller), deal(its)];
    const first = w.send(
      of,
      30,
      { from: party(rosa), to: [party(rep)], subject: `${place}: delivery address` },
      { under, may: [account(company)] },
    );
    w.answer(of, first, rep, 9, { under, may: [account(company)] });
  },
  'a reseller and an end customer': (w, of) => {
    const [reseller, rep] = [w.company({ type: 'reseller' }), w.rep()];
    const rosa = w.person(reseller);
    const ends = [0, 1, 2].map(() => {
      const company = w.company();
      const ida = w.person(company);
      return { company, ida, its: w.deal(company, [ida, rosa], 'tide gauges', 100) };
    });
    const [{ company, ida, its }] = ends as [(typeof ends)[0]];
    const under = [contact(rosa), account(reseller), contact(ida), account(company), deal(its)];
    w.send(of, 30, { from: party(ida), to: [party(rep)], cc: [party(rosa)], subject: 'Plan of the quay' }, { under });
  },
};
