import { domainOf } from '../address/address';
import { canonicalJson } from './canonicalJson';
import type { Condition } from './condition';
import { leavesOf, membersOf } from './condition';
import { BadPattern, compilePattern } from './pattern';
import type { Action, Rule, RuleStep } from './rule';
import { RULE_STEPS } from './rule';
import type { Rulebook } from './schema';

/** Something odd about a rulebook that its text alone shows. */
export interface RulebookFinding {
  code:
    | 'covered'
    | 'repeats'
    | 'matches-all'
    | 'matches-none'
    | 'list-gone'
    | 'record-gone'
    | 'people-gone'
    | 'pattern-all'
    | 'both-sides'
    | 'provider-entry'
    | 'provider-company'
    | 'private-mailbox';
  step: RuleStep | null;
  rule: string | null;
  /** The other rule or entry that it is about. */
  other: string | null;
  /** The rulebook after the one sure repair, or null where a person has to think. */
  repaired: Rulebook | null;
}

export interface CheckContext {
  lists: ReadonlySet<string>;
  /** Records that are there, as `kind:id`; only those that rules name are asked for. */
  records: ReadonlySet<string>;
  isPublicProvider: (domain: string) => boolean;
  /** Addresses of mailboxes and members, and names of teams, in small letters. */
  people: ReadonlySet<string>;
  /** Mailboxes whose owners keep them to those who use them. */
  privateMailboxes: ReadonlySet<string>;
}

/** Texts that no sensible pattern should match; one that matches them all matches everything. */
const PROBES = ['', 'a', 'zebra 47', 'Ω'];

/** Looks for rules that can never speak, that repeat each other, that match all or nothing, and for what they name and is gone. */
export function checkRulebook(rulebook: Rulebook, context: CheckContext): RulebookFinding[] {
  return [...RULE_STEPS.flatMap((step) => checkStep(rulebook, step, context)), ...checkEntries(rulebook, context)];
}

function checkStep(rulebook: Rulebook, step: RuleStep, context: CheckContext): RulebookFinding[] {
  const rules = rulebook[step].rules as Rule<Action<RuleStep>>[];
  const found: RulebookFinding[] = [];
  const note = (code: RulebookFinding['code'], rule: string, other: string | null = null, repaired: Rulebook | null = null): void =>
    void found.push({ code, step, rule, other, repaired });
  const inForce = rules.filter((rule) => rule.on);
  inForce.forEach((rule, at) => {
    const without = withoutRule(rulebook, step, rule.id);
    const earlier = inForce.slice(0, at);
    const same = earlier.find((item) => sameScope(item, rule) && canonicalJson(item.when) === canonicalJson(rule.when));
    const covering = step === 'match' ? undefined : earlier.find((item) => covers(item, rule));
    if (same && canonicalJson(same.then) === canonicalJson(rule.then)) note('repeats', rule.id, same.id, without);
    else if (covering) note('covered', rule.id, covering.id, without);
    const extent = extentOf(rule.when);
    if (extent === 'none') note('matches-none', rule.id, null, without);
    if (extent === 'all' && at < inForce.length - 1 && step !== 'match') note('matches-all', rule.id);
    for (const leaf of leavesOf(rule.when)) {
      if (leaf.fact === 'participant' && leaf.test.is === 'inList' && !context.lists.has(leaf.test.list))
        note('list-gone', rule.id, leaf.test.list);
      if (leaf.fact === 'filedUnder' && !context.records.has(`${leaf.kind}:${leaf.id}`)) note('record-gone', rule.id, leaf.name);
      if (patternsOf(leaf).some(matchesAll)) note('pattern-all', rule.id);
    }
    const { then } = rule;
    for (const gone of peopleIn(rule).filter((person) => !context.people.has(person))) note('people-gone', rule.id, gone);
    if (then.do === 'fileUnder' && then.kind === 'account')
      for (const leaf of leavesOf(rule.when))
        if (leaf.fact === 'participant' && leaf.test.is === 'domain' && context.isPublicProvider(leaf.test.value))
          note('provider-company', rule.id, leaf.test.value);
    if (step === 'share' && then.do !== 'owner')
      for (const mailbox of mailboxesOf(rule).filter((value) => context.privateMailboxes.has(value)))
        note('private-mailbox', rule.id, mailbox);
    if (then.do === 'fileUnder' && !context.records.has(`${then.kind}:${then.id}`)) note('record-gone', rule.id, then.name, without);
  });
  return found;
}

/** Mailboxes, members and teams that a rule names. */
function peopleIn({ appliesTo, when, then }: Rule<Action<RuleStep>>): string[] {
  const named = [...leavesOf(when)].flatMap((leaf) =>
    leaf.fact === 'mailbox' || leaf.fact === 'user' || leaf.fact === 'team' ? leaf.in : [],
  );
  const owner = 'owner' in then && then.owner.includes('@') ? [then.owner] : [];
  const teams = then.do === 'teams' ? then.teams : [];
  return [...appliesTo.mailboxes, ...appliesTo.users, ...(appliesTo.teams ?? []), ...named, ...owner, ...teams].map((mailbox) =>
    mailbox.toLowerCase(),
  );
}

function mailboxesOf({ appliesTo, when }: Rule<Action<RuleStep>>): string[] {
  return [...appliesTo.mailboxes, ...[...leavesOf(when)].flatMap((leaf) => (leaf.fact === 'mailbox' ? leaf.in : []))];
}

/** Whether everything on which `rule` speaks, the earlier one has spoken on already. */
function covers(earlier: Rule<Action<RuleStep>>, rule: Rule<Action<RuleStep>>): boolean {
  // One that only ignores lets the later ones be asked.
  if (earlier.then.do === 'ignore') return false;
  const { mailboxes, users, teams = [] } = earlier.appliesTo;
  const wide = mailboxes.length + users.length + teams.length === 0;
  return (wide || sameScope(earlier, rule)) && implies(rule.when, earlier.when);
}

/** A sure sign that whenever the first holds, the second does. */
function implies(first: Condition, second: Condition): boolean {
  if (canonicalJson(first) === canonicalJson(second) || extentOf(second) === 'all') return true;
  const item = membersOf(first);
  const other = membersOf(second);
  if (other?.how === 'any' && other.members.some((member) => implies(first, member))) return true;
  if (other?.how === 'all' && other.members.every((member) => implies(first, member))) return true;
  if (item?.how === 'all' && item.members.some((member) => implies(member, second))) return true;
  if (item?.how === 'any' && item.members.length > 0 && item.members.every((member) => implies(member, second))) return true;
  return domainImplies(first, second);
}

/** A domain lies under another, or an address at it. */
function domainImplies(first: Condition, second: Condition): boolean {
  if (!('fact' in first) || !('fact' in second) || first.fact !== 'participant' || second.fact !== 'participant') return false;
  const reach = first.which === second.which || (second.which === 'any' && first.which !== 'this');
  if (!reach || second.test.is !== 'domain' || second.test.exactly) return false;
  const { value } = second.test;
  const under = (domain: string): boolean => domain === value || domain.endsWith(`.${value}`);
  if (first.test.is === 'domain') return under(first.test.value);
  return first.test.is === 'address' && under(domainOf(first.test.value).toLowerCase());
}

/** Whether a condition holds always, never, or it depends, as far as its form tells. */
function extentOf(condition: Condition): 'all' | 'none' | 'some' {
  const group = membersOf(condition);
  if (group === null) {
    const leaf = condition as Exclude<Condition, { all: unknown } | { any: unknown } | { none: unknown }>;
    return (leaf.fact === 'size' || leaf.fact === 'recipients') && leaf.atLeast === 0 ? 'all' : 'some';
  }
  const extents = group.members.map(extentOf);
  if (group.how === 'all') return extents.includes('none') ? 'none' : extents.every((extent) => extent === 'all') ? 'all' : 'some';
  const any = extents.includes('all') ? 'all' : extents.every((extent) => extent === 'none') ? 'none' : 'some';
  if (group.how === 'any') return any;
  return any === 'all' ? 'none' : any === 'none' ? 'all' : 'some';
}

/** Every pattern that rules ask for. */
export function patternsIn(rulebook: Rulebook): string[] {
  return RULE_STEPS.flatMap((step) =>
    (rulebook[step].rules as Rule<Action<RuleStep>>[]).flatMap((rule) => [...leavesOf(rule.when)].flatMap(patternsOf)),
  );
}

function patternsOf(leaf: Condition): string[] {
  if (!('fact' in leaf)) return [];
  if (leaf.fact === 'participant') return leaf.test.is === 'matches' ? [leaf.test.pattern] : [];
  if (leaf.fact === 'subject' || leaf.fact === 'body') return 'pattern' in leaf.test ? [leaf.test.pattern] : [];
  return leaf.fact === 'attachment' && 'name' in leaf.test && 'pattern' in leaf.test.name ? [leaf.test.name.pattern] : [];
}

function matchesAll(pattern: string): boolean {
  try {
    const match = compilePattern(pattern);
    return PROBES.every((probe) => match(probe) !== null);
  } catch (error) {
    if (error instanceof BadPattern) return false;
    throw error;
  }
}

/** Entries that say opposite things of the same domain or address, and providers among them. */
function checkEntries(rulebook: Rulebook, context: CheckContext): RulebookFinding[] {
  const found: RulebookFinding[] = [];
  const values = new Map(rulebook.keepOut.entries.map((entry) => [entry.value.toLowerCase(), entry.id]));
  for (const rule of rulebook.keepOut.rules) {
    if (!rule.on || rule.then.do !== 'letThrough') continue;
    for (const leaf of leavesOf(rule.when)) {
      if (leaf.fact !== 'participant' || (leaf.test.is !== 'domain' && leaf.test.is !== 'address')) continue;
      const entry = values.get(leaf.test.value.toLowerCase());
      if (entry !== undefined) found.push({ code: 'both-sides', step: 'keepOut', rule: rule.id, other: leaf.test.value, repaired: null });
    }
  }
  for (const entry of rulebook.keepOut.entries)
    if (entry.kind === 'domain' && context.isPublicProvider(entry.value))
      found.push({ code: 'provider-entry', step: 'keepOut', rule: entry.id, other: entry.value, repaired: null });
  return found;
}

function withoutRule(rulebook: Rulebook, step: RuleStep, id: string): Rulebook {
  const part = rulebook[step];
  return { ...rulebook, [step]: { ...part, rules: (part.rules as { id: string }[]).filter((rule) => rule.id !== id) } };
}

const sameScope = (first: Pick<Rule, 'appliesTo'>, second: Pick<Rule, 'appliesTo'>): boolean =>
  canonicalJson(first.appliesTo) === canonicalJson(second.appliesTo);
