import type { EmailDetail } from '@fulvet/contract';
import { OUTCOME_LABELS } from '../parts/OutcomeMark';
import { common } from '../parts/words';
import { whyInOneSentence as words } from './panel/words';

/** What a step says where the email goes no further. */
export const ENDS = new Set(['Kept out', 'Left to its owner']);

/** What decided, in one sentence; the steps below it have the rest. */
export function whyInOneSentence({ outcome, docket, questions }: Pick<EmailDetail, 'outcome' | 'docket' | 'questions'>): string {
  const [question] = questions;
  if (outcome === 'waiting' && question) return waitsFor(question);
  const ended = docket.find(({ verdict }) => ENDS.has(verdict));
  const entry = ended ?? docket.find(({ step }) => step === 'match') ?? docket.at(-1);
  const reasons = entry?.because ?? [];
  const reason = outcome === 'kept out' ? reasons.at(-1) : reasons[0];
  const what = outcome === null ? words.notDecidedYet : sentenceStart(OUTCOME_LABELS[outcome]);
  return reason ? words.because(what, lowerStart(reason)) : `${what}.`;
}

const sentenceStart = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
/** Reasons that begin with a plain word go on in small letters; names and addresses stay as they are. */
const lowerStart = (text: string): string => text.replace(/^(?:It|No|The|By|Of|All|Only|Every|Its)\b/, (word) => word.toLowerCase());

/** What an email waits for, in a sentence. */
export function waitsFor({ about, domain, candidates }: EmailDetail['questions'][number]): string {
  if (about === 'filing') return words.waitsFileItHere;
  if (about === 'hold') return words.waitsARuleAsks(domain ? ` (${domain})` : '');
  if (about !== 'person') return words.waitsUnderWhich(about);
  const [like] = candidates;
  const who = domain ?? common.thisPerson;
  return like ? words.waitsIsAnotherAddress(who, like.name) : words.waitsIsToBecome(who);
}
