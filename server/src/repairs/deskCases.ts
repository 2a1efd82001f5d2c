import { z } from 'zod';
import { json, moment, rowsOf } from '../base/db/rows';
import type { Desk, DeskCase, Person, User } from '@fulvet/contract';
import type { CompiledRulebook, DealScore, Docket, Question } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { asSeen, questionsOf } from '../records/seenRecords';
import type { Tx } from '../base/db/database';
import { asPerson } from '../emails/emailRows';
import { dealScores } from './likely';
import { waitsFor } from './queries';

const MOST_EMAILS = 200;

const waitingRow = z.object({
  id: z.number(),
  conversation_id: z.number(),
  sent_at: moment,
  subject: z.string().nullable(),
  questions: json<Question[]>().nullable(),
  docket: json<Docket>().nullable(),
  from_address: z.string().nullable(),
  from_name: z.string().nullable(),
  passed_by: z.string().nullable(),
});
type WaitingRow = z.infer<typeof waitingRow>;

const dayRow = z.object({ day: z.string(), emails: z.number() });

/**
 * What waits, as questions: one answer settles all emails that ask the same. Of the reader's own mailboxes and what colleagues passed on, or
 * all. Where the reader may not read an email, it is counted, and who reads it decides.
 */
export async function deskCases(tx: Tx, user: User, whose: 'mine' | 'all', limit: number, rulebook: CompiledRulebook): Promise<Desk> {
  const rows = await rowsOf(
    tx,
    waitingRow,
    sql`
    SELECT e.id, e.conversation_id, e.sent_at, c.subject, k.questions, k.docket, f.address AS from_address, f.name AS from_name, CASE WHEN p.to_user_id = ${user.id} THEN u.name END AS passed_by
    FROM emails e JOIN dockets k ON k.email_id = e.id LEFT JOIN email_contents c ON c.email_id = e.id LEFT JOIN desk_passes p ON p.email_id = e.id LEFT JOIN users u ON u.id = p.by_user_id
      LEFT JOIN LATERAL (SELECT address, name FROM participants x WHERE x.email_id = e.id AND x.role = 'from' LIMIT 1) f ON true
    WHERE e.outcome = 'waiting' AND ${whose === 'mine' ? waitsFor(user.id) : sql`true`} ORDER BY e.sent_at DESC, e.id DESC`,
  );
  const seen = await asSeen(
    tx,
    rows.map((row) => ({
      ...row,
      docket: row.docket ?? [],
      questions: questionsOf(row.questions),
    })),
  );
  const cases = casesOf(seen, rulebook);
  const details = await candidateDetails(tx, cases);
  const arriving = await rowsOf(
    tx,
    dayRow,
    sql`
    SELECT to_char(d, 'YYYY-MM-DD') AS day, coalesce(a.count, 0)::int AS emails FROM generate_series(date_trunc('day', now()) - interval '13 days', date_trunc('day', now()), interval '1 day') d
      LEFT JOIN (SELECT date_trunc('day', e.sent_at) AS at, count(*) AS count FROM emails e
        WHERE e.sent_at >= date_trunc('day', now()) - interval '13 days' AND (e.outcome = 'waiting' OR EXISTS (SELECT FROM pins x WHERE x.email_id = e.id)) AND ${whose === 'mine' ? sql`${user.id} = ANY(e.owner_ids)` : sql`true`}
        GROUP BY 1) a ON a.at = d ORDER BY d`,
  );
  return {
    cases: cases.slice(0, limit).map((testCase) => ({
      ...testCase,
      candidates: testCase.candidates.map((it) => ({ ...it, detail: details.get(`${testCase.kind}:${it.id}`) ?? '' })),
    })),
    left: cases.length,
    emails: rows.length,
    arriving,
  };
}

/** Emails that ask the same: about a person wherever they write, about all else within a conversation. The question of most emails first. */
function casesOf(rows: readonly WaitingRow[], rulebook: CompiledRulebook): DeskCase[] {
  const byKey = new Map<string, { made: DeskCase; conversations: Set<number> }>();
  for (const row of rows) {
    const [question] = row.questions ?? [];
    if (!question) continue;
    const { kind } = question;
    const where = question.about === 'person' ? question.domain : row.conversation_id;
    const key = `${question.about} ${where ?? ''} ${question.candidates
      .map((candidate) => candidate.id)
      .sort()
      .join(',')}`;
    const known = byKey.get(key);
    if (known) {
      known.conversations.add(row.conversation_id);
      known.made.count += 1;
      if (known.made.emails.length < MOST_EMAILS) known.made.emails.push(row.id);
      known.made.firstAt = row.sent_at;
      known.made.conversations = known.conversations.size;
      continue;
    }
    const scores = dealScores(row.docket ?? []);
    const at = row.sent_at;
    const made: DeskCase = {
      key,
      about: question.about,
      kind,
      domain: question.domain,
      candidates: question.candidates.map((candidate) => ({
        ...candidate,
        detail: '',
        ...scoreOf(candidate.id, kind === 'deal' ? scores : []),
      })),
      emails: [row.id],
      count: 1,
      conversations: 1,
      subject: row.subject,
      from:
        row.from_address === null
          ? null
          : asPerson({ role: 'from' as Person['role'], address: row.from_address, name: row.from_name ?? '' }, rulebook),
      firstAt: at,
      lastAt: at,
      passedBy: row.passed_by,
    };
    byKey.set(key, { made, conversations: new Set([row.conversation_id]) });
  }
  return [...byKey.values()]
    .map((item) => item.made)
    .sort(
      (first, second) =>
        Number(second.passedBy !== null) - Number(first.passedBy !== null) ||
        second.count - first.count ||
        (first.lastAt < second.lastAt ? 1 : -1),
    );
}

function scoreOf(id: number, scores: readonly DealScore[]): { score: number | null; why: string[] } {
  const found = scores.find((score) => score.id === id);
  if (!found) return { score: null, why: [] };
  return {
    score: found.score,
    why: [
      `${found.people} of its ${found.of} people`,
      ...(found.owner ? ['its owner has the email'] : []),
      ...(found.words.length > 0 ? [`the subject says ${found.words.map((word) => `“${word}”`).join(', ')}`] : []),
      ...(found.days === null ? [] : [found.days === 0 ? 'used the same day' : `used ${found.days} days before`]),
    ],
  };
}

const dealRow = z.object({ kind: z.string(), id: z.number(), detail: z.string() });

async function candidateDetails(tx: Tx, cases: readonly DeskCase[]): Promise<Map<string, string>> {
  const idsOf = (kind: DeskCase['kind']): number[] => [
    ...new Set(cases.filter((testCase) => testCase.kind === kind).flatMap((testCase) => testCase.candidates.map((it) => it.id))),
  ];
  const rows = await rowsOf(
    tx,
    dealRow,
    sql`
    SELECT 'deal' AS kind, d.id, concat_ws(' · ', d.code, nullif(d.stage, ''), a.name, u.name, CASE WHEN l.at IS NULL THEN 'nothing filed there yet' ELSE 'last filed there ' || to_char(l.at, 'YYYY-MM-DD') END) AS detail
      FROM deals d LEFT JOIN accounts a ON a.id = d.account_id LEFT JOIN users u ON u.id = d.owner_id LEFT JOIN LATERAL (SELECT max(e.sent_at) AS at FROM filings f JOIN emails e ON e.id = f.email_id WHERE f.kind = 'deal' AND f.record_id = d.id) l ON true
      WHERE d.id = ANY(${sql.param(idsOf('deal'))}::bigint[])
    UNION ALL SELECT 'account', a.id, concat_ws(' · ', nullif(a.type, ''), (SELECT string_agg(domain, ', ' ORDER BY domain) FROM account_domains d WHERE d.account_id = a.id)) FROM accounts a WHERE a.id = ANY(${sql.param(idsOf('account'))}::bigint[])
    UNION ALL SELECT p.kind, p.person_id, concat_ws(' · ', nullif(coalesce(c.title, l.title), ''), coalesce(a.name, nullif(l.company, '')), string_agg(p.address, ', ' ORDER BY p.position, p.address))
      FROM person_addresses p LEFT JOIN contacts c ON p.kind = 'contact' AND c.id = p.person_id LEFT JOIN leads l ON p.kind = 'lead' AND l.id = p.person_id LEFT JOIN accounts a ON a.id = c.account_id
      WHERE (p.kind = 'contact' AND p.person_id = ANY(${sql.param(idsOf('contact'))}::bigint[])) OR (p.kind = 'lead' AND p.person_id = ANY(${sql.param(idsOf('lead'))}::bigint[]))
      GROUP BY p.kind, p.person_id, c.title, l.title, a.name, l.company`,
  );
  return new Map(rows.map((row) => [`${row.kind}:${row.id}`, row.detail]));
}
