import { decide } from '../decision/decide';
import { docketSentences } from '../decision/docketSentences';
import { PLAIN_FACTS } from '../decision/plainFacts';
import type { ConversationMemory, DecisionFacts } from '../facts/types';
import type { Decision } from '../decision/types';
import { NO_MEMORY } from '../facts/types';
import type { AccountRecord, DealRecord, OwnRecord, PersonRecord } from '../records/directory';
import { Directory } from '../records/directory';
import { compileRulebook } from '../rulebook/compile';
import type { KeepOutEntry, Rulebook } from '../rulebook/schema';
import { cautiousRulebook, keepOutEntrySchema } from '../rulebook/schema';

export const DAY = 86_400_000;
export const NOW = Date.UTC(2026, 4, 4);
const ids = () => {
  let last = 0;
  return { next: () => (last -= 1) };
};

export const ida: PersonRecord = {
  kind: 'contact',
  id: 1,
  name: 'Ida Brandt',
  accountId: 10,
  addresses: ['ida@harbour.example'],
  originEmailId: null,
};
export const reseller: PersonRecord = {
  kind: 'contact',
  id: 2,
  name: 'Ravi Sen',
  accountId: 12,
  addresses: ['ravi@reseller.example'],
  originEmailId: null,
};
const lead: PersonRecord = {
  kind: 'lead',
  id: 3,
  name: 'Lea Ost',
  accountId: null,
  addresses: ['lea@dredge.example'],
  originEmailId: null,
};
const accounts: AccountRecord[] = [
  { id: 10, name: 'Harbour Oriel', domains: ['harbour.example', 'oriel.example'], type: 'customer', owner: null, originEmailId: null },
  { id: 11, name: 'Oriel North', domains: ['group.example'], type: 'customer', owner: null, originEmailId: null },
  { id: 13, name: 'Oriel South', domains: ['group.example'], type: 'customer', owner: null, originEmailId: null },
  { id: 20, name: 'Quay Works', domains: [], type: 'customer', owner: null, originEmailId: null },
  { id: 12, name: 'Tidewise Resale', domains: ['reseller.example'], type: 'customer', owner: null, originEmailId: null },
];
export const deal = (id: number, people: string[], more: Partial<DealRecord> = {}): DealRecord => ({
  id,
  name: `Deal ${id}`,
  code: `QH-200${id}`,
  accountId: 10,
  open: true,
  closedAt: null,
  openedAt: null,
  stage: 'Quoted',
  amount: null,
  owner: null,
  activity: [],
  people,
  ...more,
});

export const ownRecord = (id: number, people: string[], more: Partial<OwnRecord> = {}): OwnRecord => ({
  ...deal(id, people),
  kind: 'case',
  noun: 'case',
  name: `CASE-${id} Cracked housing`,
  code: `CASE-${id}`,
  accountId: null,
  stage: 'New',
  addresses: [],
  ...more,
});

export interface World {
  rules?: (rulebook: Rulebook) => void;
  people?: PersonRecord[];
  deals?: DealRecord[];
  own?: OwnRecord[];
  memory?: ConversationMemory;
}

export function directoryOf(world: World): Directory {
  return new Directory({ people: world.people ?? [ida, reseller, lead], accounts, deals: world.deals ?? [], own: world.own ?? [] });
}

/** What is decided of an email from Ida to us about a gauge, where nothing else is said. */
export function decided(
  email: Partial<DecisionFacts> & { from?: string; to?: string[]; cc?: string[]; bcc?: string[]; names?: Record<string, string> },
  world: World = {},
  directory = directoryOf(world),
): Decision {
  const rulebook = cautiousRulebook(['quillmere.example']);
  world.rules?.(rulebook);
  const compiled = compileRulebook(rulebook, {
    teamAddresses: ['tomas.private@freemail.example'],
    teamNames: ['Tomas Wendel', 'Jo'],
    publicProviders: new Set(['freemail.example']),
  });
  const names = email.names ?? {};
  const participant = (role: 'from' | 'to' | 'cc' | 'bcc') => (address: string) => ({
    role,
    address,
    domain: address.slice(address.indexOf('@') + 1),
    name: names[address] ?? '',
  });
  const participants = [
    participant('from')(email.from ?? 'ida@harbour.example'),
    ...(email.to ?? ['tomas@quillmere.example']).map(participant('to')),
    ...(email.cc ?? []).map(participant('cc')),
    ...(email.bcc ?? []).map(participant('bcc')),
  ];
  const { from: _from, to: _to, cc: _cc, bcc: _bcc, names: _names, ...more } = email;
  const facts: DecisionFacts = { ...PLAIN_FACTS, id: 100, at: NOW, subject: 'Gauge', ...more, participants };
  return decide(facts, compiled, directory, world.memory ?? NO_MEMORY, ids());
}

export const filedUnder = (decision: Decision): string[] =>
  decision.filings.map((filing) => `${filing.kind} ${filing.id} by ${filing.rule}`);
export const entry = (kind: 'domain' | 'address', value: string, more: Partial<KeepOutEntry> = {}): KeepOutEntry =>
  keepOutEntrySchema.parse({ id: `out-${value.replace('@', '.')}`, kind, value, ...more });

/** All that the decision says, in one text. */
export const said = (decision: Decision): string =>
  docketSentences(decision.docket)
    .flatMap((docketSentence) => docketSentence.because)
    .join(' ');
