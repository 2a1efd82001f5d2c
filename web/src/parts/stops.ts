import type { Stop } from '@fulvet/core';

/** The five steps in order, as people call them and where their pages are. */
export const STOPS: readonly { stop: Stop; title: string; path: string }[] = [
  { stop: 'keepOut', title: 'Keep out', path: '/keep-out' },
  { stop: 'takeIn', title: 'Take in', path: '/take-in' },
  { stop: 'match', title: 'Match', path: '/match' },
  { stop: 'create', title: 'Create', path: '/create' },
  { stop: 'share', title: 'Share', path: '/share' },
];
