import { z } from 'zod';
import { domainToAscii } from '../domain/domain';
import { MAIL_CLASSES } from '../emails/mailClass';
import { ACTIONS, AFTERS, recordOwner, ruleSchema } from './rule';

const domain = z
  .string()
  .trim()
  .transform((text) => domainToAscii(text.replace(/^@/, '')))
  .refine((text) => text.includes('.') || text.startsWith('['), { message: 'is not a domain such as harbour.example' });

const address = z
  .string()
  .trim()
  .max(320)
  .regex(/^[^\s@]+@[^\s@]+$/, { message: 'is not an address such as ida@harbour.example' });

/** One domain or address that has no business in the records. */
export const keepOutEntrySchema = z
  .strictObject({
    id: z.string().regex(/^[a-z0-9][a-z0-9._-]{0,63}$/i, { message: 'is not an id of letters, digits, dots and dashes' }),
    kind: z.enum(['domain', 'address']),
    value: z.string().max(320),
    exactly: z.boolean().default(false).describe('For a domain: without its sub-domains.'),
    effect: z
      .enum(['ignore', 'keepOut'])
      .default('ignore')
      .describe(
        'ignore: this participant does not count, and the email is kept out only if no external one is left. keepOut: the whole email.',
      ),
    note: z.string().max(500).default(''),
    addedBy: z.string().max(320).default(''),
    addedAt: z.string().max(40).default(''),
  })
  .superRefine((entry, context) => {
    const parsed = (entry.kind === 'domain' ? domain : address).safeParse(entry.value);
    if (!parsed.success)
      context.addIssue({
        code: 'custom',
        path: ['value'],
        message: `"${entry.value}" ${parsed.error.issues[0]?.message ?? 'cannot be read'}`,
      });
  })
  .transform((entry) => ({ ...entry, value: entry.kind === 'domain' ? domain.parse(entry.value) : entry.value.trim() }));

const rulesOf = <A extends z.ZodType>(action: A) =>
  z.array(ruleSchema(action)).max(2000).default([]).describe('In order. Where no rule applies, the rest of this step decides.');

/** A deal must be this good, and this much ahead of the next, to be taken. */
export const DEAL_THRESHOLD = 0.6;
export const DEAL_MARGIN = 0.15;
/** How records of own kinds may be found. */
export const OWN_STRATEGIES = ['code', 'onlyOpen', 'scored', 'never'] as const;
/** How long before a deal is opened in the records people usually write about it, days. */
export const DEAL_LEAD_DAYS = 90;
/** Who writes to more external people than that at once sends round an invitation; no one is created from it. */
export const MOST_RECIPIENTS = 30;

/**
 * The rulebook: what the five steps do. One versioned document.
 *
 * In each step the ordered rules are asked first; what none of them speaks on goes by the rest of the step, its defaults. Every part is required to be what the schema says and nothing else is accepted, so that no setting is taken and ignored.
 */
export const rulebookSchema = z.strictObject({
  format: z.literal('fulvet-rulebook'),
  formatVersion: z.literal(3),
  us: z
    .strictObject({
      ownDomains: z.array(domain).max(1000).describe('Everyone under these domains is a colleague.'),
      sharedAddresses: z
        .array(address)
        .max(10_000)
        .default([])
        .describe('Addresses of ours outside our domains, such as a shared one at a provider.'),
      formAddresses: z
        .array(address)
        .max(1000)
        .default([])
        .describe('Addresses that send what visitors write in a form on a site. An email from them is from whoever Reply-To names.'),
      tagsTellApart: z.boolean().default(false).describe('True when ida+a@x and ida@x are two people.'),
      providers: z
        .strictObject({ added: z.array(domain).default([]), removed: z.array(domain).default([]) })
        .default({ added: [], removed: [] })
        .describe('Changes to the list of public mail providers, whose domains never represent a company.'),
    })
    .describe('Who we are.'),
  personal: z
    .strictObject({ share: z.enum(['free', 'locked']).default('free'), takeIn: z.enum(['free', 'locked']).default('free') })
    .default({ share: 'free', takeIn: 'free' })
    .describe('What the owner of a mailbox may set otherwise for it. locked: no one may; what was chosen before stays.'),
  keepOut: z.strictObject({
    internal: z.boolean().describe('Keep out internal mail.'),
    machineMail: z.array(z.enum(MAIL_CLASSES).exclude(['person'])).describe('Mail classes that are kept out.'),
    entries: z.array(keepOutEntrySchema).max(200_000),
    rules: rulesOf(ACTIONS.keepOut),
  }),
  takeIn: z.strictObject({
    scope: z
      .enum(['external', 'known', 'answers', 'byHand'])
      .describe(
        'external: all mail with external people. known: only with known people. answers: only in conversations already filed. byHand: nothing automatically.',
      ),
    rules: rulesOf(ACTIONS.takeIn),
  }),
  match: z.strictObject({
    account: z.enum(['personOrDomain', 'person', 'never']).describe('How an account is found.'),
    deal: z
      .enum(['certain', 'scored', 'never'])
      .describe(
        'certain: by conversation, by code, by its name in the subject, or the only open deal of these people. scored: where several are open, also the best of them when it is good enough and clearly ahead.',
      ),
    threshold: z.number().min(0).max(1).default(DEAL_THRESHOLD).describe('Score that the best deal must reach.'),
    margin: z.number().min(0).max(1).default(DEAL_MARGIN).describe('How far it must be ahead of the next.'),
    leadDays: z
      .number()
      .int()
      .min(0)
      .max(3650)
      .default(DEAL_LEAD_DAYS)
      .describe(
        'Emails up to so many days before a deal was opened may have led to it; earlier ones are not filed under it by themselves.',
      ),
    own: z
      .record(z.string().regex(/^[a-z0-9_]{1,60}$/), z.enum(OWN_STRATEGIES))
      .default({})
      .describe(
        'How records of the workspace’s own kinds are found, by the key of the kind; `code` where a kind is not named. code: by the number in the subject or the text, by conversation, and by an address that leads there. onlyOpen: also the only open one of these people. scored: also the best of several. never: by hand only.',
      ),
    rules: rulesOf(ACTIONS.match),
  }),
  create: z.strictObject({
    people: z.enum(['contact', 'lead', 'nothing']).describe('What an unknown outsider becomes.'),
    after: z.enum(AFTERS).describe('How much contact is needed first.'),
    emails: z.number().int().min(1).max(1000).default(3).describe('How many emails with them, for `after: emails`; this one counts.'),
    mostPeople: z
      .number()
      .int()
      .min(1)
      .max(100_000)
      .default(MOST_RECIPIENTS)
      .describe('From an email with more external people than that, such as an invitation sent round, no one is created.'),
    owner: recordOwner.default('mailbox'),
    accounts: z.boolean().describe('Create the account too where the domain tells it (for contacts).'),
    rules: rulesOf(ACTIONS.create).describe('Asked about each unknown external participant.'),
  }),
  share: z.strictObject({
    level: z.enum(['owner', 'record', 'everyone']).describe('Who sees the emails that are filed.'),
    existenceOnly: z.boolean().default(false).describe('They see that an email exists, and not what it says.'),
    rules: rulesOf(ACTIONS.share),
  }),
});

export type Rulebook = z.infer<typeof rulebookSchema>;
export type KeepOutEntry = z.infer<typeof keepOutEntrySchema>;

/** The rulebook that a new installation begins with: nothing is created, and no one sees another's mail. */
export function cautiousRulebook(ownDomains: readonly string[]): Rulebook {
  return {
    format: 'fulvet-rulebook',
    formatVersion: 3,
    us: {
      ownDomains: [...ownDomains],
      sharedAddresses: [],
      formAddresses: [],
      tagsTellApart: false,
      providers: { added: [], removed: [] },
    },
    personal: { share: 'free', takeIn: 'free' },
    keepOut: { internal: true, machineMail: ['newsletter', 'notice', 'auto-reply', 'bounce'], entries: [], rules: [] },
    takeIn: { scope: 'external', rules: [] },
    match: {
      account: 'personOrDomain',
      deal: 'scored',
      threshold: DEAL_THRESHOLD,
      margin: DEAL_MARGIN,
      leadDays: DEAL_LEAD_DAYS,
      own: {},
      rules: [],
    },
    create: { people: 'nothing', after: 'weWrote', emails: 3, mostPeople: MOST_RECIPIENTS, owner: 'mailbox', accounts: true, rules: [] },
    share: { level: 'owner', existenceOnly: false, rules: [] },
  };
}

/** The ids by which decisions name the rules that are not entries of a list. */
export const RULES = {
  internal: 'keep-out.internal',
  machineMail: 'keep-out.machine-mail',
  ownKeepOut: 'keep-out.mailbox',
  scope: 'take-in.scope',
  mailboxTakeIn: 'take-in.mailbox',
  person: 'match.person',
  accountByPerson: 'match.account-by-person',
  accountByDomain: 'match.account-by-domain',
  dealByConversation: 'match.deal-by-conversation',
  dealByCode: 'match.deal-by-code',
  dealByName: 'match.deal-by-name',
  onlyOpenDeal: 'match.only-open-deal',
  dealByScore: 'match.deal-by-score',
  ownByConversation: 'match.own-by-conversation',
  ownByCode: 'match.own-by-code',
  ownByAddress: 'match.own-by-address',
  onlyOpenOwn: 'match.only-open-own',
  ownByScore: 'match.own-by-score',
  createPeople: 'create.people',
  createAccounts: 'create.accounts',
  level: 'share.level',
  mailboxOwner: 'share.mailbox',
  filingAddress: 'match.filing-address',
  filingFolder: 'match.filing-folder',
  pin: 'pin.email',
  pinOfConversation: 'pin.conversation',
  principal: 'pin.principal',
  seal: 'pin.seal',
  sharingChoice: 'share.own-word',
} as const;

/** Rules that say that a person decided. */
export const HAND_RULES: readonly string[] = [RULES.filingAddress, RULES.filingFolder, RULES.pin, RULES.pinOfConversation, RULES.principal];
