import type { AnswerWorld } from './answerWorld';
import { DEAL_CASES } from './dealCases';
import { PEOPLE_CASES } from './peopleCases';

/** The facts of life of business mail, each as a few emails of which it is known what is right. */
export const CASES: Record<string, (world: AnswerWorld, of: string) => void> = { ...DEAL_CASES, ...PEOPLE_CASES };
