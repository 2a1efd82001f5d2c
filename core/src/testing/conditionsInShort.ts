import type { ConditionInput } from '../rulebook/condition';

export const who = (which: 'sender' | 'recipient' | 'any' | 'every', test: object): ConditionInput =>
  ({ fact: 'participant', which, test }) as ConditionInput;
