import { z } from 'zod';
import { json, rowsOf } from '../base/db/rows';
import { recordKind } from '@fulvet/contract';
import type { LikelyRecord } from '@fulvet/contract';
import { rankLikely, domainOf } from '@fulvet/core';
import type { CompiledRulebook, DealScore, Docket, LikelyEvidence, Question } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { searchRecords } from '../records/recordList';

const RECENT_DAYS = 14;

/** Records under which an email may belong, by what the reader may know: the likeliest first, those of the name that is asked for before all. */
export async function likelyRecords(
  tx: Tx,
  emailId: number,
  userId: number,
  text: string,
  rulebook: CompiledRulebook,
): Promise<LikelyRecord[]> {
  const evidence = await evidenceOf(tx, emailId, userId, rulebook);
  const wanted = text.trim();
  if (wanted === '') return rankLikely(evidence).map(asAnswer);
  const found = (await searchRecords(tx, wanted)).map((searchRecord): LikelyEvidence => ({
    ...searchRecord,
    reason: {
      why: 'name',
      begins:
        searchRecord.name
          .toLowerCase()
          .split(/\s+/)
          .some((word) => word.startsWith(wanted.toLowerCase())) || searchRecord.name.toLowerCase().startsWith(wanted.toLowerCase()),
    },
  }));
  const keys = new Set(found.map((item) => `${item.kind}:${item.id}`));
  return rankLikely([...found, ...evidence.filter((item) => keys.has(`${item.kind}:${item.id}`))], 20).map(asAnswer);
}

const asAnswer = ({ kind, id, name, detail, why }: ReturnType<typeof rankLikely>[number]): LikelyRecord => ({
  kind,
  id,
  name,
  detail,
  why,
});

const docketRow = z.object({ questions: json<Question[]>(), docket: json<Docket>() });

const participantRow = z.object({ address: z.string() });

const personAddressRow = z.object({
  kind: recordKind,
  id: z.number(),
  name: z.string(),
  detail: z.string(),
  why: z.string(),
  via: z.string(),
  n: z.number(),
  open: z.boolean(),
});

async function evidenceOf(tx: Tx, emailId: number, userId: number, rulebook: CompiledRulebook): Promise<LikelyEvidence[]> {
  const docketRows = await rowsOf(tx, docketRow, sql`SELECT questions, docket FROM dockets WHERE email_id = ${emailId}`);
  const people = await rowsOf(
    tx,
    participantRow,
    sql`SELECT DISTINCT address FROM participants WHERE email_id = ${emailId} AND role IN ('from', 'to', 'cc', 'bcc')`,
  );
  const addresses = people.map((person) => person.address).filter((value) => !rulebook.isOurs(value, domainOf(value)));
  const keys = addresses.map((address) => rulebook.personKey(address));
  const domains = [...new Set(addresses.map(domainOf))].filter((value) => !rulebook.isPublicProvider(value));
  const rows = await rowsOf(
    tx,
    personAddressRow,
    sql`
    WITH here AS (SELECT kind, person_id, address FROM person_addresses WHERE address = ANY(${sql.param(keys)}::text[])),
      theirs AS (SELECT DISTINCT c.account_id AS id, h.address AS via FROM here h JOIN contacts c ON h.kind = 'contact' AND c.id = h.person_id WHERE c.account_id IS NOT NULL
        UNION SELECT d.account_id, d.domain FROM account_domains d WHERE d.domain = ANY(${sql.param(domains)}::text[]))
    SELECT h.kind, h.person_id AS id, r.name, h.address AS detail, 'person' AS why, h.address AS via, 1 AS n, true AS open FROM here h LEFT JOIN records r ON r.kind = h.kind AND r.id = h.person_id
    UNION ALL SELECT 'account', a.id, a.name, a.type, 'account', min(t.via), 1, true FROM theirs t JOIN accounts a ON a.id = t.id GROUP BY a.id
    UNION ALL SELECT 'deal', d.id, d.name, concat_ws(' · ', d.code, nullif(d.stage, '')), 'deal', '', count(h.person_id)::int, d.open FROM deals d LEFT JOIN deal_people p ON p.deal_id = d.id LEFT JOIN here h ON h.kind = p.kind AND h.person_id = p.person_id
      WHERE h.person_id IS NOT NULL OR d.account_id IN (SELECT id FROM theirs) GROUP BY d.id
    UNION ALL SELECT 'own', o.id, o.code || ' ' || o.name, o.state, 'deal', '', count(h.person_id)::int, o.open FROM own_records o LEFT JOIN own_record_people p ON p.record_id = o.id LEFT JOIN here h ON h.kind = p.kind AND h.person_id = p.person_id
      WHERE h.person_id IS NOT NULL OR o.account_id IN (SELECT id FROM theirs) GROUP BY o.id
    UNION ALL SELECT f.kind, f.record_id, r.name, coalesce(concat_ws(' · ', d.code, nullif(d.stage, '')), ''), 'conversation', '', count(*)::int, true
      FROM emails this JOIN emails o ON o.conversation_id = this.conversation_id AND o.id <> this.id JOIN filings f ON f.email_id = o.id
      JOIN records r ON r.kind = f.kind AND r.id = f.record_id LEFT JOIN deals d ON f.kind = 'deal' AND d.id = f.record_id
      WHERE this.id = ${emailId} GROUP BY 1, 2, 3, 4
    UNION ALL SELECT DISTINCT p.kind, p.record_id, r.name, '', 'recent', '', 1, true FROM pins p JOIN records r ON r.kind = p.kind AND r.id = p.record_id
      WHERE p.user_id = ${userId} AND p.does IN ('file', 'principal') AND p.released_at IS NULL AND p.at > now() - make_interval(days => ${RECENT_DAYS})`,
  );
  const found = rows.map(({ kind, id, name, detail, why, via, n, open }): LikelyEvidence => ({
    kind,
    id,
    name,
    detail,
    reason:
      why === 'person'
        ? { why, address: via }
        : why === 'account'
          ? { why, via }
          : why === 'deal'
            ? { why, people: n, open }
            : why === 'conversation'
              ? { why, emails: n }
              : { why: 'recent' },
  }));
  const [docket] = docketRows;
  const scores = docket ? dealScores(docket.docket) : [];
  const details = new Map(found.map((evidence) => [`${evidence.kind}:${evidence.id}`, evidence.detail]));
  const asked = (docket?.questions ?? []).flatMap((question) =>
    question.candidates.map((candidate): LikelyEvidence => {
      const score = question.kind === 'deal' ? (scores.find((it) => it.id === candidate.id)?.score ?? null) : null;
      return {
        kind: question.kind,
        ...candidate,
        detail: details.get(`${question.kind}:${candidate.id}`) ?? '',
        reason: { why: 'candidate', score },
      };
    }),
  );
  return [...found, ...asked];
}

export function dealScores(docket: Docket): readonly DealScore[] {
  return docket.flatMap((entry) => entry.evidence.flatMap((evidence) => (evidence.fact === 'deal scores' ? evidence.scores : [])));
}
