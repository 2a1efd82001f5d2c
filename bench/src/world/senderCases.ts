import { PROVIDER } from '../../../demo/src/world';
import type { Case } from './answerWorld';
import { account, contact, deal, party } from './answerWorld';

/** Who an email is from when its header says otherwise, and what tells deals of the same people apart. */
export const SENDER_CASES: Record<string, Case> = {
  'through our own group': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const group: [string, string][] = [
      ['Precedence', 'list'],
      ['List-ID', '<sales.quillmere.example>'],
      ['List-Unsubscribe', '<mailto:sales+unsubscribe@quillmere.example>'],
    ];
    const sales = { name: '', email: w.world.shared };
    const first = w.send(of, 30, { from: party(ida), to: [sales], subject: 'Spare cable', headers: group }, { under });
    w.answer(of, first, rep, 5, { under });
    w.send(
      of,
      20,
      { from: { name: 'Quillmere', email: 'news@quillmere.example' }, to: [sales], subject: 'News', headers: group },
      { keptOut: true },
    );
    const theirs: [string, string][] = [['List-ID', `<offers.${company.domains[0] ?? ''}>`]];
    w.send(
      of,
      20,
      { from: { name: 'Offers', email: `offers@${company.domains[0] ?? ''}` }, to: [sales], subject: 'Offers', headers: theirs },
      { keptOut: true },
    );
  },
  'the sender rewritten by a group': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const sales = { name: '', email: w.world.shared };
    const [given = ''] = ida.name.split(' ');
    const rewritten = { name: `'${ida.name}' via Sales`, email: w.world.shared };
    const list: [string, string] = ['List-ID', '<sales.quillmere.example>'];
    w.send(
      of,
      30,
      { from: rewritten, to: [sales], subject: 'Broken display', headers: [list, ['Reply-To', `${ida.name} <${ida.email}>`]] },
      { under },
    );
    w.send(
      of,
      29,
      {
        from: rewritten,
        to: [sales],
        subject: 'Broken lamp',
        headers: [list, ['X-Original-From', `${ida.name} <${ida.email}>`], ['Reply-To', w.world.shared]],
      },
      { under },
    );
    const theirs = { name: `${ida.name} via Purchasing`, email: `purchasing@${company.domains[0] ?? ''}` };
    w.send(of, 28, { from: theirs, to: [party(rep)], subject: 'Order forms', headers: [['Reply-To', ida.email]] }, { under });
    // What a ticket desk writes for someone is answered to the desk.
    const desk = { name: `${given} via Desk`, email: `desk@${company.domains[0] ?? ''}` };
    w.send(
      of,
      27,
      { from: desk, to: [party(rep)], subject: 'Ticket', headers: [['Reply-To', `Desk <desk+8@${company.domains[0] ?? ''}>`]] },
      { under: [account(company)], may: under },
    );
  },
  'a form on our site': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const form = { name: 'Quillmere site', email: 'noreply@quillmere.example' };
    const sales = { name: '', email: w.world.shared };
    const first = w.send(of, 30, { from: form, to: [sales], subject: 'From our site', headers: [['Reply-To', ida.email]] }, { under });
    w.answer(of, first, rep, 4, { under }, { to: [party(ida)] });
    w.send(of, 30, { from: form, to: [sales], subject: 'Nightly report', headers: [] }, { keptOut: true });
  },
  'tickets, receipts and answers of machines': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const domain = company.domains[0] ?? '';
    for (const local of [
      'ticket-8812',
      'case+8812',
      'tickets',
      'reply+ab12cd34ef',
      'support.8812',
      'noreply-8812',
      'servicedesk',
      'help-desk',
      'it-support',
      '8812',
      'po-inbox',
    ])
      w.send(
        of,
        20,
        { from: party(rep), to: [{ name: '', email: `${local}@${domain}` }], subject: `To ${local}` },
        { under: [account(company)] },
      );
    const first = w.send(of, 30, { from: party(rep), to: [party(ida)], subject: 'Offer' }, { under: [contact(ida), account(company)] });
    const report = {
      type: 'multipart/report; report-type=disposition-notification; boundary="x"',
      content:
        '--x\r\nContent-Type: text/plain\r\n\r\nRead.\r\n--x\r\nContent-Type: message/disposition-notification\r\n\r\nDisposition: manual-action/MDN-sent-manually; displayed\r\n--x--\r\n',
    };
    w.answer(of, first, ida, 1, { keptOut: true }, { subject: 'Read: Offer', body: report });
    w.answer(of, first, ida, 2, { keptOut: true }, { subject: 'Abwesenheitsnotiz: Offer' });
    w.answer(of, first, ida, 3, { under: [contact(ida), account(company)] });
  },
  'two open deals, each of another colleague': (w, of) => {
    const [company, rep, other] = [w.company(), w.world.team[2]!, w.world.team[3]!];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 90, null, rep);
    const others = w.deal(company, [ida], 'telemetry', 90, null, other);
    const who = [contact(ida), account(company)];
    const first = w.send(
      of,
      40,
      { from: party(ida), to: [party(rep)], subject: 'Price of the second lot' },
      { under: [...who, deal(its)] },
    );
    w.answer(of, first, rep, 4, { under: [...who, deal(its)] });
    w.send(of, 30, { from: party(other), to: [party(ida)], subject: 'Our meeting' }, { under: [...who, deal(others)] });
  },
  'two open deals, one of which has all who take part': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const [ida, bo, cleo] = [w.person(company), w.person(company), w.person(company)];
    const its = w.deal(company, [ida, bo, cleo], 'tide gauges', 90, null, rep);
    w.deal(company, [ida], 'telemetry', 90, null, rep);
    const under = [contact(ida), contact(bo), contact(cleo), account(company), deal(its)];
    w.send(of, 40, { from: party(ida), to: [party(rep)], cc: [party(bo), party(cleo)], subject: 'Where the gauges go' }, { under });
  },
  'two open deals, one with mail of this week': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 300, null, rep);
    const quiet = w.deal(company, [ida], 'telemetry', 300, null, rep);
    const who = [contact(ida), account(company)];
    w.send(of, 200, { from: party(ida), to: [party(rep)], subject: `Drawings ${quiet.code}` }, { under: [...who, deal(quiet)] });
    const first = w.send(of, 20, { from: party(ida), to: [party(rep)], subject: `Drawings ${its.code}` }, { under: [...who, deal(its)] });
    w.answer(of, first, rep, 4, { under: [...who, deal(its)] });
    w.send(of, 18, { from: party(ida), to: [party(rep)], subject: 'Photo of the pier' }, { under: who, may: [deal(its), 'question:deal'] });
  },
  'a department that is an account of its own': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const lab = w.company({ domains: [`lab.${company.domains[0] ?? ''}`] });
    const ida = w.person(company);
    const anew = w.person(lab, { kind: 'unknown' });
    const first = w.send(
      of,
      20,
      { from: party(anew), to: [party(rep)], subject: 'Samples' },
      { under: [account(lab)], may: [contact(anew)] },
    );
    w.answer(of, first, rep, 4, { under: [account(lab), contact(anew)], creates: [anew.email] });
    w.send(of, 19, { from: party(ida), to: [party(rep)], subject: 'Invoices' }, { under: [contact(ida), account(company)] });
  },
  'someone with two addresses on record': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const home = { name: 'ida at home', email: `${ida.email.split('@')[0] ?? ''}.home@${PROVIDER}` };
    ida.otherEmail = home.email;
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(of, 20, { from: home, to: [party(rep)], subject: 'From the train' }, { under });
    w.answer(of, first, rep, 3, { under });
    w.send(of, 19, { from: party(rep), to: [home, party(ida)], subject: 'To both' }, { under });
  },
  'a customer at a public provider': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company, { email: `skipper${w.random.int(1, 99_999)}@${PROVIDER}` });
    const its = w.deal(company, [ida], 'wave staff', 80);
    const under = [contact(ida), account(company), deal(its)];
    const first = w.send(of, 20, { from: party(ida), to: [party(rep)], subject: 'Wave staff' }, { under });
    w.answer(of, first, rep, 3, { under });
    const stranger = { name: 'Olga Prentiss', email: `olga.prentiss${w.random.int(1, 99_999)}@${PROVIDER}` };
    w.send(of, 10, { from: stranger, to: [party(rep)], subject: 'A question about gauges' }, {});
  },
  'a colleague without a mailbox, and one who left': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    const colleague = { name: 'Werner Dock', email: 'werner.dock@works.quillmere.example' };
    const first = w.send(of, 20, { from: party(ida), to: [party(rep), colleague], subject: 'Visit' }, { under });
    w.answer(of, first, colleague, 5, { under }, { cc: [party(rep)] });
    w.send(of, 19, { from: colleague, to: [party(rep)], subject: 'Visit, what we say' }, { keptOut: true });
    w.send(of, 18, { from: party(ida), to: [party(w.world.team[11]!)], cc: [party(rep)], subject: 'Farewell' }, { under });
  },
  'a name in another script': (w, of) => {
    const [company, rep] = [w.company(), w.rep()];
    const ida = w.person(company);
    const its = w.deal(company, [ida], 'tide gauges', 80);
    const under = [contact(ida), account(company), deal(its)];
    w.send(of, 20, { from: { name: 'Ида Брандт', email: ida.email }, to: [party(rep)], subject: 'Прибор' }, { under });
    const anew = { name: '林 美玲', email: `lin.meiling@${company.domains[0] ?? ''}` };
    const first = w.send(of, 19, { from: anew, to: [party(rep)], cc: [party(ida)], subject: '潮位计' }, { under, may: [contact(anew)] });
    w.answer(of, first, rep, 3, { under: [...under, contact(anew)], creates: [anew.email] }, { cc: [party(ida)] });
  },
};
