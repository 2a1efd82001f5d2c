import type { Directory, OwnRecord, PersonRecord } from '../records/directory';
import { mayConcern, wasOpen } from '../records/dealTimes';
import type { CompiledRulebook } from '../rulebook/compile';
import type { RuleContext } from '../rulebook/ruleContext';
import { RULES } from '../rulebook/schema';
import { addFiling } from './addFiling';
import { currentSubject, nameOfFile, numbersOf } from './dealCode';
import { clearWinner, scoreDeals } from './dealScore';
import type { Evidence, Filing } from './types';

/**
 * Files an email under records of the workspace's own kinds: those of its conversation that concern its people, those whose number it names, those
 * to which an address leads; where a kind says so, the only open one of its people, or the best of several. It never asks: where several may be
 * meant, the email stands under none of them.
 *
 * @param people everyone on record in the email
 */
export function matchOwn(
  { facts, memory, externals }: RuleContext,
  people: readonly PersonRecord[],
  rulebook: Pick<CompiledRulebook, 'source' | 'personKey'>,
  directory: Directory,
  filings: Filing[],
  evidence: Evidence[],
): void {
  const { own } = directory;
  if (own.isEmpty) return;
  const { own: strategies, threshold, margin, leadDays } = rulebook.source.match;
  const strategyOf = (kind: string): (typeof strategies)[string] => strategies[kind] ?? 'code';
  const standing = new Set<OwnRecord>();
  for (const filing of filings) {
    const record = filing.kind === 'own' ? own.get(filing.id) : undefined;
    if (record) standing.add(record);
  }
  const fileUnder = (record: OwnRecord, by: OwnBy, rule: string, via: string): void => {
    if (standing.has(record) || strategyOf(record.kind) === 'never') return;
    standing.add(record);
    addFiling(filings, { kind: 'own', id: record.id, rule });
    evidence.push({ fact: 'own record', id: record.id, name: record.name, noun: record.noun, by, via });
  };
  const accounts = filings.flatMap((filing) => (filing.kind === 'account' ? [filing.id] : []));
  const addresses = externals.map(({ address }) => rulebook.personKey(address));
  const concerns = (record: OwnRecord): boolean =>
    people.some((person) => record.people.includes(`${person.kind}:${person.id}`)) ||
    (record.accountId !== null && accounts.includes(record.accountId)) ||
    record.addresses.some((address) => addresses.includes(address)) ||
    (record.people.length === 0 && record.accountId === null && record.addresses.length === 0);

  for (const key of memory.records) {
    if (!key.startsWith('own:')) continue;
    const record = own.get(Number(key.slice(4)));
    if (record && concerns(record)) fileUnder(record, 'conversation', RULES.ownByConversation, '');
  }
  for (const { code, isLoose } of numbersOf(currentSubject(facts.subject))) {
    const record = own.withCode(code);
    // “in case 12 gauges are missing” names no case; of someone whose case it is, “Case 12” does.
    if (record && (!isLoose || concerns(record))) fileUnder(record, 'code', RULES.ownByCode, record.code);
  }
  const theirs = theirRecords(people, accounts, directory);
  // What they wrote may name other records than theirs, in a report or a signature.
  for (const { code } of [...facts.codes, ...facts.attachments.map(nameOfFile)].flatMap(numbersOf)) {
    const record = own.withCode(code);
    if (record && theirs.includes(record)) fileUnder(record, 'text', RULES.ownByCode, code);
  }
  for (const address of addresses)
    for (const record of own.at(address)) if (wasOpen(record, facts.at)) fileUnder(record, 'address', RULES.ownByAddress, address);

  const open = theirs.filter((record) => wasOpen(record, facts.at) && mayConcern(record, facts.at, leadDays));
  for (const kind of new Set(open.map((record) => record.kind))) {
    const strategy = strategyOf(kind);
    if (strategy === 'code' || strategy === 'never' || [...standing].some((record) => record.kind === kind)) continue;
    const candidates = open.filter((record) => record.kind === kind);
    const [only] = candidates;
    if (only && candidates.length === 1) {
      fileUnder(only, 'only open', RULES.onlyOpenOwn, '');
      continue;
    }
    const present = new Set(people.map((person) => `${person.kind}:${person.id}`));
    const scores = strategy === 'scored' ? scoreDeals(facts, candidates, present) : [];
    const best = clearWinner(scores, threshold, margin);
    const winner = best ? own.get(best.id) : undefined;
    if (winner && best) fileUnder(winner, 'score', RULES.ownByScore, best.score.toFixed(2));
    else evidence.push({ fact: 'open own records', noun: only?.noun ?? '', candidates: candidates.map(({ id, name }) => ({ id, name })) });
  }
}

type OwnBy = Extract<Evidence, { fact: 'own record' }>['by'];

/** Records of these people, and of accounts alone that no one is on, in order of id. */
function theirRecords(people: readonly PersonRecord[], accounts: readonly number[], directory: Directory): readonly OwnRecord[] {
  const found = new Set<OwnRecord>();
  for (const person of people) for (const record of directory.own.ofPerson(person)) found.add(record);
  for (const account of accounts) for (const record of directory.own.ofAccount(account)) found.add(record);
  return [...found].sort((first, second) => first.id - second.id);
}
