import type { DomainRow } from '@fulvet/contract';

/** Where the rule for a domain is written, and what it does at first. */
export interface FittingRule {
  path: string;
  /** An action of that step. */
  does: string;
  label: string;
  why: string;
}

/** The rule that most likely fits a domain, by the outcomes of its mail in the last 90 days. It is a start: the editor shows what it would change. */
export function ruleThatFits({ emails, machine, unfiled, waiting, keptOut, sent, accounts }: DomainRow): FittingRule {
  const isMost = (part: number): boolean => part * 2 > emails;
  if (isMost(keptOut))
    return { path: '/keep-out', does: 'letThrough', label: 'Let through', why: 'Most of its mail is kept out. A rule can let it through.' };
  if (isMost(machine)) return { path: '/keep-out', does: 'ignore', label: 'Keep out', why: 'Most of its mail is automatic.' };
  if (isMost(waiting))
    return {
      path: '/match',
      does: 'fileUnder',
      label: 'File',
      why: 'Most of its mail waits for an answer. A rule can file it under a record.',
    };
  if (isMost(unfiled) && accounts.length > 0)
    return { path: '/match', does: 'fileUnder', label: 'File', why: 'Most of its mail is unfiled, although it belongs to an account.' };
  if (isMost(unfiled) && sent > 0)
    return {
      path: '/create',
      does: 'contact',
      label: 'Create contacts',
      why: 'Your colleagues write to people there who are in no record.',
    };
  if (isMost(unfiled))
    return { path: '/keep-out', does: 'ignore', label: 'Keep out', why: 'Its mail is unfiled, and no one has written there.' };
  return { path: '/keep-out', does: 'ignore', label: 'Keep out', why: 'Keeps this domain out of the records.' };
}
