import type { Case } from './answerWorld';
import { DEAL_CASES } from './dealCases';
import { PEOPLE_CASES } from './peopleCases';
import { SENDER_CASES } from './senderCases';

/** The facts of life of business mail, each as a few emails of which it is known what is right. */
export const CASES: Record<string, Case> = { ...DEAL_CASES, ...PEOPLE_CASES, ...SENDER_CASES };
