import { plainLetters } from '../text/plainLetters';
import { LEGAL_FORMS } from './legalForms';

const SAYS_NOTHING: ReadonlySet<string> = new Set(LEGAL_FORMS);

/** A name without case, order, marks and legal forms: what two spellings of it have in common. */
export function nameKey(name: string): string {
  return plainLetters(name)
    .split(/[^\p{L}\d]+/u)
    .filter((word) => word.length > 1 && !SAYS_NOTHING.has(word))
    .sort()
    .join(' ');
}
