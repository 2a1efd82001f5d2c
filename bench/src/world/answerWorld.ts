import { Mailboxes } from '../../../demo/src/mailboxes';
import type { Letter } from '../../../demo/src/compose';
import type { Random } from '../../../demo/src/random';
import { FAMILY, GIVEN, KINDS, PLACES, TITLES } from '../../../demo/src/words';
import type { Company, DemoDeal, Outsider, Teammate, World } from '../../../demo/src/world';
import { asciiOf, makeWorld } from '../../../demo/src/world';

export const HOUR = 3_600_000;
export const DAY = 24 * HOUR;

/** What is right for one email, known because it was written with it. */
export interface Answer {
  /** The case that it belongs to. */
  of: string;
  outcome: 'taken in' | 'kept out';
  /** Records that it must be filed under, as `contact:ADDRESS`, `account:NAME`, `deal:CODE`. */
  under: ReadonlySet<string>;
  /** What is neither right nor wrong: records as above, addresses that may be created, questions as `question:ABOUT`. */
  may: ReadonlySet<string>;
  /** What only a person can tell. */
  asks: ReadonlySet<string>;
  /** Addresses of people and domains of companies that it must create. */
  creates: ReadonlySet<string>;
}

export interface Sent {
  letter: Letter;
  answer: Answer;
}

type Party = { name: string; email: string };
type Right = Partial<Record<'under' | 'may' | 'asks' | 'creates', readonly string[]>> & { keptOut?: boolean };

/** Writes the emails of one case, each with what is right for it. */
export type Case = (world: AnswerWorld, of: string) => void;

export const contact = (item: Party): string => `contact:${item.email}`;
export const account = (company: Company): string => `account:${company.name}`;
export const deal = (item: DemoDeal): string => `deal:${item.code}`;

/** Records and mail in which each email's right filing is known: every case has companies, people and deals of its own. */
export class AnswerWorld {
  readonly world: World;
  readonly mailboxes: Mailboxes;
  readonly sent: Sent[] = [];
  private readonly used = new Set<string>();
  private readonly names: { place: string; kind: (typeof KINDS)[number] }[];
  private serial = 0;

  constructor(
    readonly random: Random,
    readonly now: number,
  ) {
    this.world = { ...makeWorld(random, now), companies: [], outsiders: [], deals: [] };
    this.mailboxes = new Mailboxes(new Set([...this.world.team.map((teammate) => teammate.email), this.world.shared]));
    this.names = random.shuffled(PLACES.flatMap((place) => KINDS.map((kind) => ({ place, kind }))));
  }

  rep(): Teammate {
    return this.random.pick(this.world.team.filter((teammate) => teammate.role === 'rep' && !teammate.left));
  }

  company(more: Partial<Company> = {}): Company {
    const { place, kind } = this.names.pop() ?? { place: `Mile ${this.world.companies.length}`, kind: KINDS[0] };
    const domain = `${asciiOf(place).replace(/\s+/g, '-')}-${kind.tail}.example`;
    const name = `${place} ${kind.suffix}`;
    const made: Company = { name, domains: [domain], type: kind.type, parent: null, owner: this.rep(), onRecord: true, ...more };
    if (made.onRecord) this.world.companies.push(made);
    return made;
  }

  /** Someone of a company: on record as a contact unless said otherwise. */
  person(company: Company, more: Partial<Outsider> = {}): Outsider {
    let name = '';
    do name = `${this.random.pick(GIVEN)} ${this.random.pick(FAMILY)}`;
    while (this.used.has(name));
    this.used.add(name);
    const email = `${asciiOf(name).split(' ').join('.')}@${company.domains[0] ?? ''}`;
    const made: Outsider = { name, email, otherEmail: null, company, title: this.random.pick(TITLES), phone: '', kind: 'contact', ...more };
    if (made.kind !== 'unknown') this.world.outsiders.push(made);
    return made;
  }

  /** A deal of a company with these people, open since so many days unless closed so many days ago. */
  deal(company: Company, people: Outsider[], about: string, opened: number, closed: number | null = null, owner = company.owner): DemoDeal {
    const day = (ago: number): string => new Date(this.now - ago * DAY).toISOString().slice(0, 10);
    const made: DemoDeal = {
      code: `QH-${3000 + this.world.deals.length}`,
      name: `${company.name.split(' ').slice(0, 2).join(' ')}: ${about}`,
      company,
      owner,
      stage: closed === null ? 'Quoted' : 'Won',
      open: closed === null,
      amount: 20_000,
      people,
      openedOn: day(opened),
      closedOn: closed === null ? null : day(closed),
    };
    this.world.deals.push(made);
    return made;
  }

  /** Sends an email, `ago` days before now, and notes what is right for it. */
  send(
    of: string,
    ago: number,
    letter: Omit<Letter, 'messageId' | 'at' | 'text'> & Partial<Letter>,
    right: Right,
    alsoTo: string[] = [],
  ): Letter {
    this.serial += 1;
    const messageId = `${of.replace(/\W+/g, '-')}.${this.serial}@${letter.from.email.split('@')[1] ?? 'x.example'}`;
    const text = `Hello,\n\n${letter.text ?? 'please see below; a short answer is enough.'}\n\nRegards\n${letter.from.name}\n`;
    const whole: Letter = { messageId, at: this.now - ago * DAY + (this.serial % 600) * 60_000, ...letter, text };
    this.mailboxes.deliver(whole, alsoTo);
    const set = (list: readonly string[] = []): ReadonlySet<string> => new Set(list);
    this.sent.push({
      letter: whole,
      answer: {
        of,
        outcome: right.keptOut ? 'kept out' : 'taken in',
        under: set(right.under),
        may: set(right.may),
        asks: set(right.asks),
        creates: set(right.creates),
      },
    });
    return whole;
  }

  /** An answer to an email, some hours later, in its conversation. */
  answer(of: string, to: Letter, from: Party, hours: number, right: Right, more: Partial<Letter> = {}): Letter {
    const ago = (this.now - to.at - hours * HOUR) / DAY;
    const references = [...(to.references ?? []), to.messageId ?? ''];
    const letter = { from: party(from), to: [to.from], subject: `Re: ${to.subject.replace(/^Re: /, '')}`, references, ...more };
    return this.send(of, ago, letter, right);
  }
}

export const party = ({ name, email }: Party): Party => ({ name, email });
