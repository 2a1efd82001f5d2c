import { PROVIDER } from '../../../demo/src/world';
import type { Case } from './answerWorld';
import { account, contact, deal, party } from './answerWorld';

const LAWYER = { name: 'Cordula Weiss-Amaro', email: 'c.weiss-amaro@amaro-partners.example' };
const RECRUITER = { name: 'Rick Talbot-Sands', email: 'rick@talentbridge.example' };

/** Whose mail it is, what stays out and what is created, each case as a few emails of which it is known what is right. */
export const PEOPLE_CASES: Record<string, Case> = {
  'a colleague of the customer is brought in': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const anew = w.person(company, { kind: 'unknown' });
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(
      of,
      30,
      { from: party(ida), to: [party(rep)], cc: [party(anew)], subject: 'Cable lengths' },
      { under, may: [contact(anew)] },
    );
    const second = w.answer(
      of,
      first,
      rep,
      5,
      { under: [...under, contact(anew)], creates: [anew.email] },
      { to: [party(ida)], cc: [party(anew)] },
    );
    w.answer(of, second, anew, 7, { under: [account(company), deal(its), contact(anew)] });
  },
  'from a private address, then from work': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const lea = w.person(company);
    const its = w.deal(company, [lea], 'tide gauges', 80);
    const home = { name: lea.name, email: `${lea.email.split('@')[0] ?? ''}@${PROVIDER}` };
    const all = [contact(lea), account(company), deal(its)];
    const first = w.send(
      of,
      30,
      { from: home, to: [party(rep)], subject: 'Photos of the broken mast' },
      { may: [...all, 'question:person'] },
    );
    const second = w.answer(of, first, rep, 6, { may: all, asks: ['person'] });
    w.answer(of, second, lea, 40, { under: all });
  },
  'a new company': (w, of) => {
    const [company, rep] = [w.company({ onRecord: false }), w.rep()];
    const [una, bo] = [w.person(company, { kind: 'unknown' }), w.person(company, { kind: 'unknown' })];
    const who = [contact(una), `account:${company.domains[0] ?? ''}`];
    const first = w.send(of, 50, { from: party(una), to: [party(rep)], subject: 'Enquiry' }, { may: who });
    const second = w.answer(of, first, rep, 5, { under: who, creates: [una.email, company.domains[0] ?? ''] });
    const third = w.answer(of, second, una, 20, { under: who });
    w.answer(of, third, rep, 3, { under: [...who, contact(bo)], creates: [bo.email] }, { cc: [party(bo)] });
  },
  'machine mail': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const first = w.send(
      of,
      30,
      { from: party(rep), to: [party(ida)], subject: 'Offer' },
      { under: [contact(ida), account(company), deal(its)] },
    );
    const machine = (from: { name: string; email: string }, subject: string, headers: [string, string][]): void =>
      void w.send(of, 29, { from, to: [party(rep)], subject, headers }, { keptOut: true });
    const domain = company.domains[0] ?? '';
    w.answer(of, first, ida, 1, { keptOut: true }, { subject: 'Automatic reply: Offer', headers: [['Auto-Submitted', 'auto-replied']] });
    w.answer(of, first, ida, 1, { keptOut: true }, { subject: 'Out of office: Offer', headers: [['X-Autoreply', 'yes']] });
    machine({ name: 'Harbour News', email: `news@${domain}` }, 'News of the quarter', [['List-Unsubscribe', `<mailto:off@${domain}>`]]);
    machine({ name: 'Service Desk', email: `desk@${domain}` }, '[#8812] We got your request', [['Auto-Submitted', 'auto-generated']]);
    machine({ name: '', email: `no-reply@${domain}` }, 'Your invoice is ready', []);
    machine({ name: 'Mail Delivery', email: `mailer-daemon@${domain}` }, 'Undeliverable: Offer', [['Return-Path', '<>']]);
  },
  'a ticket system in between': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const domain = company.domains[0] ?? '';
    const desk = { name: `${ida.name} via Service Desk`, email: `support+id8812@${domain}` };
    const first = w.send(
      of,
      20,
      { from: desk, to: [party(rep)], subject: '[#8812] Display dark' },
      { under: [account(company)], may: [contact(ida)] },
    );
    w.answer(of, first, rep, 4, { under: [account(company)], may: [contact(ida)] });
  },
  'the lawyer in copy': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(of, 30, { from: party(ida), to: [party(rep)], cc: [LAWYER], subject: 'Clause 9' }, { under });
    w.answer(of, first, rep, 5, { under }, { cc: [LAWYER] });
    w.send(of, 28, { from: LAWYER, to: [party(rep)], subject: 'Our fee' }, { keptOut: true });
  },
  'the recruiter and colleagues': (w, of) => {
    const [rep, other] = [w.rep(), w.world.team[3]!];
    w.send(of, 25, { from: RECRUITER, to: [party(rep)], subject: 'Talented people' }, { keptOut: true });
    w.send(
      of,
      25,
      { from: party(rep), to: [party(other), { name: '', email: 'sales@quillmere.example' }], subject: 'Lunch' },
      { keptOut: true },
    );
  },
  'eight people at four companies': (w, of) => {
    const rep = w.rep();
    const hosts = [0, 1, 2, 3].map(() => {
      const company = w.company();
      const person = w.person(company);
      w.deal(company, [person], w.random.pick(['tide gauges', 'telemetry']), 80);
      return { company, person };
    });
    const stranger = { name: 'Wenda Ostrow', email: `wenda.ostrow${w.random.int(1, 9999)}@tidal-commons.example` };
    const under = hosts.flatMap(({ company, person }) => [contact(person), account(company)]);
    const [from, ...to] = hosts.map(({ person }) => party(person));
    w.send(
      of,
      41,
      { from: from!, to: [party(rep), ...to], cc: [LAWYER, RECRUITER, stranger], subject: 'Round table on the storm gate' },
      { under },
    );
  },
  'an invitation to many': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const many = Array.from({ length: 80 }, (_, at) => ({
      name: `Guest ${at}`,
      email: `guest.number${at}@club-${w.random.int(1, 99_999)}.example`,
    }));
    w.send(of, 20, { from: party(rep), to: [party(ida), ...many], subject: 'Our open day' }, { under: [contact(ida), account(company)] });
  },
  'shared and role addresses': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const domain = company.domains[0] ?? '';
    for (const local of [
      'info',
      'harbour-office',
      'einkauf',
      'purchasing.dept',
      'sales-team',
      'accounts.payable',
      'buchhaltung',
      'hafenamt-verwaltung',
    ]) {
      const role = { name: '', email: `${local}@${domain}` };
      w.send(of, 20, { from: party(rep), to: [role], subject: `To ${local}` }, { under: [account(company)] });
    }
    const sales = { name: 'Quillmere Sales', email: w.world.shared };
    const asked = w.send(of, 20, { from: party(ida), to: [sales], subject: 'Spare parts' }, { under: [contact(ida), account(company)] });
    w.answer(of, asked, rep, 5, { under: [contact(ida), account(company)] }, { cc: [sales] });
  },
  'a domain of two accounts': (w, of) => {
    const [holding, rep] = [w.company(), w.rep()];
    const daughter = w.company({ domains: holding.domains, parent: holding.name });
    const [ida, bo] = [w.person(holding), w.person(daughter)];
    const anew = w.person(holding, { kind: 'unknown' });
    w.send(of, 30, { from: party(ida), to: [party(rep)], subject: 'Frame contract' }, { under: [contact(ida), account(holding)] });
    w.send(of, 30, { from: party(bo), to: [party(rep)], subject: 'Ferry berth' }, { under: [contact(bo), account(daughter)] });
    w.send(of, 20, { from: party(anew), to: [party(rep)], subject: 'Gauge for the new quay' }, { asks: ['account'] });
    w.send(
      of,
      18,
      { from: party(bo), to: [party(rep)], cc: [party(anew)], subject: 'Ferry berth, drawings' },
      { under: [contact(bo), account(daughter)] },
    );
  },
  'a department under a sub-domain': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const anew = { name: 'Odile Kestrelmann', email: `odile.kestrelmann@lab.${company.domains[0] ?? ''}` };
    const first = w.send(of, 20, { from: anew, to: [party(rep)], subject: 'Samples' }, { under: [account(company)], may: [contact(anew)] });
    w.answer(of, first, rep, 4, { under: [account(company), contact(anew)], creates: [anew.email] });
  },
  'written in odd ways': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const odd = { name: ida.name.split(' ').reverse().join(', '), email: ida.email.toUpperCase() };
    const first = w.send(of, 30, { from: odd, to: [party(rep)], subject: 'AW: WG: Re[2]: Fwd: Pegel Ost' }, { under });
    w.send(of, 29, { from: party(rep), to: [{ ...odd, email: ida.email.replace('@', '+gauge@') }], subject: 'Re: Pegel Ost' }, { under });
    w.send(of, 28, { from: party(ida), to: [party(rep)], subject: '回复: 潮位计', messageId: null }, { under });
    w.answer(of, first, rep, 9, { under }, { bcc: [{ name: '', email: ida.email }], to: [{ name: '', email: w.world.shared }] });
  },
  'through a list and directly': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const list = { name: '', email: 'gauge-users@lists.tidal-commons.example' };
    const letter = { from: party(ida), to: [list, party(rep)], subject: '[gauges] Drift in winter' };
    const sent = w.send(of, 20, letter, { under: [contact(ida), account(company)] });
    w.mailboxes.deliver({ ...sent, headers: [['List-Id', '<gauge-users.lists.tidal-commons.example>']] }, [w.world.team[9]!.email]);
  },
  'an answer to a mailing list': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const lists = ['gauge-users@tidal-commons.example', 'drift@lists.tidal-commons.example', 'tide-announce@oceanic-data.example'];
    for (const email of lists) {
      const list = { name: '', email };
      const right = { under: [contact(ida), account(company)] };
      const sent = w.send(of, 20, { from: party(ida), to: [list, party(rep)], subject: `[gauges] Drift, ${email}` }, right);
      w.answer(of, sent, rep, 5, right, { to: [party(ida)], cc: [list] });
    }
  },
  'an invitation to a meeting': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const content = `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nMETHOD:REQUEST\r\nBEGIN:VEVENT\r\nUID:${ida.email}\r\nDTSTART:20260601T090000Z\r\nDTEND:20260601T100000Z\r\nSUMMARY:Site visit\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
    w.send(
      of,
      20,
      {
        from: party(ida),
        to: [party(rep)],
        subject: 'Site visit',
        body: { type: 'text/calendar; method=REQUEST; charset=utf-8', content },
      },
      { under: [contact(ida), account(company), deal(its)] },
    );
  },
  'a new employer': (w, of) => {
    const [was, is, rep] = [w.company(), w.company(), w.rep()];
    const mo = w.person(was);
    const moved = { name: mo.name, email: `${mo.email.split('@')[0] ?? ''}@${is.domains[0] ?? ''}` };
    w.send(of, 90, { from: party(mo), to: [party(rep)], subject: 'Calibration' }, { under: [contact(mo), account(was)] });
    const first = w.send(
      of,
      12,
      { from: moved, to: [party(rep)], subject: 'New desk, same tides' },
      { under: [account(is)], may: [contact(mo), contact(moved)] },
    );
    w.answer(of, first, rep, 5, { under: [account(is)], may: [contact(mo), contact(moved), moved.email] });
  },
  'an account without a domain': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const domain = company.domains[0] ?? '';
    const ida = w.person(company);
    company.domains = [];
    const anew = { name: 'Quirin Balogh', email: `quirin.balogh@${domain}` };
    const first = w.send(of, 20, { from: anew, to: [party(rep)], subject: 'Anchors' }, { under: [account(company)], may: [contact(anew)] });
    const under = [account(company), contact(anew), contact(ida)];
    w.answer(of, first, rep, 4, { under, creates: [anew.email] }, { cc: [party(ida)] });
  },
  'an account without a domain and without people': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const [domain = ''] = company.domains;
    company.domains = [];
    company.name = `The ${domain.split('.')[0]?.split('-').join(' ') ?? ''} Ltd.`;
    const [una, bo] = ['Una Hartwig', 'Bo Lindqvist'].map((name) => ({ name, email: `${name.toLowerCase().replace(' ', '.')}@${domain}` }));
    const first = w.send(of, 20, { from: una!, to: [party(rep)], subject: 'Anchors' }, { under: [account(company)], may: [contact(una!)] });
    const second = w.answer(of, first, rep, 4, { under: [account(company), contact(una!)], creates: [una!.email] });
    w.answer(of, second, bo!, 9, { under: [account(company)], may: [contact(bo!), contact(una!)] }, { cc: [una!] });
  },
  'home to oneself': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const home = { name: rep.name, email: `${rep.email.split('@')[0] ?? ''}@${PROVIDER}` };
    w.send(of, 20, { from: party(rep), to: [home], subject: 'Slides for tomorrow' }, {});
    const under = [contact(ida), account(company)];
    w.send(of, 19, { from: party(rep), to: [party(ida)], bcc: [home], subject: 'Slides' }, { under });
  },
  'one email in several mailboxes': (w, of) => {
    const [company, rep, other] = [w.company(), w.world.team[2]!, w.world.team[3]!];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const sales = { name: '', email: w.world.shared };
    const first = w.send(of, 20, { from: party(ida), to: [party(rep), sales], cc: [party(other)], subject: 'Handover' }, { under });
    w.answer(of, first, other, 3, { under }, { to: [party(ida)], cc: [party(rep)], bcc: [sales] });
  },
  'sent round with everyone in Bcc': (w, of) => {
    const rep = w.rep();
    const guests = [0, 1, 2].map(() => w.person(w.company()));
    const under = guests.flatMap((guest) => [contact(guest), account(guest.company)]);
    w.send(of, 20, { from: party(rep), to: [party(rep)], bcc: guests.map(party), subject: 'Our new catalogue' }, { under });
  },
  'no date and a date ahead': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    w.send(of, -400, { from: party(ida), to: [party(rep)], subject: 'From the future' }, { under });
  },
};
