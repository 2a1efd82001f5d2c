import type { Letter } from '../../../demo/src/compose';
import { Random } from '../../../demo/src/random';
import { FAMILY, GIVEN } from '../../../demo/src/words';
import { asciiOf, PROVIDER } from '../../../demo/src/world';
import type { Company, Teammate } from '../../../demo/src/world';
import { AnswerWorld, DAY, HOUR } from './answerWorld';
import { NAME_FORMS, MARKED_GIVEN, MARKED_FAMILY, MACHINE_LOCALS, SUBJECTS } from './noisyNames';
import type { PeoplePolicy } from './noisyNames';

interface UnknownPerson {
  given: string;
  family: string;
  email: string;
  /** Someone who must become a record once the policy's condition holds, or must never. */
  should: 'person' | 'never';
  of: string;
  /** Wrote with a display name or signed with it. */
  isNamed: boolean;
}

/** Mail with people on no record, of whom it is known who is to become a record, and under which name; and with whom no one must. */
export class NoisyPeople {
  readonly world: AnswerWorld;
  readonly strangers: UnknownPerson[] = [];
  /** The conversation of each email, by Message-ID. */
  readonly talks = new Map<string, number>();
  private readonly random: Random;
  private readonly used = new Set<string>();
  private readonly known: Company[] = [];
  private serial = 0;

  private constructor(
    seed: number,
    now: number,
    private readonly policy: PeoplePolicy,
  ) {
    this.random = new Random(seed * 6353);
    this.world = new AnswerWorld(this.random, now);
    for (let at = 0; at < 12; at += 1) {
      const company = this.world.company();
      this.world.person(company);
      this.world.person(company);
      this.known.push(company);
    }
  }

  static of(seed: number, strangers: number, now: number, policy: PeoplePolicy): NoisyPeople {
    const made = new NoisyPeople(seed, now, policy);
    for (let at = 0; at < strangers; at += 1) made.meet(20 + (at % 140));
    return made;
  }

  private meet(ago: number): void {
    const { random } = this;
    random.pick([
      () => this.atNewCompany(ago),
      () => this.atNewCompany(ago),
      () => this.colleagueOfKnown(ago),
      () => this.atProvider(ago),
      () => this.misspelled(ago),
      () => this.bounced(ago),
      () => this.machine(ago),
      () => this.secondAddress(ago),
      () => this.ourOwnAtProvider(ago),
    ])();
  }

  private newName(): { given: string; family: string } {
    for (;;) {
      const given = this.random.pick(this.random.chance(0.3) ? MARKED_GIVEN : GIVEN);
      const family = this.random.pick(this.random.chance(0.3) ? MARKED_FAMILY : FAMILY);
      if (this.used.has(`${given} ${family}`) || this.world.world.outsiders.some((person) => person.name === `${given} ${family}`))
        continue;
      this.used.add(`${given} ${family}`);
      return { given, family };
    }
  }

  private localOf(given: string, family: string): string {
    const [g, f] = [given, family].map((part) => asciiOf(part.toLowerCase().replace(/ł/g, 'l').replace(/þ/g, 'th')).replace(/[^a-z]/g, ''));
    return this.random.pick([`${g}.${f}`, `${g}.${f}`, `${g?.charAt(0)}.${f}`, `${g?.charAt(0)}${f}`, `${f}`, `${g}_${f}`]);
  }

  private stranger(domain: string, of: string, should: UnknownPerson['should'] = 'person'): UnknownPerson {
    const { given, family } = this.newName();
    let email = '';
    do email = `${this.localOf(given, family)}${email === '' ? '' : this.random.int(2, 99)}@${domain}`;
    while (
      this.strangers.some((stranger) => stranger.email === email) ||
      this.world.world.outsiders.some((person) => person.email === email)
    );
    const made: UnknownPerson = { given, family, email, should, of, isNamed: false };
    this.strangers.push(made);
    return made;
  }

  private atNewCompany(ago: number): void {
    const company = this.world.company({ onRecord: false });
    this.correspond(this.stranger(company.domains[0] ?? '', 'at a new company'), company.name, ago);
  }

  private colleagueOfKnown(ago: number): void {
    const company = this.random.pick(this.known);
    this.correspond(this.stranger(company.domains[0] ?? '', 'at a known company'), company.name, ago);
  }

  private atProvider(ago: number): void {
    this.correspond(this.stranger(PROVIDER, 'at a public provider'), '', ago);
  }

  /** One letter of a known company's domain is wrong; we wrote there, and no one answers. */
  private misspelled(ago: number): void {
    const domain = this.random.pick(this.known).domains[0] ?? '';
    const at = this.random.int(1, domain.indexOf('.') - 2);
    const wrong = this.random.pick([
      `${domain.slice(0, at)}${domain.slice(at + 1)}`,
      `${domain.slice(0, at)}${domain.charAt(at)}${domain.slice(at)}`,
    ]);
    if (wrong === domain || domain.indexOf('.') < 8) return;
    const stranger = this.stranger(wrong, 'at a misspelled domain', 'never');
    this.write(this.rep(), [stranger], ago, this.talk(), []);
  }

  private bounced(ago: number): void {
    const company = this.world.company({ onRecord: false });
    const stranger = this.stranger(company.domains[0] ?? '', 'at an address that bounces', 'never');
    const rep = this.rep();
    const talk = this.talk();
    const sent = this.write(rep, [stranger], ago, talk, []);
    this.bounce(rep, stranger.email, sent, ago);
  }

  /** Reply tokens, unsubscribe addresses and functions, beside someone real. */
  private machine(ago: number): void {
    const company = this.world.company({ onRecord: false });
    const local = this.random.pick(MACHINE_LOCALS);
    const machine: UnknownPerson = {
      ...this.newName(),
      email: `${local}@${company.domains[0] ?? ''}`,
      should: 'never',
      of: `${local}@`,
      isNamed: false,
    };
    this.strangers.push(machine);
    this.write(this.rep(), [machine], ago, this.talk(), []);
  }

  /** A person on record writes from a public provider under their name: a question, and no second record. */
  private secondAddress(ago: number): void {
    const person = this.random.pick(this.world.world.outsiders.filter((it) => it.kind === 'contact'));
    const [given = '', family = ''] = [person.name.split(' ')[0], person.name.split(' ').slice(1).join(' ')];
    const email = `${asciiOf(given)
      .toLowerCase()
      .replace(/[^a-z]/g, '')}${this.random.int(1, 999)}@${PROVIDER}`;
    const stranger: UnknownPerson = { given, family, email, should: 'never', of: 'at a second address', isNamed: false };
    this.strangers.push(stranger);
    const rep = this.rep();
    const talk = this.talk();
    const first = this.write(stranger, [rep], ago, talk, [], `${given} ${family}`);
    this.write(rep, [stranger], ago - 0.2, talk, [first], '', `${given} ${family}`);
  }

  private ourOwnAtProvider(ago: number): void {
    const rep = this.rep();
    const [given = '', family = ''] = [rep.name.split(' ')[0], rep.name.split(' ').slice(1).join(' ')];
    const email = `${asciiOf(given)
      .toLowerCase()
      .replace(/[^a-z]/g, '')}.home${this.random.int(1, 999)}@${PROVIDER}`;
    const stranger: UnknownPerson = { given, family, email, should: 'never', of: 'a colleague at home', isNamed: false };
    this.strangers.push(stranger);
    this.write(rep, [stranger], ago, this.talk(), [], '', rep.name);
  }

  /** A conversation as it goes: who begins, whether they answer, and how the name is written each time. */
  private correspond(stranger: UnknownPerson, company: string, ago: number): void {
    const { random } = this;
    const rep = this.rep();
    const talk = this.talk();
    const weBegin = random.chance(0.5);
    const theyWrite = random.chance(0.8);
    const weWrite = weBegin || random.chance(0.7);
    const name = (): string => (random.chance(0.75) ? random.pick(NAME_FORMS)(stranger.given, stranger.family, company, random) : '');
    const ids: string[] = [];
    let weWrote = false;
    let answered = false;
    const say = (fromUs: boolean, later: number): void => {
      answered ||= !fromUs && weWrote;
      weWrote ||= fromUs;
      const written = name();
      const signs = !fromUs && random.chance(0.5);
      if (written !== '' || signs) stranger.isNamed = true;
      const sent = fromUs
        ? this.write(rep, [stranger], ago - later, talk, ids, '', written)
        : this.write(stranger, [rep], ago - later, talk, ids, written, '', signs);
      ids.push(sent);
    };
    if (weBegin) say(true, 0);
    if (theyWrite || !weWrite) say(false, 0.3);
    if (weWrite && !weBegin) say(true, 0.6);
    for (let more = random.int(0, 3); more > 0 && theyWrite && weWrite; more -= 1) say(random.chance(0.5), 4 - more);
    const holds = { 'we wrote': weWrote, 'first email': true, 'they answered': answered }[this.policy];
    if (!holds) stranger.should = 'never';
  }

  private rep(): Teammate {
    return this.world.rep();
  }

  private talk(): number {
    this.serial += 1;
    return this.serial;
  }

  private write(
    from: UnknownPerson | Teammate,
    to: readonly (UnknownPerson | Teammate)[],
    ago: number,
    talk: number,
    before: readonly string[],
    fromName = '',
    toName = '',
    signs = false,
  ): string {
    const { random, world } = this;
    const partyOf = (it: UnknownPerson | Teammate, written: string) => ({ email: it.email, name: 'role' in it ? it.name : written });
    const id = `p${this.talks.size}.${random.int(0, 1e9)}@${from.email.split('@')[1] ?? ''}`;
    const signature = signs && 'given' in from ? `\n\n-- \n${from.given} ${from.family}\nEngineer\n` : '\n';
    const subject = `${before.length > 0 ? random.pick(['Re: ', 'AW: ', 'SV: ']) : ''}${SUBJECTS[talk % SUBJECTS.length] ?? ''} ${talk}`;
    const letter: Letter = {
      messageId: id,
      at: world.now - ago * DAY + random.int(0, 2) * HOUR,
      from: partyOf(from, fromName),
      to: to.map((it) => partyOf(it, toName)),
      subject,
      text: `Hello,\n\n${random.pick(['Could we speak next week?', 'Please find the drawing below.', 'Wann passt es Ihnen?', 'Merci pour votre visite.'])}${signature}`,
      // Some gateways drop what an email answers.
      ...(before.length > 0 && !random.chance(0.15) ? { references: [...before] } : {}),
    };
    world.mailboxes.deliver(letter);
    this.talks.set(id, talk);
    return id;
  }

  private bounce(rep: Teammate, address: string, about: string, ago: number): void {
    const { world } = this;
    const id = `b${this.talks.size}.${this.random.int(0, 1e9)}@mx.example`;
    const said = this.random.pick(['5.1.1', '5.1.10', '5.4.1']);
    const content = [
      '--r',
      'Content-Type: text/plain',
      '',
      'This message could not be delivered.',
      '',
      '--r',
      'Content-Type: message/delivery-status',
      '',
      'Reporting-MTA: dns; mx.example',
      '',
      `Final-Recipient: rfc822; ${address}`,
      'Action: failed',
      `Status: ${said}`,
      '',
      '--r',
      'Content-Type: message/rfc822',
      '',
      `Message-ID: <${about}>`,
      'Subject: x',
      '',
      'x',
      '--r--',
      '',
    ].join('\n');
    world.mailboxes.deliver({
      messageId: id,
      at: world.now - ago * DAY + 3 * HOUR,
      from: { name: 'Mail Delivery System', email: 'mailer-daemon@mx.example' },
      to: [{ name: rep.name, email: rep.email }],
      subject: 'Undelivered Mail Returned to Sender',
      text: '',
      body: { type: 'multipart/report; report-type=delivery-status; boundary="r"', content },
    });
  }
}
