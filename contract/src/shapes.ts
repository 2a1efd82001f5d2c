import { z } from 'zod';
import { ROLES } from './route';
import { direction, emailRow, filing, mailClass, outcome, person, shareLevel } from './emailShapes';
import { email, recordKind } from './values';

export * from './accessShapes';
export * from './emailShapes';
export * from './mailboxShapes';
export * from './mergeShapes';
export * from './privacyShapes';
export * from './recordShapes';
export * from './repairShapes';
export * from './ruleShapes';
export * from './tuningShapes';
export * from './values';

const id = z.number().int().positive();
const moment = z.iso.datetime({ offset: true });
export const errorShape = z.object({
  error: z.object({ code: z.string(), message: z.string(), fields: z.record(z.string(), z.string()).optional() }),
});
export type ApiError = z.infer<typeof errorShape>;

export const user = z.object({ id, email: z.string(), name: z.string(), role: z.enum(ROLES) });
export type User = z.infer<typeof user>;
export const session = z.object({
  user: user.nullable(),
  setUp: z.boolean(),
  workspace: z.string(),
  csrf: z.string(),
  needs: z
    .enum(['code', 'second factor'])
    .nullable()
    .describe(
      'code: the password was right, the code of the second factor is asked for. second factor: one has to be set up before anything else.',
    ),
  provider: z.string().nullable().describe('Label of the button that leads to the identity provider.'),
});
export type Session = z.infer<typeof session>;

export const team = z.object({ id, name: z.string(), members: z.array(z.object({ id, name: z.string() })) });
export type Team = z.infer<typeof team>;

export const setupRequest = z.strictObject({
  workspace: z.string().trim().min(1).max(100).default('Our team'),
  admin: z.strictObject({
    email,
    name: z.string().trim().min(1).max(100),
    password: z.string().min(10, { message: 'must have at least 10 characters' }).max(200),
  }),
  ownDomains: z.array(z.string().trim().min(1).max(253)).min(1, { message: 'needs at least one domain' }).max(100),
});

export const tokenScope = z
  .enum(['read', 'write', 'admin'])
  .describe('read: get. write: change too. admin: what administrators alone may, too.');
export type TokenScope = z.infer<typeof tokenScope>;
export const accessToken = z.object({
  id,
  name: z.string(),
  createdAt: moment,
  lastUsedAt: moment.nullable(),
  scopes: z.array(tokenScope),
  expiresAt: moment.nullable(),
});
export type AccessToken = z.infer<typeof accessToken>;

export const teamMember = z.object({
  id,
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  mailboxes: z.array(z.string()),
  hasPassword: z.boolean(),
  active: z.boolean(),
  secondFactor: z.boolean(),
});
export type TeamMember = z.infer<typeof teamMember>;

/** One place where somebody is signed in. */
export const signedInSession = z.object({
  id: z.string(),
  program: z.string().describe('The browser, as it called itself.'),
  since: moment.nullable(),
  lastSeenAt: moment,
  current: z.boolean(),
});
export type SignedInSession = z.infer<typeof signedInSession>;

export const invitation = z.object({
  id,
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  by: z.string(),
  at: moment,
  expiresAt: moment,
  state: z.enum(['open', 'accepted', 'withdrawn', 'expired']),
});
export type Invitation = z.infer<typeof invitation>;

/** What becomes of a member who leaves. */
export const deactivation = z.strictObject({
  mailboxesTo: id.nullable().default(null).describe('Who gets their mailboxes; null: nobody, the mail stays with nobody new.'),
  recordsTo: id.nullable().default(null).describe('Who gets their records; null: nobody.'),
});
export const deactivated = z.object({
  mailboxes: z.number().int(),
  emails: z.number().int(),
  records: z.number().int(),
  sessions: z.number().int(),
  tokens: z.number().int(),
});
export type Deactivated = z.infer<typeof deactivated>;

/** Volumes of the last 30 days at each stop. */
export const lineCounts = z.object({
  came: z.number().int(),
  keptOut: z.number().int(),
  leftLoose: z.number().int(),
  unmatched: z.number().int(),
  waiting: z.number().int(),
  filed: z.number().int(),
  created: z.number().int(),
  shared: z.number().int(),
  undecided: z.number().int(),
  mailboxes: z.number().int(),
  mailboxTrouble: z.number().int().describe('Mailboxes in trouble or stopped, of those that the reader looks after.'),
  mailboxBacklog: z.number().int(),
  histories: z.number().int(),
});
export type LineCounts = z.infer<typeof lineCounts>;

export const docketEntry = z.object({
  stop: z.string(),
  title: z.string(),
  verdict: z.string(),
  rule: z.string().nullable(),
  ruleText: z.string().nullable(),
  because: z.array(z.string()),
});
export type DocketEntry = z.infer<typeof docketEntry>;

export const emailDetail = z.object({
  id,
  at: moment,
  dateSource: z.string(),
  messageId: z.string().nullable(),
  direction: direction.nullable(),
  outcome: outcome.nullable(),
  mailClass,
  classProof: z.object({ header: z.string(), value: z.string() }).nullable(),
  visibility: shareLevel,
  sharedTeams: z.array(z.string()),
  existenceOnly: z.boolean(),
  conversationId: id,
  owned: z.boolean().describe('The reader uses a mailbox that holds it.'),
  size: z.number().int(),
  sightings: z.array(z.object({ mailbox: z.string(), owner: z.string(), folder: z.string() })),
  externalDomains: z.array(z.string()),
  problems: z.array(z.object({ code: z.string(), message: z.string() })),
  filings: z.array(filing),
  docket: z.array(docketEntry),
  rulebookVersion: z.number().int().nullable(),
  questions: z.array(
    z.object({
      about: z.enum(['deal', 'account', 'filing', 'hold', 'person']),
      kind: recordKind.describe('What the candidates are.'),
      candidates: z.array(z.object({ id, name: z.string() })),
      domain: z.string().nullable(),
    }),
  ),
  content: z
    .object({
      subject: z.string(),
      participants: z.array(person),
      parts: z.array(z.object({ kind: z.enum(['own', 'quote', 'signature']), text: z.string() })),
      hasHtml: z.boolean(),
      attachments: z.array(
        z.object({ position: z.number().int(), name: z.string(), type: z.string(), size: z.number().int(), inline: z.boolean() }),
      ),
    })
    .nullable(),
});
export type EmailDetail = z.infer<typeof emailDetail>;

/** Beyond the docket: what nearly happened, and what would have to change for another outcome. */
export const explanation = z.object({
  nearly: z.array(z.object({ stop: z.string(), rule: z.string(), text: z.string() })),
  changes: z.array(z.object({ change: z.string(), then: z.string() })),
});
export type Explanation = z.infer<typeof explanation>;

export const whyNot = z.object({
  filed: z.boolean().describe('It does stand under the record.'),
  name: z.string(),
  reasons: z.array(z.string()),
  changes: z.array(z.string()).describe('Each would put it there, as was tried by deciding it again; in words behind “if”.'),
});
export type WhyNotAnswer = z.infer<typeof whyNot>;

export const emailQuery = z.object({
  outcome: z.string().optional().describe('One outcome, or several separated by commas; "undecided" too.'),
  mailbox: z.string().optional(),
  person: z.string().optional().describe('An address.'),
  domain: z.string().optional(),
  mailClass: z.string().optional(),
  direction: z.string().optional(),
  from: z.iso.date().optional(),
  until: z.iso.date().optional(),
  text: z.string().max(500).optional(),
  conversation: z.coerce.number().int().optional(),
  problems: z.enum(['yes']).optional(),
  mine: z.enum(['yes']).optional().describe('Of mailboxes that the reader uses.'),
  after: z.string().optional().describe('Cursor of the page before.'),
  limit: z.coerce.number().int().min(1).max(200).default(60),
});
export type EmailQuery = z.input<typeof emailQuery>;
export const emailPage = z.object({ emails: z.array(emailRow), next: z.string().nullable(), total: z.number().int() });
export type EmailPage = z.infer<typeof emailPage>;

export const keepOutRequest = z.strictObject({
  kind: z.enum(['domain', 'address']),
  value: z.string().trim().min(3).max(320),
  exactly: z.boolean().default(false),
  effect: z.enum(['disregard', 'keepOut']).default('disregard'),
  note: z.string().trim().max(500).default(''),
});
export type KeepOutRequest = z.input<typeof keepOutRequest>;
export const keepOutPreview = z.object({
  value: z.string(),
  concerned: z.number().int().describe('Emails with this participant.'),
  wouldLeave: z.number().int().describe('Of these, emails that would be kept out.'),
  filedNow: z.number().int().describe('Of those, emails that stand under a record now.'),
  records: z.number().int().describe('Records that would lose all their emails.'),
  already: z.string().nullable().describe('The entry that keeps it out already.'),
  warning: z.string().nullable(),
});
export type KeepOutPreview = z.infer<typeof keepOutPreview>;
export const undoStep = z.object({ id, summary: z.string(), at: moment, by: z.string(), undone: z.boolean() });
export type UndoStep = z.infer<typeof undoStep>;

export const importRun = z.object({
  id,
  mailbox: z.string(),
  files: z.array(z.string()),
  state: z.enum(['open', 'queued', 'running', 'done', 'cancelled', 'failed']),
  phase: z.enum(['reading', 'deciding', 'done']),
  totalBytes: z.number().int(),
  readBytes: z.number().int(),
  counts: z.object({
    new: z.number().int(),
    otherSighting: z.number().int(),
    known: z.number().int(),
    unreadable: z.number().int(),
    withProblems: z.number().int(),
    decided: z.number().int(),
    toDecide: z.number().int(),
  }),
  message: z.string(),
  createdAt: moment,
  startedAt: moment.nullable(),
  finishedAt: moment.nullable(),
});
export type ImportRun = z.infer<typeof importRun>;
export const importItem = z.object({
  position: z.number().int(),
  file: z.string(),
  result: z.enum(['new', 'other sighting', 'known', 'unreadable']),
  emailId: id.nullable(),
  outcome: outcome.nullable(),
  problems: z.array(z.object({ code: z.string(), message: z.string() })),
});
export type ImportItem = z.infer<typeof importItem>;

export const decideRun = z.object({
  id,
  state: z.enum(['queued', 'running', 'done', 'cancelled', 'failed']),
  done: z.number().int(),
  total: z.number().int(),
  changed: z.number().int(),
  message: z.string(),
  phase: z
    .enum(['deciding', 'writing'])
    .describe('deciding: nothing is changed yet. writing: all of it is being put in place as one step.'),
  since: moment.nullable().describe('Over mail from this time on; null: all.'),
  mailboxes: z.array(z.string()).describe('Over mail in these mailboxes; empty: all.'),
  takenBack: z.number().int().describe('Records that mail had created and that it took back.'),
});
export type DecideRun = z.infer<typeof decideRun>;

export const recordsImportRequest = z.strictObject({
  format: z.enum(['csv', 'vcard']).default('csv'),
  text: z.string().max(60_000_000),
  mapping: z
    .record(z.string(), z.string())
    .optional()
    .describe('Header of the file to field of the record; empty string leaves a column out.'),
});
export type RecordsImportRequest = z.input<typeof recordsImportRequest>;
export const recordsPreview = z.object({
  columns: z.array(z.object({ header: z.string(), field: z.string().nullable() })),
  fields: z.array(z.object({ name: z.string(), required: z.boolean(), hint: z.string() })),
  sample: z.array(
    z.object({ line: z.number().int(), action: z.enum(['create', 'update', 'same']), values: z.record(z.string(), z.string()) }),
  ),
  counts: z.object({ create: z.number().int(), update: z.number().int(), same: z.number().int(), bad: z.number().int() }),
  bad: z.array(z.object({ line: z.number().int(), reason: z.string() })),
  warnings: z.array(z.object({ line: z.number().int(), reason: z.string() })),
  done: z.boolean(),
});
export type RecordsPreview = z.infer<typeof recordsPreview>;

export const searchResult = z.object({
  records: z.array(z.object({ kind: recordKind, id, name: z.string(), detail: z.string() })),
  emails: z.array(emailRow),
  emailTotal: z.number().int(),
});
export type SearchResult = z.infer<typeof searchResult>;

export const rulebookState = z.object({
  version: z.number().int(),
  document: z.unknown(),
  summary: z.string(),
  at: moment,
  by: z.string().nullable(),
});
export type RulebookState = z.infer<typeof rulebookState>;
export const rulebookVersion = rulebookState.omit({ document: true }).extend({
  pilotMailboxes: z.array(z.string()).nullable().describe('It was or is in force for the mail of these mailboxes only.'),
  inForce: z.boolean(),
});
export type RulebookVersion = z.infer<typeof rulebookVersion>;

/** What rules did to some mail, in numbers. */
const pilotFigures = z.object({
  emails: z.number().int(),
  outcomes: z.record(z.string(), z.number().int()),
  everyone: z.number().int().describe('Emails that everyone sees.'),
  created: z.number().int().describe('Records created from them.'),
});
export const pilot = z.object({
  version: z.number().int(),
  mailboxes: z.array(z.string()),
  summary: z.string(),
  at: moment,
  by: z.string().nullable(),
  from: moment.describe('Mail from this time on is compared.'),
  group: pilotFigures.describe('Mail that the pilot’s rules decided.'),
  others: pilotFigures.describe('Other mail of the same time.'),
  behind: z.boolean().describe('Another version was put in force for everyone since.'),
});
export type Pilot = z.infer<typeof pilot>;

export const arrival = z.object({
  since: moment.nullable(),
  came: z.number().int(),
  byOutcome: z.record(z.string(), z.number().int()),
  newContacts: z.number().int(),
  newAccounts: z.number().int(),
  waiting: z.number().int(),
  problems: z.number().int(),
  unanswered: z.array(
    z.object({
      emailId: id,
      at: moment,
      subject: z.string(),
      from: z.string(),
      record: z.object({ kind: recordKind, id, name: z.string() }).nullable(),
    }),
  ),
  filedForMe: z.number().int(),
  runningImports: z.number().int(),
  undecided: z.number().int(),
  quietestStops: z.array(z.string()),
  records: z.number().int(),
  emails: z.number().int(),
});
export type Arrival = z.infer<typeof arrival>;

export const exportedDecision = z.object({
  messageId: z.string().nullable(),
  date: moment,
  direction: direction.nullable(),
  mailClass,
  outcome: outcome.nullable(),
  conversation: id,
  filings: z.array(z.object({ kind: recordKind, id, name: z.string(), rule: z.string() })),
  created: z.array(z.object({ kind: recordKind, id, name: z.string() })),
  visibility: shareLevel,
  sharedTeams: z.array(z.string()).optional().describe('Teams that see it, for that level.'),
  existenceOnly: z.boolean().optional().describe('Whoever sees it by its level, sees only that it exists.'),
});
export type ExportedDecision = z.infer<typeof exportedDecision>;
