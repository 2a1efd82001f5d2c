import type { Role } from '@fulvet/contract';

/** A plain restatement of who may see what, for tests to hold the product against: no SQL, no cleverness. */

export type Level = 'owner' | 'record' | 'teams' | 'everyone';
export type Sees = 'nothing' | 'exists' | 'reads';

export interface ModelUser {
  id: number;
  role: Role;
}

export interface ModelEmail {
  key: string;
  /** Its Message-ID, which a forged email shares with the one that it imitates. */
  messageId: string;
  id: number;
  conversation: string;
  boxes: readonly string[];
  /** Addresses outside. */
  people: readonly string[];
  /** Records that it stands under when it is not sealed, as `kind:name`. */
  filings: readonly string[];
  keptOut: boolean;
  /** The rule about subjects speaks on it. */
  marked: boolean;
}

interface Word {
  id: number;
  user: number;
  does: 'seal' | 'share';
  scope: 'email' | 'conversation' | 'person' | 'domain';
  /** Key of the email, or the value. */
  about: string;
  level: Level;
  teams: readonly string[];
  existenceOnly: boolean;
  order: number;
}

interface Grant {
  id: number;
  by: number;
  to: number;
  scope: 'email' | 'conversation' | 'record';
  about: string;
}

interface RuleLevel {
  level: Level;
  teams: readonly string[];
  existenceOnly: boolean;
}

/** Everything that sight depends on. */
export interface ModelState {
  users: readonly ModelUser[];
  emails: ModelEmail[];
  boxes: Map<string, { id: number; owner: number; users: number[] }>;
  teams: Map<string, { id: number; members: number[] }>;
  /** Owner and account by record, as `kind:name`. */
  records: Map<string, { id: number; owner: number | null; account: string | null; team: number[]; people: readonly string[] }>;
  usual: RuleLevel;
  marked: RuleLevel;
  words: Word[];
  grants: Grant[];
  /** Repairs that seal: whose, the email, and whether its whole conversation. */
  seals: { id: number; user: number; email: string; whole: boolean }[];
  emergencies: { id: number; reader: number; owner: number }[];
  recordReach: 'all' | 'team' | 'owner';
  /** Whose each email is; kept, because what is sealed does not change hands. */
  owners: Map<string, number[]>;
}

const emailOf = (state: ModelState, key: string): ModelEmail => {
  const found = state.emails.find((email) => email.key === key);
  if (!found) throw new Error(`the model has no email ${key}`);
  return found;
};

function coversWord(state: ModelState, word: Word, email: ModelEmail): boolean {
  if (!(state.owners.get(email.key) ?? []).includes(word.user)) return false;
  switch (word.scope) {
    case 'email':
      return word.about === email.key;
    case 'conversation':
      return emailOf(state, word.about).conversation === email.conversation;
    case 'person':
      return email.people.includes(word.about);
    case 'domain':
      return email.people.some((person) => person.endsWith(`@${word.about}`) || person.endsWith(`.${word.about}`));
  }
}

export function isSealed(state: ModelState, email: ModelEmail): boolean {
  const owners = state.owners.get(email.key) ?? [];
  const byHand = state.seals.some(
    (seal) =>
      owners.includes(seal.user) &&
      (seal.email === email.key || (seal.whole && emailOf(state, seal.email).conversation === email.conversation)),
  );
  return byHand || state.words.some((word) => word.does === 'seal' && coversWord(state, word, email));
}

const LEVELS: readonly Level[] = ['owner', 'record', 'teams', 'everyone'];
const SCOPES = ['email', 'conversation', 'person', 'domain'];
const reach = (level: RuleLevel): number => LEVELS.indexOf(level.level) / (level.existenceOnly && level.level !== 'owner' ? 10 : 1);

export function levelOf(state: ModelState, email: ModelEmail): RuleLevel {
  const OWNER: RuleLevel = { level: 'owner', teams: [], existenceOnly: false };
  if (email.keptOut) return OWNER;
  const words = state.words.filter((word) => word.does === 'share' && coversWord(state, word, email));
  if (words.length > 0) {
    const byOwner = [...new Set(words.map((word) => word.user))].map(
      (user) =>
        words
          .filter((word) => word.user === user)
          .sort((first, second) => SCOPES.indexOf(first.scope) - SCOPES.indexOf(second.scope) || second.order - first.order)[0] ?? OWNER,
    );
    return [...byOwner].sort((first, second) => reach(first) - reach(second))[0] ?? OWNER;
  }
  if (email.filings.length === 0) return OWNER;
  return email.marked ? state.marked : state.usual;
}

function levelReaches(state: ModelState, user: ModelUser, email: ModelEmail, level: RuleLevel): boolean {
  if (level.level === 'everyone') return true;
  if (level.level === 'teams') return level.teams.some((team) => state.teams.get(team)?.members.includes(user.id));
  if (level.level !== 'record') return false;
  return email.filings.some((key) => {
    const record = state.records.get(key);
    return record?.owner === user.id || (record?.team.includes(user.id) ?? false);
  });
}

export function grantReaches(state: ModelState, grant: Grant, email: ModelEmail): boolean {
  if (!(state.owners.get(email.key) ?? []).includes(grant.by)) return false;
  if (grant.scope === 'email') return grant.about === email.key;
  if (grant.scope === 'conversation') return emailOf(state, grant.about).conversation === email.conversation;
  return email.filings.some((key) => key === grant.about || (key.startsWith('deal:') && state.records.get(key)?.account === grant.about));
}

/** What a user sees of an email. */
export function sees(state: ModelState, user: ModelUser, email: ModelEmail): Sees {
  const owners = state.owners.get(email.key) ?? [];
  if (owners.includes(user.id)) return email.keptOut && !isSealed(state, email) ? 'exists' : 'reads';
  if (isSealed(state, email)) return 'nothing';
  const level = levelOf(state, email);
  const reached = levelReaches(state, user, email, level);
  const granted = state.grants.some((grant) => grant.to === user.id && grantReaches(state, grant, email));
  const emergency = state.emergencies.some((item) => item.reader === user.id && owners.includes(item.owner));
  if (granted || emergency || (reached && !level.existenceOnly)) return email.keptOut ? 'exists' : 'reads';
  return reached || user.role === 'admin' ? 'exists' : 'nothing';
}

/** Whether a user sees a record, as `kind:name`. */
export function seesRecord(state: ModelState, user: ModelUser, key: string): boolean {
  if (state.recordReach === 'all' || user.role === 'admin') return true;
  const record = state.records.get(key);
  if (!record) return false;
  const mates = [...state.teams.values()].filter((team) => team.members.includes(user.id)).flatMap((team) => team.members);
  const reachable = [user.id, ...(state.recordReach === 'team' || user.role === 'manager' ? mates : [])];
  if (record.owner === null || reachable.includes(record.owner) || record.team.includes(user.id)) return true;
  const [kind] = key.split(':');
  if (kind === 'deal') return false;
  const deals = [...state.records].filter(([value]) => value.startsWith('deal:') && seesRecord(state, user, value));
  if (kind === 'account') return deals.some(([, deal]) => deal.account === key);
  if (kind === 'contact' || kind === 'lead') return deals.some(([, deal]) => deal.people.includes(key));
  return false;
}

/** After a mailbox changed hands: its emails are read by those who use their mailboxes, but what is sealed stays with its readers of before. */
export function changeHands(state: ModelState, box: string): void {
  for (const email of state.emails) if (email.boxes.includes(box)) resetOwners(state, email);
}

/** Emails that came to be unsealed are read by whoever uses their mailboxes by now. */
export function releaseUnsealed(state: ModelState, before: ReadonlySet<string>): void {
  for (const email of state.emails) if (before.has(email.key) && !isSealed(state, email)) resetOwners(state, email);
}

function resetOwners(state: ModelState, email: ModelEmail): void {
  const before = state.owners.get(email.key) ?? [];
  const now = [...new Set(email.boxes.flatMap((box) => [state.boxes.get(box)?.owner ?? 0, ...(state.boxes.get(box)?.users ?? [])]))];
  const hasSealed = (user: number): boolean =>
    state.seals.some((seal) => seal.user === user && emailOf(state, seal.email).conversation === email.conversation) ||
    state.words.some((word) => word.user === user && word.does === 'seal');
  const next = isSealed(state, email) ? before.filter((value) => now.includes(value) || hasSealed(value)) : now;
  state.owners.set(email.key, next);
}
