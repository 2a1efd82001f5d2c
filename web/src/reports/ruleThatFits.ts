import type { DomainRow } from '@fulvet/contract';
import { common } from '../parts/words';
import { ruleThatFits as words } from './words';

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
  if (isMost(keptOut)) return { path: '/keep-out', does: 'letThrough', label: words.letThrough, why: words.mostOfItsMail };
  if (isMost(machine)) return { path: '/keep-out', does: 'ignore', label: common.keepOut, why: words.mostOfItsMailIs };
  if (isMost(waiting))
    return {
      path: '/match',
      does: 'fileUnder',
      label: words.file,
      why: words.mostOfItsMailWaits,
    };
  if (isMost(unfiled) && accounts.length > 0)
    return { path: '/match', does: 'fileUnder', label: words.file, why: words.mostOfItsMailIsUnfiled };
  if (isMost(unfiled) && sent > 0)
    return {
      path: '/create',
      does: 'contact',
      label: words.createContacts,
      why: words.yourColleaguesWriteTo,
    };
  if (isMost(unfiled)) return { path: '/keep-out', does: 'ignore', label: common.keepOut, why: words.itsMailIsUnfiled };
  return { path: '/keep-out', does: 'ignore', label: common.keepOut, why: words.keepsThisDomainOut };
}
