import type { Rulebook } from '@fulvet/core';
import type { AnswerWorld } from './answerWorld';
import { account, contact, deal } from './answerWorld';
import type { Draft, House, Reseller, Talk } from './noisyHouse';
import { candidates, capital, codeInFile, referencesTo, stateAt, writtenCode } from './noisyHouse';
import { NoisyTalks } from './noisyTalks';
import type { Trade } from './noisyWords';
import { NUMBER_WORDS, OTHER_HOUSE, REPLY_MARKS, TRADES } from './noisyWords';

/**
 * A world of mail made at random: cases are combined, any way of naming a deal with any damage of headers, any noise around it and any state of
 * the records. What is right follows from how each email was made and from what the product promises, not from how it decides.
 */
export class NoisyWorld extends NoisyTalks {
  private readonly trade: Trade;
  private readonly resellers: Reseller[] = [];

  constructor(seed: number, now: number, houses = 40) {
    super(seed, now);
    this.trade = this.random.pick(TRADES);
    for (let at = 0; at < houses; at += 1) this.houses.push(this.house());
    for (let at = 0; at < houses / 10; at += 1) this.resellers.push(this.reseller());
  }

  /** A company that sells to others' customers, with someone in several of their deals. */
  private reseller(): Reseller {
    const { random, world } = this;
    const company = world.company();
    const person = world.person(company);
    const deals = random.shuffled(this.houses.flatMap((house) => house.deals)).slice(0, random.int(2, 5));
    for (const { record } of deals) record.people.push(person);
    return { company, person, deals };
  }

  static of(seed: number, emails: number, now: number): AnswerWorld {
    const made = new NoisyWorld(seed, now, Math.max(20, Math.round(emails / 25)));
    // In order of time, as a life goes; what is written later may answer what was written before.
    for (let ago = 180; ago > 3; ago -= 176 / emails) made.step(ago);
    return made.world;
  }

  private house(): House {
    const { random, world } = this;
    // One domain may be of several companies of a group; the person tells which.
    const sister = random.chance(0.1) ? this.houses.at(-1)?.company : undefined;
    const company = world.company(sister ? { domains: sister.domains } : {});
    const people = Array.from({ length: random.int(1, 4) }, () => world.person(company));
    const house: House = { company, rep: company.owner, people, deals: [] };
    const goods = random.shuffled(this.trade.goods);
    for (let at = random.int(0, 3); at > 0; at -= 1) {
      const about = goods[at] ?? 'spare parts';
      const on = random.shuffled(people).slice(0, random.int(1, people.length));
      const kind = random.pick(['open', 'open', 'open', 'soon', 'won'] as const);
      const opened = kind === 'open' ? random.int(185, 300) : kind === 'soon' ? random.int(10, 120) : random.int(260, 400);
      const closed = kind === 'won' ? random.int(60, 240) : null;
      const record = world.deal(company, on, about, opened, closed);
      const number = String(2000 + world.world.deals.length * 7 + random.int(0, 6));
      record.code = random.pick(this.trade.codes).replace('N', number);
      record.name = random.chance(0.5) ? `${company.name.split(' ')[0] ?? ''}: ${about}` : about;
      house.deals.push({ record, about, number, opened, closed, house });
    }
    return house;
  }

  private step(ago: number): void {
    const { random } = this;
    const house = random.pick(this.houses);
    const isOf = (talk: Talk): boolean => talk.house === house && talk.ago - ago < 45 && talk.ago > ago;
    const talk = this.talks.filter(isOf).at(-1);
    const ways = [
      () => this.plain(house, ago),
      () => this.named(house, ago),
      () => this.named(house, ago),
      () => this.mailing(ago),
      ...(random.chance(0.3) ? [() => this.byReseller(ago)] : []),
      ...(talk ? [() => this.answer(talk, ago), () => this.answer(talk, ago), () => this.answer(talk, ago)] : []),
      ...(talk ? [() => this.turn(talk, ago), () => this.elsewhere(talk, ago)] : []),
    ];
    random.pick(ways)();
  }

  /** Nothing in it names a deal: it is the only open one of its people, or none can be told. */
  private plain(house: House, ago: number): void {
    const writer = this.random.pick(house.people);
    const open = candidates(house, [writer], ago).filter((item) => stateAt(item, ago) === 'open');
    const [only] = open;
    const mayTell = candidates(house, house.people, ago);
    const about = open.length === 1 && mayTell.length === 1 ? (only ?? null) : null;
    const nothingNear = mayTell.length === 0;
    const draft: Draft = {
      of: 'nothing named',
      subject: this.plainSubject(),
      lines: [],
      files: [],
      about,
      unsure: about === null && !nothingNear,
    };
    this.begin(house, [writer], draft, ago);
  }

  /** It names a deal, in one of many ways. */
  private named(house: House, ago: number): void {
    const { random } = this;
    if (house.deals.length === 0) return this.plain(house, ago);
    const item = random.pick(house.deals);
    const writer = random.pick(house.people);
    const state = stateAt(item, ago);
    // So long before a deal is opened no one knows of it.
    if (state === 'before' && item.opened < ago - 60) return this.plain(house, ago);
    const isTheirs = item.record.people.includes(writer);
    const way = random.pick([
      'subject code',
      'subject code',
      'text code',
      'file',
      'bare number',
      'subject name',
      'subject name',
      'text name',
    ] as const);
    const of = `${way}${state === 'open' ? '' : `, ${state === 'closed' ? 'closed' : 'not opened yet'}`}${isTheirs ? '' : ', writer not on it'}`;
    const draft: Draft = { of, subject: this.plainSubject(), lines: [], files: [], about: item };
    const code = writtenCode(item, random);
    if (way === 'subject code')
      draft.subject = random.pick([
        `${code}: ${draft.subject}`,
        `${draft.subject} (${code})`,
        `[${code}] ${draft.subject}`,
        `${draft.subject} ${code}`,
      ]);
    if (way === 'text code')
      draft.lines.push(
        random.pick([`This is about ${code}.`, `Es geht um ${code}.`, `${code} - when does it come?`, `À propos de ${code}, merci.`]),
      );
    if (way === 'file')
      draft.files.push(
        random.pick([
          `${codeInFile(item, random)}.pdf`,
          `Drawing ${codeInFile(item, random)}.pdf`,
          `${codeInFile(item, random)}_rev2.pdf`,
          `Angebot_${codeInFile(item, random)}.pdf`,
        ]),
      );
    if (way === 'bare number') {
      const word = random.pick(NUMBER_WORDS);
      const said = word === '#' ? `#${item.number}` : `${word} ${item.number}`;
      if (random.chance(0.5)) draft.subject = `${draft.subject}, ${said}`;
      else draft.lines.push(`I write because of ${said}.`);
    }
    if (way === 'text name') {
      // What is said of a deal of others, or of one that is not open, may be meant by the way.
      if (state !== 'open' || !isTheirs) return this.plain(house, ago);
      draft.lines.push(random.pick([`It is about the ${item.about}.`, `Es geht um ${item.about}.`, `When do the ${item.about} come?`]));
    }
    if (way === 'subject name')
      draft.subject = random.pick([
        `${capital(item.about)}: ${draft.subject}`,
        `${draft.subject} – ${item.about}`,
        capital(item.about),
        `Drawings, ${item.about}`,
      ]);
    this.begin(house, [writer], draft, ago);
  }

  /** A reseller writes about one of the many deals that they are in. */
  private byReseller(ago: number): void {
    const { random } = this;
    const reseller = random.pick(this.resellers);
    const [item] = random.shuffled(reseller.deals.filter((it) => stateAt(it, ago) !== 'before'));
    if (!item) return;
    const { company, person } = reseller;
    const subject = random.pick([
      `${writtenCode(item, random)}: ${this.plainSubject()}`,
      `${this.plainSubject()} (${writtenCode(item, random)})`,
    ]);
    const right = { under: [account(company), contact(person), deal(item.record)] };
    this.write('from a reseller in many deals', person, [company.owner], [], { subject, lines: [], files: [] }, ago, right);
  }

  /** To people of several customers at once: it is about no deal of theirs. */
  private mailing(ago: number): void {
    const { random } = this;
    const houses = random.shuffled(this.houses).slice(0, random.int(2, 9));
    const [first] = houses;
    if (!first) return;
    const to = houses.map((house) => random.pick(house.people));
    const subject = random.pick([
      'Price list',
      'Invitation to our open day',
      'Agenda of the user meeting',
      'Holiday closing',
      'Neue Preise ab Januar',
    ]);
    this.write('to several customers', first.rep, to, [], { subject, lines: [], files: [] }, ago, {
      under: houses.flatMap((house, at) => [account(house.company), ...(to[at] ? [contact(to[at])] : [])]),
    });
  }

  /** An answer in a conversation, with any damage of its headers. */
  private answer(talk: Talk, ago: number): void {
    const { random } = this;
    const fromUs = random.chance(0.5);
    const writer = random.pick(talk.people);
    const draft: Draft = { of: 'answer', subject: `${random.pick(REPLY_MARKS)}${talk.base}`, lines: [], files: [], about: talk.about };
    if (talk.about === null) draft.unsure = candidates(talk.house, talk.house.people, ago).length > 0;
    // Another customer's code, said aside, changes nothing.
    const away = random.pick(this.houses);
    const other = away === talk.house ? undefined : away.deals[random.int(0, away.deals.length)];
    if (other && random.chance(0.3)) {
      draft.lines.push(random.pick(OTHER_HOUSE).replace('CODE', other.record.code));
      draft.of = 'answer that mentions another customer’s code';
    }
    const closed = talk.about !== null && stateAt(talk.about, ago) === 'closed';
    if (closed) draft.of += ', deal closed meanwhile';
    this.continue(talk, fromUs ? talk.house.rep : writer, fromUs ? [writer] : [talk.house.rep], draft, ago, fromUs ? [] : [writer]);
  }

  /** A conversation that turns to another deal of the same people. */
  private turn(talk: Talk, ago: number): void {
    const { random } = this;
    const writer = random.pick(talk.people);
    const others = candidates(talk.house, [writer], ago).filter((item) => item !== talk.about && stateAt(item, ago) === 'open');
    const [next] = random.shuffled(others);
    if (!next || talk.about === null) return this.answer(talk, ago);
    const way = random.pick(['was', 'name', 'code in text', 'name in text'] as const);
    const draft: Draft = { of: `turns to another deal: ${way}`, subject: `Re: ${talk.base}`, lines: [], files: [], about: next };
    if (way === 'was') draft.subject = `${capital(next.about)} (was: ${talk.base})`;
    if (way === 'name') draft.subject = `${capital(next.about)}, ${this.plainSubject().toLowerCase()}`;
    if (way === 'name in text') draft.lines.push(`Something else: what about the ${next.about}?`);
    if (way === 'code in text') draft.lines.push(`Something else: what about ${next.record.code}?`);
    this.continue(talk, writer, [talk.house.rep], draft, ago, [writer]);
  }

  /** Someone of ours answers an old email of one customer to write to another. */
  private elsewhere(talk: Talk, ago: number): void {
    const { random } = this;
    const house = random.pick(this.houses);
    if (house === talk.house) return this.answer(talk, ago);
    const to = random.pick(house.people);
    const open = candidates(house, house.people, ago);
    const theirs = candidates(house, [to], ago).filter((item) => stateAt(item, ago) === 'open');
    const about = open.length === 1 && theirs.length === 1 ? (theirs[0] ?? null) : null;
    const subject = this.plainSubject();
    const right = this.rightFor(house, [to], { about, unsure: about === null && open.length > 0 }, ago);
    const letter = this.write(
      'an old email answered to write to another customer',
      house.rep,
      [to],
      referencesTo(talk, 'whole', this.lost),
      { subject, lines: [], files: [] },
      ago,
      right,
    );
    const ids = [...talk.ids, letter.messageId ?? ''];
    this.talks.push({ house, last: letter, ids, about, people: [to], base: subject, ago });
  }
}

/** The rulebooks of the noisy worlds: they create no one, since all are on record. */
export const NOISY_POLICIES = {
  'the deal that fits best': (rulebook: Rulebook): void => void (rulebook.create.people = 'nothing'),
  'certain deals only': (rulebook: Rulebook): void => {
    rulebook.create.people = 'nothing';
    rulebook.match.deal = 'certain';
  },
} as const;

export const asNoisy = NOISY_POLICIES['the deal that fits best'];
