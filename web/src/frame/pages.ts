import type { Role } from '@fulvet/contract';

/** Where a page stands in the column: among the steps of the mail, or in one of the groups below them. */
export type PageGroup = 'steps' | 'work' | 'improve' | 'administer';

export interface PageShape {
  /** The path, with parameters as `:name`. */
  path: string;
  title: string;
  /** Its place in the column; absent: the page is reached from another page or by the command list. */
  group?: PageGroup;
  /** Whose column and command list have it. */
  roles: readonly Role[];
  /** Others are sent home. */
  guarded?: true;
}

const ALL: readonly Role[] = ['admin', 'manager', 'rep', 'viewer'];
const MEMBERS: readonly Role[] = ['admin', 'manager', 'rep'];
const ADMINS: readonly Role[] = ['admin'];

/** All pages, in the order of the column. Routes, column, command list and titles are made from this. */
export const PAGES = {
  mailboxes: { path: '/mailboxes', title: 'Mailboxes', group: 'steps', roles: MEMBERS },
  keepOut: { path: '/keep-out', title: 'Keep out', group: 'steps', roles: ADMINS },
  takeIn: { path: '/take-in', title: 'Take in', group: 'steps', roles: ADMINS },
  match: { path: '/match', title: 'Match', group: 'steps', roles: ADMINS },
  create: { path: '/create', title: 'Create', group: 'steps', roles: ADMINS },
  share: { path: '/share', title: 'Share', group: 'steps', roles: ADMINS },
  records: { path: '/records', title: 'Records', group: 'steps', roles: ALL },

  home: { path: '/', title: 'Home', group: 'work', roles: ALL },
  desk: { path: '/desk', title: 'Sorting desk', group: 'work', roles: MEMBERS },
  allMail: { path: '/all-mail', title: 'All mail', group: 'work', roles: ALL },
  myMail: { path: '/my-mail', title: 'My mail', group: 'work', roles: MEMBERS },
  tasks: { path: '/tasks', title: 'Tasks', group: 'work', roles: MEMBERS },
  meetingTimes: { path: '/meeting-times', title: 'Meeting times', group: 'work', roles: MEMBERS },
  outgoing: { path: '/outgoing', title: 'Outgoing', group: 'work', roles: MEMBERS },
  templates: { path: '/templates', title: 'Templates', group: 'work', roles: MEMBERS },
  series: { path: '/series', title: 'Series', group: 'work', roles: MEMBERS },
  documents: { path: '/documents', title: 'Documents', group: 'work', roles: MEMBERS },
  unknownPeople: { path: '/unknown-people', title: 'Unknown people', group: 'work', roles: MEMBERS },
  sharing: { path: '/sharing', title: 'Sharing', group: 'work', roles: ALL },
  undo: { path: '/undo', title: 'Undo', group: 'work', roles: ALL },

  trials: { path: '/trials', title: 'Trials', group: 'improve', roles: ADMINS },
  tuning: { path: '/tuning', title: 'Tuning', group: 'improve', roles: ADMINS },
  addressLists: { path: '/address-lists', title: 'Address lists', group: 'improve', roles: ADMINS },
  versions: { path: '/versions', title: 'Rulebook versions', group: 'improve', roles: ADMINS },
  duplicates: { path: '/duplicates/:kind', title: 'Duplicates', roles: MEMBERS },

  whoWeAre: { path: '/who-we-are', title: 'Who we are', group: 'administer', roles: ADMINS, guarded: true },
  team: { path: '/team', title: 'Team', group: 'administer', roles: ALL },
  workspace: { path: '/workspace', title: 'Workspace', group: 'administer', roles: ADMINS, guarded: true },
  log: { path: '/log', title: 'Log', group: 'administer', roles: ALL },

  account: { path: '/account', title: 'Your account', roles: ALL },
  search: { path: '/search', title: 'Search', roles: ALL },
  connectMailbox: { path: '/mailboxes/connect', title: 'Connect a mailbox', roles: MEMBERS },
  connectMailboxAgain: { path: '/mailboxes/connect/:id', title: 'Connect a mailbox', roles: MEMBERS },
  connectMany: { path: '/mailboxes/many', title: 'Connect many mailboxes', roles: ADMINS },
  mailImport: { path: '/mailboxes/imports/:id', title: 'Import', roles: MEMBERS },
  mailbox: { path: '/mailboxes/:id', title: 'Mailbox', roles: MEMBERS },
  recordList: { path: '/records/:kind', title: 'Records', roles: ALL },
  recordsImport: { path: '/records/:kind/import', title: 'Import records', roles: MEMBERS },
  record: { path: '/records/:kind/:id', title: 'Record', roles: ALL },
  domain: { path: '/domains/:domain', title: 'Domain', roles: ALL },
  recordSetup: { path: '/record-setup/:kind', title: 'Fields and stages', roles: ADMINS },
  trial: { path: '/trials/:id', title: 'Trial', roles: ADMINS },
} as const satisfies Record<string, PageShape>;

export type PageId = keyof typeof PAGES;

/** Where pages stood before: links in mails and bookmarks lead on. */
export const EARLIER_PATHS: readonly (readonly [string, string])[] = [
  ['/register', '/all-mail'],
  ['/histories', '/records'],
  ['/strangers', '/unknown-people'],
  ['/kept-lists', '/address-lists'],
];

/** Names of the groups below the steps. */
export const GROUPS = { work: 'Work', improve: 'Improve', administer: 'Administer' } as const;

/** The pages of a group that this role has. */
export function pagesOf(group: PageGroup, role: Role): readonly PageShape[] {
  return (Object.values(PAGES) as PageShape[]).filter((page) => page.group === group && page.roles.includes(role));
}

/** What the command list offers beside the pages without parameters: pages of one kind of record, one form of a list. */
const SHORTCUTS: readonly PageShape[] = [
  { path: '/records/account', title: 'Accounts', roles: ALL },
  { path: '/records/contact', title: 'Contacts', roles: ALL },
  { path: '/records/lead', title: 'Leads', roles: ALL },
  { path: '/records/deal', title: 'Deals', roles: ALL },
  { path: '/records/deal?as=board', title: 'Deals by stage', roles: ALL },
  { path: '/duplicates/contact', title: 'Duplicates among contacts', roles: MEMBERS },
  { path: '/duplicates/account', title: 'Duplicates among accounts', roles: MEMBERS },
  { path: '/record-setup/deal', title: 'Fields and stages', roles: ADMINS },
];

/** The pages that the command list offers to this role. */
export function pagesToFind(role: Role): readonly PageShape[] {
  const plain = (Object.values(PAGES) as PageShape[]).filter(
    ({ path }) => !path.includes(':') && path !== '/search' && path !== '/records',
  );
  return [...plain, ...SHORTCUTS].filter((page) => page.roles.includes(role));
}

/** The title of the page at a path, or null where there is none. */
export function titleAt(pathname: string): string | null {
  const parts = pathname.split('/').filter(Boolean);
  const fits = ({ path }: PageShape): boolean => {
    const pattern = path.split('/').filter(Boolean);
    return pattern.length === parts.length && pattern.every((part, at) => part.startsWith(':') || part === parts[at]);
  };
  // A literal word goes before a parameter in its place.
  const found = (Object.values(PAGES) as PageShape[])
    .filter(fits)
    .sort((first, second) => first.path.split(':').length - second.path.split(':').length)[0];
  return found?.title ?? null;
}
