import type { Stop } from '../facts/types';

/** The steps as people call them. */
export const STOP_TITLES: Record<Stop, string> = {
  keepOut: 'Keep out',
  takeIn: 'Take in',
  match: 'Match',
  create: 'Create',
  share: 'Share',
};
