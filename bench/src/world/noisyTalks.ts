import type { Letter } from '../../../demo/src/compose';
import { Random } from '../../../demo/src/random';
import type { Outsider } from '../../../demo/src/world';
import { account, AnswerWorld, contact, DAY, deal, HOUR, party } from './answerWorld';
import type { Draft, House, Party, Right, Talk } from './noisyHouse';
import { candidates, referencesTo } from './noisyHouse';
import { PLAIN_SUBJECTS, SENTENCES } from './noisyWords';

/** Emails of conversations in a world made at random, each written with what is right about it. */
export abstract class NoisyTalks {
  readonly world: AnswerWorld;
  protected readonly random: Random;
  protected readonly houses: House[] = [];
  protected readonly talks: Talk[] = [];
  protected serial = 0;
  /** Message-ID of an email that we never got. */
  protected readonly lost = (): string => `lost.${(this.serial += 1)}@elsewhere.example`;

  constructor(seed: number, now: number) {
    this.random = new Random(seed * 7919);
    this.world = new AnswerWorld(this.random, now);
  }

  protected begin(house: House, writers: Outsider[], draft: Draft, ago: number): void {
    const [writer] = writers;
    if (!writer) return;
    const fromUs = this.random.chance(0.4);
    const right = this.rightFor(house, writers, draft, ago);
    const letter = this.write(draft.of, fromUs ? house.rep : writer, fromUs ? writers : [house.rep], [], draft, ago, right);
    const about = draft.unsure ? null : draft.about;
    // A bare name or number is beyond doubt for its email; the conversation is, too, by its subject.
    this.talks.push({ house, last: letter, ids: [letter.messageId ?? ''], about, people: writers, base: draft.subject, ago });
  }

  protected continue(talk: Talk, from: Party, to: Party[], draft: Draft, ago: number, people: Outsider[]): void {
    const external = people.length > 0 ? people : talk.people.filter((person) => to.some((item) => item.email === person.email));
    const damage = this.random.pick(['whole', 'whole', 'whole', 'in-reply-to', 'parent missing', 'none'] as const);
    const keepsSubject = /^\S+ ?: /.test(draft.subject) && draft.subject.endsWith(talk.base);
    const headers = referencesTo(talk, damage === 'none' && (!keepsSubject || talk.ago - ago > 25) ? 'whole' : damage, this.lost);
    const right = this.rightFor(talk.house, external, draft, ago);
    const letter = this.write(draft.of, from, to, headers, draft, ago, right);
    const base = draft.subject.replace(/^(?:re|aw|sv|antw|odp|re\[2\]): /i, '');
    Object.assign(talk, {
      last: letter,
      ids: [...talk.ids, letter.messageId ?? ''],
      about: draft.unsure ? talk.about : draft.about,
      base,
      ago,
    });
  }

  /** What is right for an email with these people about this deal, as it was made. */
  protected rightFor(
    house: House,
    people: readonly Outsider[],
    { about, unsure = false }: Pick<Draft, 'about' | 'unsure'>,
    ago: number,
  ): Right {
    const base = [account(house.company), ...people.map(contact)];
    if (about && !unsure) return { under: [...base, deal(about.record)] };
    if (!unsure) return { under: base };
    const may = candidates(house, house.people, ago).map((item) => deal(item.record));
    return { under: base, may: [...may, 'question:deal'] };
  }

  protected write(
    of: string,
    from: Party,
    to: readonly Party[],
    headers: [string, string][],
    draft: Pick<Draft, 'subject' | 'lines' | 'files'>,
    ago: number,
    right: Right,
  ): Letter {
    const { random, world } = this;
    this.serial += 1;
    const number = (): string => String(random.int(2000, 9000));
    const filler = Array.from({ length: random.int(1, 3) }, () => random.pick(SENTENCES).replace('NUMBER', number()));
    const quoted = random.chance(0.3)
      ? [`On Monday ${to[0]?.name ?? ''} wrote:`, `> We talked about ${this.anyCode()} and more.`, '> Thank you']
      : [];
    const signature = random.chance(0.5)
      ? ['-- ', from.name, `Tel. +47 ${number()} ${number()}`, `Ref ${this.anyCode()}`]
      : ['Regards', from.name];
    const text = [`Hello,`, '', ...random.shuffled([...filler, ...draft.lines]), '', ...signature, '', ...quoted, ''].join('\n');
    const letter: Letter = {
      messageId: `n${this.serial}.${random.int(0, 1e9)}@${from.email.split('@')[1] ?? 'x.example'}`,
      at: world.now - ago * DAY + random.int(0, 4) * HOUR,
      from: party(from),
      to: to.map(party),
      subject: draft.subject,
      text,
      headers,
      ...(draft.files.length > 0
        ? { attachments: draft.files.map((name) => ({ name, type: 'application/pdf', content: `%PDF ${this.serial}` })) }
        : {}),
    };
    world.mailboxes.deliver(letter);
    const set = (list: readonly string[] = []): ReadonlySet<string> => new Set(list);
    world.sent.push({
      letter,
      answer: { of, outcome: 'taken in', under: set(right.under), may: set(right.may), asks: set(), creates: set() },
    });
    return letter;
  }

  protected anyCode(): string {
    const deals = this.houses.flatMap((house) => house.deals);
    return deals.length === 0 ? 'X-100' : this.random.pick(deals).record.code;
  }

  protected plainSubject(): string {
    const subject = this.random.pick(PLAIN_SUBJECTS);
    // Few people write the same subject twice in a year.
    return this.random.chance(0.7) ? `${subject} ${this.random.pick(['again', 'please', 'today', 'soon', '(short)', 'kindly'])}` : subject;
  }
}
