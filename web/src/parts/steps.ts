import type { Step } from '@fulvet/core';

/** The five steps in order, as people call them and where their pages are. */
export const STEPS: readonly { step: Step; title: string; path: string }[] = [
  { step: 'keepOut', title: 'Keep out', path: '/keep-out' },
  { step: 'takeIn', title: 'Take in', path: '/take-in' },
  { step: 'match', title: 'Match', path: '/match' },
  { step: 'create', title: 'Create', path: '/create' },
  { step: 'share', title: 'Share', path: '/share' },
];
