import type { Letter } from './compose';
import { invitation } from './invitations';
import type { Mailboxes } from './mailboxes';
import type { Random } from './random';
import type { Topic } from './topics';
import { INTERNAL, NEWSLETTERS, NOTICES, PRIVATE, TOPICS } from './topics';
import { INSTRUMENTS, STATIONS } from './words';
import type { Outsider, Teammate, World } from './world';
import { OWN_DOMAIN } from './world';
import { person, filled, euro, workingTime, asHtml } from './writing';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
export const SPAN = 270 * DAY;
const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday'];
const MONTHS = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];
const GREETINGS = ['Dear {first}', 'Hello {first}', 'Good morning {first}', 'Hi {first}', 'Dear {first}'];
const CLOSINGS = ['Kind regards', 'Best regards', 'Many thanks', 'Best wishes', 'Regards'];

/** Writes the team's mail of nine months. */
export class Correspondence {
  private serial = 0;

  constructor(
    private readonly world: World,
    private readonly mailboxes: Mailboxes,
    private readonly random: Random,
    private readonly now: number,
  ) {}

  nextId(domain: string): string {
    this.serial += 1;
    return `${this.serial.toString(36).padStart(4, '0')}.${this.random.int(100_000, 999_999).toString(36)}@${domain}`;
  }

  /** Values for the slots of one conversation that begins at `at`. */
  slots(at: number): Record<string, string> {
    const { random } = this;
    const instrument = random.pick(INSTRUMENTS);
    const quantity = random.int(2, 14);
    const date = new Date(at);
    const week = (days: number): string => String(Math.floor(((at + days * DAY) % (365.25 * DAY)) / (7 * DAY)) % 52 || 52);
    const price = quantity * instrument.unit + random.int(1, 9) * 50;
    const company = random.pick(this.world.companies);
    return {
      instrument: instrument.name,
      short: instrument.short,
      unit: euro(instrument.unit),
      qty: String(quantity),
      few: String(random.int(2, 5)),
      price: euro(price),
      price2: euro(Math.round((price * 0.94) / 10) * 10),
      site: company.name.split(' ').slice(0, 2).join(' '),
      station: random.pick(STATIONS),
      week: week(random.int(14, 40)),
      week2: week(random.int(42, 60)),
      weekday: random.pick(WEEKDAYS),
      day: String(random.int(2, 28)),
      hour: String(random.int(8, 16)),
      month: MONTHS[date.getUTCMonth()] ?? 'May',
      month2: MONTHS[(date.getUTCMonth() + 1) % 12] ?? 'June',
      year: String(date.getUTCFullYear()),
      metres: String(random.int(3, 60)),
      mm: String(random.int(6, 48)),
      serial: `${instrument.short.replace('-', '')}-${random.int(1000, 9999)}`,
      order: `Q${random.int(10_000, 99_999)}`,
      po: `${random.pick(['PO', 'B', '45', 'ORD-'])}${random.int(10_000, 99_999)}`,
      rma: String(random.int(3000, 9999)),
      tender: `T${date.getUTCFullYear() % 100}/${random.int(100, 899)}`,
      invoice: `RI-${random.int(20_000, 49_999)}`,
      freight: String(random.int(6, 38) * 10),
      kilos: String(random.int(12, 190)),
      tracking: `SC${random.int(100_000_000, 999_999_999)}`,
      colleague: random.pick(this.world.team).name.split(' ')[0] ?? '',
      thirdName: random.pick(['Arvo', 'Bea', 'Cato', 'Dilan', 'Esben', 'Fenna']),
    };
  }

  /** A conversation about a topic between one of us and people of one company. */
  conversation(
    topic: Topic,
    rep: Teammate,
    people: Outsider[],
    startAt: number,
    options: { subjectCode?: string; viaShared?: boolean } = {},
  ): Letter[] {
    const { random } = this;
    const slots = this.slots(startAt);
    const subject = filled(random.pick(topic.subjects), slots) + (options.subjectCode ? ` [${options.subjectCode}]` : '');
    const length = random.chance(0.3) ? random.int(2, topic.turns.length) : topic.turns.length;
    const written: Letter[] = [];
    let at = startAt;
    for (const turn of topic.turns.slice(0, length)) {
      at = workingTime(at + random.int(turn.after[0] * 60, turn.after[1] * 60) * 60_000, random);
      if (at > this.now) break;
      const writer = turn.by === 'us' ? rep : (people[random.chance(0.8) ? 0 : random.int(0, people.length - 1)] ?? people[0]);
      if (!writer) break;
      const others = people.filter((outsider) => outsider !== writer);
      const toShared = options.viaShared && turn.by === 'them';
      const us = toShared ? { name: 'Quillmere Sales', email: this.world.shared } : rep;
      const to = turn.by === 'us' ? [people[0]!] : [us];
      const copied = turn.by === 'us' ? people.slice(1) : others;
      const cc = copied.filter(() => random.chance(0.6)).map(person);
      if (random.chance(0.12)) cc.push(person(random.pick(this.world.team.filter((teammate) => teammate !== rep && !teammate.left))));
      const last = written.at(-1);
      const letter: Letter = {
        from:
          turn.by === 'us' && options.viaShared && random.chance(0.5)
            ? { name: 'Quillmere Sales', email: this.world.shared }
            : person(writer),
        to: to.map(person),
        cc,
        at,
        subject: last ? `Re: ${subject}` : subject,
        text: this.body(turn.text, writer, to[0]?.name ?? '', slots, last),
        messageId: this.nextId(writer.email.split('@')[1] ?? OWN_DOMAIN),
        references: last ? [...(last.references ?? []), last.messageId ?? ''] : [],
        ...(turn.attach
          ? {
              attachments: [
                {
                  name: filled(turn.attach, slots).replace(/[^\w.-]+/g, '-'),
                  type: 'application/pdf',
                  content: `%PDF-1.4\n% ${subject}\n${'gauge '.repeat(random.int(40, 900))}`,
                },
              ],
            }
          : {}),
      };
      if (random.chance(0.3)) letter.html = asHtml(letter.text);
      this.mailboxes.deliver(letter);
      written.push(letter);
    }
    return written;
  }

  private body(
    paragraphs: string[][],
    writer: Outsider | Teammate,
    toName: string,
    slots: Record<string, string>,
    last: Letter | undefined,
  ): string {
    const { random } = this;
    const greeting = filled(random.pick(GREETINGS), { first: toName.includes('Sales') ? 'all' : (toName.split(' ')[0] ?? '') });
    const chosen = paragraphs.filter((_, at) => at === 0 || random.chance(0.75)).map((variants) => filled(random.pick(variants), slots));
    const company = 'company' in writer ? writer.company.name : 'Quillmere Hydrometrics';
    const phone = 'phone' in writer ? `\n${writer.phone}` : '';
    const own = `${greeting},\n\n${chosen.join(random.chance(0.5) ? '\n\n' : ' ')}\n\n${random.pick(CLOSINGS)}\n${writer.name}\n\n-- \n${writer.name}\n${writer.title}, ${company}${phone}\n`;
    if (!last || random.chance(0.2)) return own;
    const quoted = last.text
      .split('\n')
      .slice(0, 30)
      .map((line) => (line.startsWith('>') ? `>${line}` : `> ${line}`))
      .join('\n');
    return `${own}\nOn ${new Date(last.at).toUTCString().slice(0, 16)}, ${last.from.name} wrote:\n${quoted}\n`;
  }

  /** Conversations with customers until there are about as many emails as wanted. */
  fill(target: number): void {
    const { random, world, now } = this;
    const active = world.team.filter((teammate) => teammate.role === 'rep' || teammate.role === 'manager');
    const byCompany = new Map<string, Outsider[]>();
    for (const outsider of world.outsiders)
      byCompany.set(outsider.company.name, [...(byCompany.get(outsider.company.name) ?? []), outsider]);
    const companies = [...byCompany.values()];
    while (this.mailboxes.size < target) {
      const people = random.pick(companies);
      const company = people[0]?.company;
      if (!company) continue;
      const rep = random.chance(0.75) ? company.owner : random.pick(active);
      const topic =
        company.type === 'reseller'
          ? random.pick([...TOPICS, ...TOPICS.filter((item) => item.name === 'partnership').flatMap((item) => [item, item, item, item])])
          : random.pick(TOPICS.filter((item) => item.name !== 'partnership'));
      const deal = topic.sale ? world.deals.find((item) => item.company.name === company.name && item.open) : undefined;
      const chosen = deal && random.chance(0.7) ? deal.people : random.shuffled(people).slice(0, random.int(1, Math.min(3, people.length)));
      const startAt = now - Math.floor(random.next() ** 1.15 * SPAN) - 2 * HOUR;
      if (rep.left && startAt > now - 100 * DAY) continue;
      this.conversation(topic, rep, chosen.length > 0 ? chosen : people.slice(0, 1), startAt, {
        ...(deal && random.chance(0.3) ? { subjectCode: deal.code } : {}),
        viaShared: random.chance(0.07),
      });
    }
  }

  /** What else lies in mailboxes: talk among colleagues, newsletters, notices, out-of-office, bounces, invitations, private mail. */
  everydayMail(): void {
    const { random, world, now } = this;
    const team = world.team.filter((teammate) => !teammate.left);
    const times = (count: number, write: (at: number, slots: Record<string, string>) => void): void => {
      for (let at = 0; at < count; at += 1) {
        const moved = workingTime(now - Math.floor(random.next() * SPAN) - HOUR, random);
        const when = moved < now ? moved : moved - 4 * DAY;
        write(when, this.slots(when));
      }
    };
    times(330, (at, slots) => {
      const [subject = '', text = ''] = random.pick(INTERNAL);
      const from = random.pick(team);
      const to = random.shuffled(team.filter((teammate) => teammate !== from)).slice(0, random.int(1, 5));
      const letter: Letter = {
        from: person(from),
        to: to.map(person),
        at,
        subject: filled(subject, slots),
        text: `Hi all,\n\n${filled(text, slots)}\n\n${from.name.split(' ')[0] ?? ''}\n`,
        messageId: this.nextId(OWN_DOMAIN),
      };
      this.mailboxes.deliver(letter);
    });
    times(150, (at) => {
      const [name = '', email = '', text = ''] = random.pick(NEWSLETTERS);
      const issue = `${name}, ${new Date(at).toUTCString().slice(5, 16)}`;
      this.mailboxes.deliver({
        from: { name, email },
        to: [person(random.pick(team))],
        at,
        subject: issue,
        text: `${text}\n\nYou get this letter because you signed up for it.\n`,
        html: `<h1>${name}</h1><p>${text}</p><img src="https://pixel.coastal-measuring.example/open.gif" alt=""><p><a href="https://coastal-measuring.example/">Read on</a></p>`,
        messageId: this.nextId(email.split('@')[1] ?? ''),
        headers: [
          ['List-Unsubscribe', `<mailto:leave@${email.split('@')[1] ?? ''}>`],
          ['List-Id', `${name} <letter.${email.split('@')[1] ?? ''}>`],
        ],
      });
    });
    times(130, (at, slots) => {
      const [subject = '', email = '', text = ''] = random.pick(NOTICES);
      this.mailboxes.deliver({
        from: { name: '', email },
        to: [person(random.pick(team))],
        at,
        subject: filled(subject, slots),
        text: filled(text, slots),
        messageId: this.nextId(email.split('@')[1] ?? ''),
        headers: [['Auto-Submitted', 'auto-generated']],
      });
    });
    times(55, (at, slots) => {
      const who = random.pick(world.outsiders);
      this.mailboxes.deliver({
        from: person(who),
        to: [person(who.company.owner)],
        at,
        subject: `Out of office: ${filled('Quote for {qty} x {short}', slots)}`,
        text: `I am away until the ${slots.day ?? ''}th and read my mail after that. In urgent cases please ring the office.\n\n${who.name}\n`,
        messageId: this.nextId(who.email.split('@')[1] ?? ''),
        headers: [
          ['Auto-Submitted', 'auto-replied'],
          ['Precedence', 'auto_reply'],
        ],
      });
    });
    times(16, (at) => {
      const rep = random.pick(team);
      const gone = `${random.pick(world.outsiders).name.split(' ')[0]?.toLowerCase() ?? 'x'}@${random.pick(world.companies).domains[0] ?? ''}`;
      const report = `--rep\nContent-Type: text/plain; charset=utf-8\n\nYour message to ${gone} could not be delivered: the mailbox does not exist.\n--rep\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx.${OWN_DOMAIN}\n\nFinal-Recipient: rfc822; ${gone}\nAction: failed\nStatus: 5.1.1\n--rep--\n`;
      this.mailboxes.deliver({
        from: { name: 'Mail Delivery', email: `mailer-daemon@${OWN_DOMAIN}` },
        to: [person(rep)],
        at,
        subject: 'Undelivered mail returned to sender',
        text: '',
        messageId: this.nextId(OWN_DOMAIN),
        headers: [['Return-Path', '<>']],
        body: { type: 'multipart/report; report-type=delivery-status; boundary="rep"', content: report },
      });
    });
    times(60, (at, slots) => {
      const who = random.pick(world.outsiders.filter((outsider) => outsider.kind === 'contact'));
      this.mailboxes.deliver(invitation(who, at, filled('site visit {station}', slots), this));
    });
    times(70, (at, slots) => {
      const [subject = '', email = '', name = '', text = ''] = random.pick(PRIVATE);
      this.mailboxes.deliver({
        from: { name, email },
        to: [person(random.pick(team))],
        at,
        subject: filled(subject, slots),
        text: `${filled(text, slots)}\n\n${name}\n`,
        messageId: this.nextId(email.split('@')[1] ?? ''),
      });
    });
  }
}
