import type { Participant } from '../emails/emailFacts';
import type { ConditionParts, Test } from './compileCondition';
import { compileCondition } from './compileCondition';
import { requiredKeys } from './requiredKeys';
import type { Condition, Leaf } from './condition';
import { leavesOf, membersOf } from './condition';
import type { Hit } from './hit';
import type { Rule } from './rule';
import type { RuleContext } from './ruleContext';

export interface CompiledRule<A> {
  rule: Rule<A>;
  test: Test;
}

/** A rule that spoke, with what it found. */
export interface Spoken<A> {
  rule: Rule<A>;
  hits: readonly Hit[];
}

/** A rule that nearly spoke, and the part of its condition that did not hold. */
export interface Nearly<A> {
  rule: Rule<A>;
  missing: Condition | null;
}

const GENERAL: ReadonlySet<Leaf['fact']> = new Set([
  'direction',
  'mailClass',
  'size',
  'folder',
  'mailbox',
  'user',
  'conversation',
  'recipients',
]);
const tells = (leaf: Leaf): boolean => !GENERAL.has(leaf.fact);

/** The rules of one step, in order, found by what they need: deciding hardly grows with their number. */
export class CompiledStep<A> {
  private readonly rules: CompiledRule<A>[] = [];
  private readonly always: number[] = [];
  /** Rules without keys, as they are asked of every email. */
  private readonly general: readonly CompiledRule<A>[];
  private readonly byKey = new Map<string, number[]>();
  private readonly asksAddresses: boolean;

  constructor(
    rules: readonly Rule<A>[],
    private readonly parts: ConditionParts,
  ) {
    for (const rule of rules) {
      if (!rule.on) continue;
      const at = this.rules.length;
      this.rules.push({ rule, test: withScope(rule, compileCondition(rule.when, parts)) });
      const keys = requiredKeys(rule.when, parts.personKey);
      if (keys === null) this.always.push(at);
      else for (const key of keys) this.byKey.set(key, [...(this.byKey.get(key) ?? []), at]);
    }
    this.general = this.always.flatMap((at) => this.rules[at] ?? []);
    this.asksAddresses = [...this.byKey.keys()].some((key) => key.startsWith('@'));
  }

  get size(): number {
    return this.rules.length;
  }

  /** Keys of which an email needs one for any rule to speak, or null where some rule can speak without. */
  keys(): ReadonlySet<string> | null {
    return this.always.length > 0 ? null : new Set(this.byKey.keys());
  }

  /** Whether any rule in force asks for this. */
  needs(fact: Leaf['fact']): boolean {
    return this.rules.some(({ rule }) => [...leavesOf(rule.when)].some((leaf) => leaf.fact === fact));
  }

  /** The rules that can speak on an email with these participants, in order. */
  candidatesFor(externals: readonly Participant[]): readonly CompiledRule<A>[] {
    if (this.byKey.size === 0) return this.rules;
    let keyed: number[] | null = null;
    for (const { address, domain } of externals) {
      if (this.asksAddresses) keyed = joined(keyed, this.byKey.get(`@${this.parts.personKey(address)}`));
      // The domain and those above it, down to two labels.
      keyed = joined(keyed, this.byKey.get(domain));
      for (let dot = domain.indexOf('.'); dot >= 0; dot = domain.indexOf('.', dot + 1)) {
        if (!domain.includes('.', dot + 1)) break;
        keyed = joined(keyed, this.byKey.get(domain.slice(dot + 1)));
      }
    }
    if (keyed === null) return this.general;
    return [...new Set([...this.always, ...keyed])].sort((first, second) => first - second).flatMap((at) => this.rules[at] ?? []);
  }

  /** This step as it would be without one rule. */
  without(ruleId: string): CompiledStep<A> {
    return new CompiledStep(
      this.rules.flatMap(({ rule }) => (rule.id === ruleId ? [] : [rule])),
      this.parts,
    );
  }

  /** A step with this rule alone, as if it was switched on. */
  alone(rule: Rule<A>): CompiledStep<A> {
    return new CompiledStep([{ ...rule, on: true }], this.parts);
  }

  /** This step with the rules of these ids alone. */
  among(ids: ReadonlySet<string>): CompiledStep<A> {
    return new CompiledStep(
      this.rules.flatMap(({ rule }) => (ids.has(rule.id) ? [rule] : [])),
      this.parts,
    );
  }

  /**
   * The rules that are silent by one part of their condition alone, or because they are for other mailboxes or members (`missing` null).
   * What holds must tell something of this very email: most mail is received and written by a person.
   */
  nearly(context: RuleContext): Nearly<A>[] {
    const holds = (condition: Condition): boolean => compileCondition(condition, this.parts)(context) !== null;
    return this.rules.flatMap(({ rule, test }): Nearly<A>[] => {
      if (test(context) !== null) return [];
      if (holds(rule.when)) return [{ rule, missing: null }];
      const group = membersOf(rule.when);
      if (group?.how !== 'all') return [];
      const [missing, ...more] = group.members.filter((member) => !holds(member));
      const telling = group.members.some((member) => member !== missing && [...leavesOf(member)].some(tells));
      return missing && more.length === 0 && telling ? [{ rule, missing }] : [];
    });
  }

  /** The first rule that speaks, or null. */
  first(context: RuleContext): Spoken<A> | null {
    if (this.rules.length === 0) return null;
    for (const { rule, test } of this.candidatesFor(context.externals)) {
      const hits = test(context);
      if (hits !== null) return { rule, hits };
    }
    return null;
  }

  /** Every rule that applies, in order. */
  all(context: RuleContext): Spoken<A>[] {
    if (this.rules.length === 0) return [];
    return this.candidatesFor(context.externals).flatMap(({ rule, test }) => {
      const hits = test(context);
      return hits === null ? [] : [{ rule, hits }];
    });
  }
}

const joined = (all: number[] | null, more: readonly number[] | undefined): number[] | null =>
  more === undefined ? all : [...(all ?? []), ...more];

/** A rule that is for some mailboxes or members only is silent on other mail. */
function withScope(rule: Rule<unknown>, test: Test): Test {
  const { mailboxes, users, teams = [] } = rule.appliesTo;
  if (mailboxes.length + users.length + teams.length === 0) return test;
  const of = new Set([...mailboxes, ...users].map((mailbox) => mailbox.toLowerCase()));
  const ofTeams = new Set(teams);
  return (context) => {
    const { facts } = context;
    const applies =
      facts.mailboxes.some((mailbox) => of.has(mailbox)) ||
      facts.users.some((user) => of.has(user)) ||
      facts.teams.some((team) => ofTeams.has(team));
    return applies ? test(context) : null;
  };
}
