import type { AccountRecord, DealRecord } from '../records/directory';
import type { DecisionFacts } from '../facts/types';

/** What is asked of an email beside who it is with and when, where nothing of it is known: for tests and benchmarks to build on. */
export const PLAIN_FACTS: Omit<DecisionFacts, 'id' | 'at' | 'participants'> = {
  subject: '',
  text: '',
  codes: [],
  wordPairs: '',
  attachments: [],
  size: 1000,
  sensitivity: null,
  senderCheck: 'none',
  folders: [],
  mailboxes: [],
  users: [],
  teams: [],
  mailClass: 'person',
  classProof: null,
  gestures: [],
  pins: [],
  ownKeptOut: [],
  sharingChoices: [],
  ownTakeIn: 'rules',
  sharedByRules: true,
  atFilingAddressOnly: false,
};

export const PLAIN_ACCOUNT: Pick<AccountRecord, 'type' | 'owner' | 'originEmailId'> = { type: '', owner: null, originEmailId: null };

export const PLAIN_DEAL: Omit<DealRecord, 'id' | 'name' | 'people'> = {
  code: null,
  accountId: null,
  open: true,
  stage: '',
  amount: null,
  owner: null,
  activity: [],
  closedAt: null,
  openedAt: null,
};
