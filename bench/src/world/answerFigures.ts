import type { Rulebook } from '@fulvet/core';
import { cautiousRulebook, keepOutEntrySchema } from '@fulvet/core';
import { importMailbox, importRecords, OWN_DOMAIN, PROVIDER, IMPORT_ORDER, setUpTeam, setUpWorld } from '@fulvet/demo';
import type { Services } from '@fulvet/server';
import { followLateActivity, runDecisions } from '@fulvet/server';
import { newInstallation } from '../measure';
import type { Answer, AnswerWorld } from './answerWorld';

function usualRulebook(): Rulebook {
  const made = cautiousRulebook([OWN_DOMAIN]);
  made.us.providers.added = [PROVIDER];
  made.match.deal = 'scored';
  Object.assign(made.create, { people: 'contact', after: 'weWrote', accounts: true });
  made.keepOut.entries = ['amaro-partners.example', 'talentbridge.example'].map((value, at) =>
    keepOutEntrySchema.parse({ id: `entry-${at}`, kind: 'domain', value }),
  );
  return made;
}

/** What was decided of one email, in the words of its answer. */
export interface Decided {
  outcome: string;
  under: string[];
  asks: string[];
  creates: string[];
  /** The rules that filed it, in the order of `under`. */
  rules: string[];
}

/** Counts by figure and case, each with one email behind it. */
export class Figures {
  private readonly found = new Map<string, Map<string, { count: number; example: string }>>();

  note(figure: string, of: string, example: string): void {
    const cases = this.found.get(figure) ?? new Map<string, { count: number; example: string }>();
    this.found.set(figure, cases.set(of, { count: (cases.get(of)?.count ?? 0) + 1, example }));
  }

  /** The counts of all cases, by figure. */
  byKind(figures: readonly string[]): [string, number[]][] {
    const cases = new Set(figures.flatMap((figure) => [...(this.found.get(figure)?.keys() ?? [])]));
    return [...cases].sort().map((of) => [of, figures.map((figure) => this.found.get(figure)?.get(of)?.count ?? 0)]);
  }

  /** Takes the counts of others over. */
  add(others: Figures): void {
    for (const [figure, cases] of others.found)
      for (const [of, { count, example }] of cases) {
        const known = this.found.get(figure) ?? new Map<string, { count: number; example: string }>();
        this.found.set(figure, known.set(of, { count: (known.get(of)?.count ?? 0) + count, example }));
      }
  }

  count(figure: string): number {
    return [...(this.found.get(figure)?.values() ?? [])].reduce((sum, { count }) => sum + count, 0);
  }

  byCase(figure: string): string[] {
    return [...(this.found.get(figure) ?? [])].map(([of, { count, example }]) => `${count} in "${of}", such as ${example}`);
  }
}

export const FIGURES = [
  'filings right',
  'filings wrong',
  'filings missing',
  'created rightly',
  'created needlessly',
  'not created',
  'questions right',
  'questions needless',
  'questions missing',
  'kept out rightly',
  'kept out wrongly',
  'let in wrongly',
  'emails lost',
];

function compare(answer: Answer, decided: Decided, subject: string, figures: Figures): void {
  const note = (figure: string, what: string): void => figures.note(figure, answer.of, `"${subject}" ${what}`);
  const isOut = decided.outcome === 'kept out';
  if (answer.outcome === 'kept out') return note(isOut ? 'kept out rightly' : 'let in wrongly', decided.under.join(', '));
  if (isOut) return note('kept out wrongly', '');
  const parts = [
    {
      is: decided.under,
      should: answer.under,
      may: answer.may,
      right: 'filings right',
      wrong: 'filings wrong',
      missing: 'filings missing',
    },
    {
      is: decided.creates,
      should: answer.creates,
      may: answer.may,
      right: 'created rightly',
      wrong: 'created needlessly',
      missing: 'not created',
    },
  ];
  for (const { is, should, may, right, wrong, missing } of parts) {
    for (const value of is) if (should.has(value)) note(right, value);
    for (const value of is) if (!should.has(value) && !may.has(value)) note(wrong, value);
    for (const value of should) if (!is.includes(value)) note(missing, value);
  }
  for (const ask of decided.asks)
    if (!answer.may.has(`question:${ask}`)) note(answer.asks.has(ask) ? 'questions right' : 'questions needless', ask);
  // For each rule of choosing, how often it was right.
  decided.under.forEach((value, at) => {
    const isRight = answer.under.has(value) || answer.may.has(value);
    figures.note(isRight ? 'rule right' : 'rule wrong', decided.rules[at] ?? '', `"${subject}" ${value}`);
  });
  const settled = decided.under.some((value) => answer.may.has(value));
  for (const ask of answer.asks) if (!decided.asks.includes(ask) && !settled) note('questions missing', ask);
}

async function decidedBy(services: Services): Promise<Map<string, Decided>> {
  const { rows } = await services.database.workerPool.query<Decided & { message_id: string | null; at: number }>(`
    SELECT e.message_id, (extract(epoch FROM e.sent_at) * 1000)::float8 AS at, e.outcome,
      ARRAY(SELECT CASE f.kind
          WHEN 'account' THEN 'account:' || (SELECT CASE WHEN a.origin_email_id IS NULL THEN a.name ELSE (SELECT min(d.domain) FROM account_domains d WHERE d.account_id = a.id) END FROM accounts a WHERE a.id = f.record_id)
          WHEN 'deal' THEN 'deal:' || (SELECT d.code FROM deals d WHERE d.id = f.record_id)
          ELSE f.kind || ':' || (SELECT p.address FROM person_addresses p WHERE p.kind = f.kind AND p.person_id = f.record_id ORDER BY p.address LIKE '%@${PROVIDER}', p.address LIMIT 1) END
        FROM filings f WHERE f.email_id = e.id ORDER BY f.kind, f.record_id) AS under,
      ARRAY(SELECT f.rule FROM filings f WHERE f.email_id = e.id ORDER BY f.kind, f.record_id) AS rules,
      ARRAY(SELECT q.question ->> 'about' FROM dockets o, jsonb_array_elements(o.questions) AS q(question) WHERE o.email_id = e.id) AS asks,
      ARRAY(SELECT min(p.address) FROM (SELECT 'contact' AS kind, id, origin_email_id FROM contacts UNION ALL SELECT 'lead', id, origin_email_id FROM leads) c
          JOIN person_addresses p ON p.kind = c.kind AND p.person_id = c.id WHERE c.origin_email_id = e.id GROUP BY c.kind, c.id
        UNION ALL SELECT min(d.domain) FROM accounts a JOIN account_domains d ON d.account_id = a.id WHERE a.origin_email_id = e.id GROUP BY a.id) AS creates
    FROM emails e`);
  return new Map(rows.map((row) => [row.message_id ?? `at ${Math.floor(row.at / 1000)}`, row]));
}

export type ReadingOrder = 'at once' | 'one by one' | 'before the records';

/** A world whose mail was decided in an installation of its own. */
export interface DecidedWorld {
  services: Services;
  adminId: number;
  /** What stands, by Message-ID. */
  decisions: () => Promise<Map<string, Decided>>;
  /** What stands, compared with what is right. */
  figures: () => Promise<Figures>;
}

/**
 * Decides a world's mail in an installation of its own, by the real ingest.
 *
 * @param order at once: when all mailboxes are read. one by one: after each mailbox, the last first, so that much mail comes in late. before the
 *   records: which come last, kind by kind.
 * @param change what the rulebook does otherwise
 * @param ask what is asked of it, as long as it stands
 */
export async function inWorld<T>(
  world: AnswerWorld,
  order: ReadingOrder,
  change: (rulebook: Rulebook) => void,
  ask: (decided: DecidedWorld) => Promise<T>,
): Promise<T> {
  const { services, remove } = await newInstallation();
  const rulebook = usualRulebook();
  change(rulebook);
  try {
    const setUp = order === 'before the records' ? setUpTeam : setUpWorld;
    const { userIds } = await setUp(services, world.world, rulebook);
    const adminId = userIds.get('admin') ?? 0;
    const mailboxes = [...world.mailboxes.mboxes()];
    if (order === 'one by one') mailboxes.reverse();
    const decideAll = async (): Promise<void> => {
      await runDecisions(services.database, services.blobs, 'undecided');
      await followLateActivity(services.database, services.blobs);
    };
    for (const { address, parts } of mailboxes) {
      await importMailbox(services, address, parts, userIds);
      if (order === 'one by one') await decideAll();
    }
    await decideAll();
    for (const kind of order === 'before the records' ? IMPORT_ORDER : []) {
      const { concerned } = await importRecords(services, world.world, kind, adminId);
      await runDecisions(services.database, services.blobs, concerned);
    }
    const decisions = (): Promise<Map<string, Decided>> => decidedBy(services);
    return await ask({ services, adminId, decisions, figures: async () => compared(world, await decisions()) });
  } finally {
    await remove();
  }
}

function compared(world: AnswerWorld, all: ReadonlyMap<string, Decided>): Figures {
  const figures = new Figures();
  for (const { letter, answer } of world.sent) {
    const decided = all.get(letter.messageId ?? `at ${Math.floor(letter.at / 1000)}`);
    if (decided) compare(answer, decided, letter.subject, figures);
    else figures.note('emails lost', answer.of, letter.subject);
  }
  return figures;
}

/** Decides a world's mail and compares each decision with what is right. */
export const figuresOf = (
  world: AnswerWorld,
  order: ReadingOrder,
  change: (rulebook: Rulebook) => void = () => undefined,
): Promise<Figures> => inWorld(world, order, change, (decided) => decided.figures());
