import type { ParticipantTest, RuleStop } from '@fulvet/core';
import { ACTION_CHOICES } from './leafChoices';
import type { AnyRule } from './RuleEditor';

/** A rule prefilled from an address or a domain, as the address bar names it. */
export function ruleFromAddress(stop: RuleStop, text: string): AnyRule {
  return newRule(stop, text.includes('@') ? { is: 'address', value: text } : { is: 'domain', value: text, exactly: false });
}

/** A rule that is on for everyone, without a name, with one condition on a participant and the first action of its stop. */
export function newRule(stop: RuleStop, test: ParticipantTest): AnyRule {
  return {
    id: `rule-${crypto.randomUUID().slice(0, 8)}`,
    name: '',
    note: '',
    on: true,
    appliesTo: { mailboxes: [], users: [] },
    when: { all: [{ fact: 'participant', which: stop === 'create' ? 'this' : 'any', test }] },
    then: ACTION_CHOICES[stop][0]?.start ?? { do: 'hold' },
  };
}
