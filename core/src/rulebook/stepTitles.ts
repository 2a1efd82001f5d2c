import type { Step } from '../facts/types';

/** The steps as people call them. */
export const STEP_TITLES: Record<Step, string> = {
  keepOut: 'Keep out',
  takeIn: 'Take in',
  match: 'Match',
  create: 'Create',
  share: 'Share',
};
