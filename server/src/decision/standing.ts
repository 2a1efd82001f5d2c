import type { Standing } from '@fulvet/core';
import { recordsFiledUnder } from '../emails/filingsText';
import type { StoredEmail } from './inputs/loadFacts';

/** How an email stands now, to be compared with what would be decided. */
export function standingOf({ before }: StoredEmail): Standing {
  return {
    outcome: before.outcome as Standing['outcome'],
    visibility: before.visibility,
    filings: recordsFiledUnder(before.filings),
    // Asked for only where something differs.
    get steps() {
      return (JSON.parse(before.docket) ?? []) as Standing['steps'];
    },
  };
}
