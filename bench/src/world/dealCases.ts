import type { Case } from './answerWorld';
import { account, contact, deal, party } from './answerWorld';
import { CONVERSATION_CASES } from './conversationCases';

/** Which deal an email is about, each case as a few emails of which it is known what is right. */
export const DEAL_CASES: Record<string, Case> = {
  'one open deal': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const [ida, ole] = [w.person(company), w.person(company)];
    const its = w.deal(company, [ida, ole], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(of, 60, { from: party(ida), to: [party(rep)], subject: 'Height of the mounting' }, { under });
    const second = w.answer(of, first, rep, 5, { under: [...under, contact(ole)] }, { cc: [party(ole)] });
    w.answer(of, second, ole, 30, { under: [...under, contact(ole)] }, { cc: [party(ida)] });
  },
  'no deal': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const first = w.send(of, 50, { from: party(ida), to: [party(rep)], subject: 'Catalogue' }, { under: [contact(ida), account(company)] });
    w.answer(of, first, rep, 4, { under: [contact(ida), account(company)] });
  },
  'two open deals, named in the subject': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const gauges = w.deal(company, [ida], 'tide gauges', 90, null, rep);
    const buoys = w.deal(company, [ida], 'survey buoys', 90, null, rep);
    for (const [subject, its] of [
      ['Delivery of the survey buoys', buoys],
      ['Tide gauges: drawings', gauges],
    ] as const) {
      const under = [contact(ida), account(company), deal(its)];
      const first = w.send(of, 40, { from: party(ida), to: [party(rep)], subject }, { under });
      w.answer(of, first, rep, 3, { under });
    }
  },
  'two open deals, one word of one in the subject': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    w.deal(company, [ida], 'cage monitoring', 90, null, rep);
    const its = w.deal(company, [ida], 'telemetry', 90, null, rep);
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(of, 40, { from: party(rep), to: [party(ida)], subject: 'Telemetry offer, second version' }, { under });
    w.answer(of, first, ida, 20, { under });
  },
  'two open deals and no sign': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const both = [w.deal(company, [ida], 'tide gauges', 90, null, rep), w.deal(company, [ida], 'river network', 90, null, rep)];
    w.send(
      of,
      40,
      { from: party(ida), to: [party(rep)], subject: 'Quick question' },
      { under: [contact(ida), account(company)], asks: ['deal'], may: both.map(deal) },
    );
  },
  'code in subject or text': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const [first, other] = [w.deal(company, [ida], 'tide gauges', 90), w.deal(company, [ida], 'spare sensors', 90)];
    w.send(
      of,
      40,
      { from: party(ida), to: [party(rep)], subject: `Order ${first.code}` },
      { under: [contact(ida), account(company), deal(first)] },
    );
    const text = `about your offer ${other.code.toLowerCase()} of last week: we accept.`;
    const second = w.send(
      of,
      30,
      { from: party(ida), to: [party(rep)], subject: 'Your offer', text },
      { under: [contact(ida), account(company), deal(other)] },
    );
    w.answer(of, second, rep, 4, { under: [contact(ida), account(company), deal(other)] });
  },
  'a code written in other ways': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const [first, second] = [w.deal(company, [ida], 'tide gauges', 90), w.deal(company, [ida], 'spare sensors', 90)];
    const number = first.code.replace('QH-', '');
    const right = { under: [contact(ida), account(company), deal(first)] };
    const from = party(ida);
    const to = [party(rep)];
    for (const written of [`QH ${number}`, `qh${number}`, `QH#${number}`, `QH_${number}`])
      w.send(of, 40, { from, to, subject: `Order ${written}, confirmed` }, right);
    w.send(of, 30, { from, to, subject: 'Papers', text: `the papers for QH ${number}, as agreed on 12 May 2026.` }, right);
    const theirs = { under: [contact(ida), account(company), deal(second)] };
    w.send(of, 20, { from, to, subject: `Order ${second.code} of 2026, 12 pieces, PN 16` }, theirs);
  },
  'someone whom no one knows names the code': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const its = w.deal(company, [w.person(company)], 'tide gauges', 90);
    const carrier = { name: 'Carla Freight', email: `carla@freight-${w.sent.length}.example` };
    const who = { under: [deal(its)], may: [account(company)] };
    w.send(of, 20, { from: carrier, to: [party(rep)], subject: `Crates ${its.code}` }, who);
    w.send(
      of,
      19,
      { from: carrier, to: [party(rep)], subject: 'The crates', text: `they are for ${its.code.toLowerCase()}.` },
      { under: [] },
    );
  },
  'a closed deal and a new one': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const old = w.deal(company, [ida], 'river network', 300, 120);
    const fresh = w.deal(company, [ida], 'service contract', 60);
    const who = [contact(ida), account(company)];
    const before = w.send(of, 200, { from: party(ida), to: [party(rep)], subject: 'Site visit' }, { under: [...who, deal(old)] });
    w.answer(of, before, rep, 6, { under: [...who, deal(old)] });
    w.send(of, 20, { from: party(ida), to: [party(rep)], subject: 'Yearly visits' }, { under: [...who, deal(fresh)] });
  },
  'mail from long before the deal': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'telemetry', 30);
    const who = [contact(ida), account(company)];
    const old = w.send(of, 400, { from: party(ida), to: [party(rep)], subject: 'Repair of the logger' }, { under: who });
    w.answer(of, old, rep, 8, { under: who });
    w.send(of, 36, { from: party(ida), to: [party(rep)], subject: 'We need a telemetry box' }, { under: [...who, deal(its)] });
    w.send(of, 10, { from: party(ida), to: [party(rep)], subject: 'The box' }, { under: [...who, deal(its)] });
  },
  ...CONVERSATION_CASES,
  'someone unknown at a customer names the deal': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const anew = w.person(company, { kind: 'unknown' });
    const its = w.deal(company, [ida], 'survey buoys', 60, null, rep);
    w.send(of, 33, { from: party(ida), to: [party(rep)], subject: 'Moorings' }, { under: [contact(ida), account(company), deal(its)] });
    const first = w.send(
      of,
      30,
      { from: party(anew), to: [party(rep)], subject: 'Survey buoys: who signs?' },
      { under: [account(company), deal(its)], may: [contact(anew)] },
    );
    w.answer(of, first, rep, 5, { under: [account(company), deal(its), contact(anew)], creates: [anew.email] });
  },
  'someone on no deal, about something else': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const [ida, bo] = [w.person(company), w.person(company)];
    w.deal(company, [ida], 'survey buoys', 60, null, rep);
    w.send(of, 30, { from: party(bo), to: [party(rep)], subject: 'Parking at your works' }, { under: [contact(bo), account(company)] });
  },
  'a deal that names nobody': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [], 'river network', 60);
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(of, 20, { from: party(ida), to: [party(rep)], subject: 'Where to put the weir' }, { under });
    w.answer(of, first, rep, 4, { under });
  },
  'two deals that name nobody': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [], 'river network', 60, null, rep);
    w.deal(company, [], 'telemetry', 60, null, rep);
    const who = [contact(ida), account(company)];
    w.send(of, 21, { from: party(ida), to: [party(rep)], subject: 'River network: pegs' }, { under: [...who, deal(its)] });
    w.send(of, 20, { from: party(ida), to: [party(rep)], subject: 'Parking' }, { under: who });
  },
  'answers whose parents were never seen': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80, null, rep);
    w.deal(company, [ida], 'cage monitoring', 80);
    const under = [contact(ida), account(company), deal(its)];
    const references = [`lost.${ida.email}`];
    w.send(of, 20, { from: party(ida), to: [party(rep)], subject: `Re: Order ${its.code}`, references }, { under });
    w.send(
      of,
      19,
      { from: party(rep), to: [party(ida)], subject: 'Re: Order', references: [...references, `also.lost.${ida.email}`] },
      { under },
    );
  },
  'no References in the answer': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    w.deal(company, [ida], 'survey buoys', 80);
    const under = [contact(ida), account(company), deal(its)];
    w.send(
      of,
      20,
      { from: party(rep), to: [party(ida)], subject: `Offer ${its.code} for ${ida.name}`, text: 'our offer is attached.' },
      { under },
    );
    w.send(of, 18, { from: party(ida), to: [party(rep)], subject: `AW: Offer ${its.code} for ${ida.name}` }, { under });
    w.send(
      of,
      17,
      { from: party(rep), to: [party(ida)], subject: 'Wharf plan' },
      { under: under.slice(0, 2), asks: ['deal'], may: [deal(its)] },
    );
  },
  'forwarded to someone else': (w, of) => {
    const [company, other, rep] = [w.company(), w.company(), w.rep()];
    const [ida, bo] = [w.person(company), w.person(other)];
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const first = w.send(
      of,
      20,
      { from: party(ida), to: [party(rep)], subject: 'Crane dates' },
      { under: [contact(ida), account(company), deal(its)] },
    );
    const passedOn = { to: [party(bo)], subject: 'Fwd: Who has a crane?' };
    w.answer(of, first, rep, 4, { under: [contact(bo), account(other)] }, passedOn);
    w.answer(of, first, rep, 5, { keptOut: true }, { to: [party(w.world.team[1]!)], subject: 'Fwd: Crane dates' });
  },
  'a customer and someone else’s consultant': (w, of) => {
    const [company, office, rep] = [w.company(), w.company(), w.rep()];
    const [ida, cleo] = [w.person(company), w.person(office)];
    const its = w.deal(company, [ida], 'survey buoys', 80, null, rep);
    w.deal(office, [cleo], 'telemetry', 80);
    const under = [contact(ida), account(company), contact(cleo), account(office)];
    const right = { under: [...under, deal(its)] };
    w.send(of, 20, { from: party(ida), to: [party(rep)], cc: [party(cleo)], subject: 'Survey buoys, moorings' }, right);
    w.send(
      of,
      10,
      { from: party(ida), to: [party(rep)], cc: [party(cleo)], subject: 'Lunch?' },
      { under, asks: ['deal'], may: [deal(its), 'question:deal'] },
    );
  },
};
