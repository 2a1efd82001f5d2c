import type { RecordKind } from '../facts/recordKind';
import type { Action, Rule, RuleStep } from '../rulebook/rule';

/** What past mail says of one external domain. */
export interface DomainUse {
  domain: string;
  emails: number;
  sent: number;
  received: number;
  /** Emails that no person wrote. */
  machine: number;
  filed: number;
  waiting: number;
  unfiled: number;
  keptOut: number;
}

/** An address in mail that is in no record, with the name that it writes under. */
export interface UnknownAddress {
  address: string;
  domain: string;
  name: string;
  emails: number;
}

/** That people put an email from a domain under a record, by their own hand. */
export interface HandFiling {
  domain: string;
  kind: RecordKind;
  recordId: number;
  recordName: string;
}

/** That people took emails from a domain off records, by their own hand. */
export interface HandRemoval {
  domain: string;
  /** Null: off every record. */
  kind: RecordKind | null;
  emails: number;
}

/** What is suggested, and the rule that would do it. */
export interface Suggestion {
  code:
    | 'machine-domain'
    | 'one-sided'
    | 'like-account'
    | 'second-address'
    | 'correspondents'
    | 'filed-by-hand'
    | 'taken-off'
    | 'misspelled'
    | 'renamed'
    | 'form-address';
  /** The domain or address that it is about. */
  about: string;
  /** Why, in a sentence with the numbers. */
  because: string;
  step: RuleStep;
  /** What would be done. */
  change: SuggestedChange;
  /** Emails that it rests on; the most first. */
  weight: number;
}

/** A rule, or an address of a form, goes into the draft; a domain is added to an account. */
export type SuggestedChange =
  | ({ do: 'rule' } & Pick<Rule<Action<RuleStep>>, 'name' | 'note' | 'when' | 'then'>)
  | { do: 'addDomain'; account: { id: number; name: string }; domain: string }
  | { do: 'addForm'; address: string };

/** An address in From of emails that name in Reply-To whom to answer. */
export interface AnsweredElsewhere {
  address: string;
  emails: number;
  /** Different external addresses in Reply-To. */
  authors: number;
}

/** That people of an account wrote of a new name or address, and of a domain. */
export interface Announcement {
  domain: string;
  accountId: number;
  emails: number;
}

export interface TuningFacts {
  domains: readonly DomainUse[];
  unknown: readonly UnknownAddress[];
  byHand: readonly HandFiling[];
  takenOff: readonly HandRemoval[];
  accounts: readonly { id: number; name: string; domains: readonly string[] }[];
  people: readonly { kind: 'contact' | 'lead'; id: number; name: string; accountId: number | null; addresses: readonly string[] }[];
  answeredElsewhere: readonly AnsweredElsewhere[];
  announced: readonly Announcement[];
  isPublicProvider: (domain: string) => boolean;
}

/** Any external participant is at a domain. */
export const atDomain = (value: string): Rule['when'] => ({
  fact: 'participant',
  which: 'any',
  test: { is: 'domain', value, exactly: false },
});
