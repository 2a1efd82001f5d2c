import type { Action, Rule, RuleStop } from '@fulvet/core';

/** A rule of any step. */
export type AnyRule = Rule<Action<RuleStop>>;
