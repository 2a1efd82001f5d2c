import type { ConversationMemory, DecisionFacts } from '../facts/types';
import type { AccountRecord, DealRecord, PersonRecord } from '../records/directory';
import type { Decision, Evidence } from '../decision/types';

const DAY = 86_400_000;
/** Days before its opening from which a deal may be meant. */
const LEAD = 90;

/** All that a decision may speak of, to hold its words against. */
interface Told {
  facts: DecisionFacts;
  people: readonly PersonRecord[];
  accounts: readonly AccountRecord[];
  deals: readonly DealRecord[];
  externals: readonly string[];
  memory: ConversationMemory;
  decision: Decision;
}

const isOpenAt = ({ open, closedAt, openedAt }: DealRecord, at: number): boolean =>
  (open || (closedAt !== null && closedAt >= at)) && (openedAt === null || openedAt <= at);

const mayBeMeant = ({ open, closedAt, openedAt }: DealRecord, at: number): boolean =>
  (open || (closedAt !== null && closedAt >= at)) && (openedAt === null || openedAt - LEAD * DAY <= at);

/** Each claim of one piece of evidence, held against the world as it was made. @returns what is not true */
export function untrue(evidence: Evidence, { facts, people, accounts, deals, externals, memory, decision }: Told): string[] {
  const wrong: string[] = [];
  const hold = (claim: boolean, what: string): void => void (claim || wrong.push(`${what}: ${JSON.stringify(evidence)}`));
  const present = people.filter((it) => it.addresses.some((address) => externals.includes(address)));
  const isTheirs = (it: DealRecord): boolean => present.some((one) => it.people.includes(`${one.kind}:${one.id}`));
  const text = facts.subject.toLowerCase();
  const openOf = (list: readonly { id: number }[]): boolean =>
    list.every(({ id }) => deals.some((it) => it.id === id && mayBeMeant(it, facts.at)));
  switch (evidence.fact) {
    case 'direction':
      hold(evidence.external === externals.length, 'so many external');
      break;
    case 'person': {
      const known = people.find((it) => it.id === evidence.id && it.kind === evidence.kind);
      hold(known?.name === evidence.name && known.addresses.includes(evidence.address), 'that person has that address');
      hold(externals.includes(evidence.address), 'takes part');
      break;
    }
    case 'unknown':
      hold(!people.some((it) => it.addresses.includes(evidence.address)), 'is in no record');
      break;
    case 'account': {
      const known = accounts.find((it) => it.id === evidence.id);
      hold(known?.name === evidence.name, 'the account has that name');
      if (evidence.by === 'person')
        hold(
          people.some((it) => it.addresses.includes(evidence.via) && it.accountId === evidence.id),
          'the person is with it',
        );
      if (evidence.by === 'domain') hold(known?.domains.includes(evidence.via) === true, 'the domain is its');
      break;
    }
    case 'shared domain':
      hold(
        evidence.candidates.every(({ id }) => accounts.some((it) => it.id === id && it.domains.includes(evidence.domain))),
        'shared',
      );
      hold(evidence.candidates.length > 1, 'by several');
      break;
    case 'deal': {
      const known = deals.find((it) => it.id === evidence.id);
      if (!known) return [`no such deal: ${JSON.stringify(evidence)}`];
      hold(known.name === evidence.name, 'it has that name');
      const closed = !known.open && known.closedAt !== null && known.closedAt < facts.at;
      hold((evidence.closedAt !== undefined) === closed, 'closed before the email, and said so');
      if (evidence.closedAt !== undefined) hold(evidence.closedAt === known.closedAt, 'closed then');
      const later = !closed && known.openedAt !== null && known.openedAt > facts.at;
      hold((evidence.openedAt !== undefined) === later, 'opened after the email, and said so');
      if (evidence.by === 'only open') {
        hold(isTheirs(known), 'of these people');
        const rivals = deals.filter((it) => it !== known && isTheirs(it) && isOpenAt(it, facts.at));
        if (evidence.via === '') hold(rivals.length === 0, 'the only one that was open');
        if (later)
          hold(!deals.some((it) => it !== known && isTheirs(it) && mayBeMeant(it, facts.at)) || evidence.via !== '', 'the only one meant');
      }
      if (evidence.by === 'name')
        hold(
          evidence.via
            .toLowerCase()
            .split(' ')
            .every((word) => text.includes(word)),
          'the subject names it',
        );
      if (evidence.by === 'text')
        hold(
          known.name
            .toLowerCase()
            .split(' ')
            .join(' ')
            .includes(evidence.via.split(' ')[0] ?? '-'),
          'named in the text',
        );
      if (evidence.by === 'code') {
        const number = /\d+/.exec(known.code ?? '')?.[0] ?? '-';
        const said = [facts.subject, ...facts.codes, ...facts.attachments].some((part) => part.includes(number));
        hold(said && evidence.via.includes(number), 'its code is written there');
      }
      if (evidence.by === 'conversation')
        hold(
          memory.deals.some(({ dealId }) => dealId === known.id),
          'the conversation was filed there',
        );
      break;
    }
    case 'new matter':
      hold(
        memory.deals.some(({ dealId }) => dealId === evidence.id),
        'the conversation was filed there',
      );
      if (evidence.because === 'closed')
        hold(
          deals.some((it) => it.id === evidence.id && !it.open && (it.closedAt ?? 0) < facts.at),
          'closed',
        );
      if (evidence.because === 'rested') hold(evidence.days === Math.floor((facts.at - (memory.lastAt ?? 0)) / DAY), 'rested so long');
      break;
    case 'open deals':
      hold(
        openOf(evidence.candidates) && evidence.candidates.every(({ id }) => deals.some((it) => it.id === id && isTheirs(it))),
        'open, theirs',
      );
      hold(evidence.candidates.length > 1, 'several');
      break;
    case 'deal scores':
      for (const score of evidence.scores) {
        const known = deals.find((it) => it.id === score.id);
        hold(known !== undefined && known.people.length === score.of, 'so many people');
        hold(present.filter((it) => known?.people.includes(`${it.kind}:${it.id}`)).length === score.people, 'so many of them take part');
        hold(
          score.words.every((word) => text.includes(word.toLowerCase())),
          'the words are in the subject',
        );
        const last = known?.activity.filter((at) => at <= facts.at).at(-1);
        if (score.days !== null) hold(last !== undefined && Math.abs(score.days - (facts.at - last) / DAY) <= 1, 'so many days');
      }
      break;
    case 'several customers':
      hold(
        evidence.accounts === new Set(decision.filings.filter(({ kind }) => kind === 'account').map(({ id }) => id)).size,
        'so many accounts',
      );
      break;
    case 'created':
      hold(
        decision.creations.some(({ kind, id, name }) => kind === evidence.kind && id === evidence.id && name === evidence.name),
        'created',
      );
      break;
    case 'not created':
      hold(externals.includes(evidence.address) && !decision.creations.some(({ address }) => address === evidence.address), 'not created');
      if (evidence.because === 'misspelled')
        hold(evidence.like?.kind === 'account' && evidence.address.endsWith('@harbour-oriol.example'), 'near');
      break;
    case 'scope':
      hold(
        evidence.known.every((address) => people.some((it) => it.addresses.includes(address))),
        'known',
      );
      break;
    default:
      break;
  }
  return wrong;
}
