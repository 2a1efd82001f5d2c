import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { NO_MEMORY } from '../facts/types';
import { CompiledStep } from './compiledStep';
import type { ConditionInput } from './condition';
import { RuleContext } from './ruleContext';
import { directory, factsOf, rule } from '../testing/ruleWorld';
import { who } from '../testing/conditionsInShort';

describe('finding rules by what they need', () => {
  const domains = ['a.example', 'b.example', 'mail.a.example', 'c.example'];
  const leafOf = fc.oneof(
    fc.constantFrom(...domains).map((value): ConditionInput => who('any', { is: 'domain', value })),
    fc.constantFrom(...domains).map((value): ConditionInput => who('sender', { is: 'address', value: `x@${value}` })),
    fc.constantFrom('gauge', 'buoy').map((word): ConditionInput => ({ fact: 'subject', test: { contains: [word] } })),
  );
  const condition = fc.letrec<{ node: ConditionInput }>((tie) => ({
    node: fc.oneof(
      { maxDepth: 3 },
      leafOf,
      fc.array(tie('node'), { maxLength: 3 }).map((all): ConditionInput => ({ all })),
      fc.array(tie('node'), { maxLength: 3 }).map((any): ConditionInput => ({ any })),
      fc.array(tie('node'), { maxLength: 3 }).map((none): ConditionInput => ({ none })),
    ),
  })).node;

  test('never leaves out a rule that would speak, and keeps their order', () => {
    const parts = { lists: new Map(), personKey: (address: string) => address, isPublicProvider: () => false, isRoleAddress: () => false };
    fc.assert(
      fc.property(
        fc.array(condition, { maxLength: 8 }),
        fc.array(fc.constantFrom(...domains), { minLength: 1, maxLength: 3 }),
        fc.constantFrom('gauge', 'none'),
        (conditions, seen, subject) => {
          const step = new CompiledStep(
            conditions.map((when) => rule('takeIn', when, { do: 'takeIn' })),
            parts,
          );
          const facts = factsOf({ from: `x@${seen[0] ?? ''}`, to: seen.slice(1).map((domain) => `y@${domain}`), subject });
          const context = new RuleContext(facts, facts.participants, 'received', NO_MEMORY, directory(), parts.personKey);
          const asked = step.all(context).map((spoken) => spoken.rule.id);
          const all = conditions
            .map((_, at) => at)
            .filter(
              (at) => new CompiledStep([rule('takeIn', conditions[at] as ConditionInput, { do: 'takeIn' })], parts).all(context).length > 0,
            );
          expect(asked).toHaveLength(all.length);
          expect([...asked].sort((first, second) => Number(first.slice(5)) - Number(second.slice(5)))).toEqual(asked);
        },
      ),
      { numRuns: 300 },
    );
  });
});
