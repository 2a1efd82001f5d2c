import type { RuleStep } from '@fulvet/core';
import { ACTION_CHOICES } from './leafChoices';
import type { AnyRule } from './anyRule';

/** A rule prefilled from an address or a domain, as the address bar names it. @param does an action of the step; the first one without it */
export function ruleFromAddress(step: RuleStep, text: string, does: string | null = null): AnyRule {
  const test = text.includes('@') ? { is: 'address' as const, value: text } : { is: 'domain' as const, value: text, exactly: false };
  const rule = newRule(step);
  const choices: readonly { value: string; start: AnyRule['then'] }[] = ACTION_CHOICES[step];
  const then = choices.find((choice) => choice.value === does)?.start ?? rule.then;
  return { ...rule, then, when: { all: [{ fact: 'participant', which: step === 'create' ? 'this' : 'any', test }] } };
}

/** A rule that is on for everyone, without a name or a condition, with the first action of its step. */
export function newRule(step: RuleStep): AnyRule {
  return {
    id: `rule-${crypto.randomUUID().slice(0, 8)}`,
    name: '',
    note: '',
    on: true,
    appliesTo: { mailboxes: [], users: [] },
    when: { all: [] },
    then: ACTION_CHOICES[step][0]?.start ?? { do: 'hold' },
  };
}
