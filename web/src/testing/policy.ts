import type { Workspace } from '@fulvet/contract';

/** Settings of a workspace as they are at first. */
export const POLICY: Workspace = {
  name: 'Quillmere',
  recordReach: 'all',
  widestShare: 'teams',
  secondFactorNeeded: false,
  identityProvider: null,
  linkAddress: null,
  measuring: { isOn: false, notice: '', keepDays: 90, ownRanges: [], never: [], decided: null },
  automatic: { holidays: [], perDay: 50, pauseSeconds: 15, isHeld: false },
  writingRights: {
    send: { role: 'rep', teamIds: [] },
    share: { role: 'manager', teamIds: [] },
    bulk: { role: 'manager', teamIds: [] },
    measure: { role: 'manager', teamIds: [] },
  },
};
