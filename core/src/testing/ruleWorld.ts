import { decide } from '../decision/decide';
import { PLAIN_ACCOUNT, PLAIN_FACTS } from '../decision/plainFacts';
import type { ConversationMemory, DecisionFacts } from '../facts/types';
import type { Decision } from '../decision/types';
import { NO_MEMORY } from '../facts/types';
import type { DealRecord } from '../records/directory';
import { Directory } from '../records/directory';
import { compileRulebook } from '../rulebook/compile';
import type { ConditionInput } from '../rulebook/condition';
import type { Action, Rule, RuleStep } from '../rulebook/rule';
import { ACTIONS, ruleSchema } from '../rulebook/rule';
import type { Rulebook } from '../rulebook/schema';
import { cautiousRulebook } from '../rulebook/schema';

export const NOW = Date.UTC(2026, 4, 4);
export const DAY = 86_400_000;
export const OUR = 'rep@quillmere.example';
export const LISTS = [
  {
    id: 'press',
    name: 'Press and law firms',
    entries: [
      { kind: 'domain' as const, value: 'press.example', exactly: false },
      { kind: 'address' as const, value: 'lawyer@other.example', exactly: false },
    ],
  },
];

let serial = 0;
/** A rule with a name and id of its own. */
export function rule<Step extends RuleStep>(step: Step, when: ConditionInput, then: Action<Step>, more: object = {}): Rule<Action<Step>> {
  serial += 1;
  const made = ruleSchema(ACTIONS[step]).parse({ id: `rule-${serial}`, name: `Rule ${serial}`, when, then, ...more });
  return made as Rule<Action<Step>>;
}

/** An email in short: from Ida to us, where nothing else is said. */
export interface Mail extends Partial<Omit<DecisionFacts, 'participants'>> {
  from?: string;
  to?: string[];
  cc?: string[];
}

/** `ida@harbour.example`, or with a name: `Ida Brandt <ida@harbour.example>`. */
export const part = (role: 'from' | 'to' | 'cc') => (written: string) => {
  const [, name = '', address = written] = /^(.*) <(.*)>$/.exec(written) ?? [];
  return { role, address, domain: address.slice(address.indexOf('@') + 1), name };
};

export function factsOf({ from = 'ida@harbour.example', to = [OUR], cc = [], ...more }: Mail): DecisionFacts {
  return { ...PLAIN_FACTS, id: 100, at: NOW, ...more, participants: [part('from')(from), ...to.map(part('to')), ...cc.map(part('cc'))] };
}

/** Two contacts of one account, and a lead. */
export function directory(deals: DealRecord[] = [], exchanges: ReadonlyMap<string, readonly number[]> = new Map()): Directory {
  return new Directory({
    people: [
      { kind: 'contact', id: 1, name: 'Ida Brandt', accountId: 10, addresses: ['ida@harbour.example'], originEmailId: null },
      { kind: 'contact', id: 2, name: 'Jo Lund', accountId: 10, addresses: ['jo@harbour.example'], originEmailId: null },
      { kind: 'lead', id: 3, name: 'Lea Ost', accountId: null, addresses: ['lea@dredge.example'], originEmailId: null },
    ],
    accounts: [
      {
        ...PLAIN_ACCOUNT,
        id: 10,
        name: 'Harbour Oriel',
        domains: ['harbour.example'],
        type: 'customer',
        owner: OUR,
        own: { region: 'north', gauges: '12', renewal: '2026-05-31' },
      },
    ],
    deals,
    exchanges,
  });
}

/** Decides an email by the cautious rulebook, changed. */
export function decided(
  mail: Mail,
  change: (rulebook: Rulebook) => void,
  deals: DealRecord[] = [],
  memory: ConversationMemory = NO_MEMORY,
  exchanges: ReadonlyMap<string, readonly number[]> = new Map(),
): Decision {
  const rulebook = cautiousRulebook(['quillmere.example']);
  change(rulebook);
  let last = 0;
  const compiled = compileRulebook(rulebook, { teamAddresses: [], publicProviders: new Set(['freemail.example']), lists: LISTS });
  return decide(factsOf(mail), compiled, directory(deals, exchanges), memory, { next: () => (last -= 1) });
}
