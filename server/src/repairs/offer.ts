import { rowsOf } from '../base/db/rows';
import type { repairRequest, RepairResult } from '@fulvet/contract';
import { REPAIRS_FOR_OFFER, ruleOffer, domainOf } from '@fulvet/core';
import type { CompiledRulebook, RepairedEmail } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';

/** Later repairs say more than earlier ones; more of them than this are not asked. */
const LAST = 10;

const participantRow = z.object({ record_name: z.string().nullable(), externals: z.array(z.string()) });

/** The rule that would have done what this and the last repairs alike did; of mail that the reader may read. */
export async function offerFor(
  tx: Tx,
  order: Pick<z.output<typeof repairRequest>, 'file' | 'takeOff'>,
  rulebook: CompiledRulebook | undefined,
): Promise<RepairResult['offer']> {
  const deeds = [
    ...order.file.map((item) => ({ does: 'file' as const, ...item })),
    ...order.takeOff.map((item) => ({ does: 'takeOff' as const, ...item })),
  ];
  if (!rulebook || deeds.length !== 1) return null;
  const [deed] = deeds;
  if (!deed) return null;
  const rows = await rowsOf(
    tx,
    participantRow,
    sql`
    SELECT r.name AS record_name, q.externals FROM (
        SELECT DISTINCT ON (p.email_id) p.email_id, p.id, p.kind, p.record_id, ARRAY(SELECT DISTINCT x.address FROM participants x WHERE x.email_id = p.email_id AND x.role IN ('from', 'to', 'cc', 'bcc') ORDER BY 1) AS externals
        FROM pins p WHERE p.released_at IS NULL AND p.does = ${deed.does} AND p.kind IS NOT DISTINCT FROM ${deed.kind} AND p.record_id IS NOT DISTINCT FROM ${deed.id}::bigint ORDER BY p.email_id, p.id DESC) q
      LEFT JOIN records r ON r.kind = q.kind AND r.id = q.record_id
    ORDER BY q.id DESC LIMIT ${LAST}`,
  );
  const repaired = rows.map((row): RepairedEmail => ({
    does: deed.does,
    kind: deed.kind,
    recordId: deed.id,
    recordName: row.record_name ?? '',
    externals: row.externals.filter((external) => !rulebook.isOurs(external, domainOf(external))),
  }));
  // The last three alike are what is asked about; where more agree, the offer rests on all of them.
  return (
    ruleOffer(repaired, (domain) => rulebook.isPublicProvider(domain)) ??
    ruleOffer(repaired.slice(0, REPAIRS_FOR_OFFER), (domain) => rulebook.isPublicProvider(domain))
  );
}
