import type { Action, Rule, RuleStep } from '@fulvet/core';

/** A rule of any step. */
export type AnyRule = Rule<Action<RuleStep>>;
