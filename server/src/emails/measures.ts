import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { EmailMeasure } from '@fulvet/contract';
import { countedVisits } from '@fulvet/core';
import type { Visit } from '@fulvet/core';
import type { Tx } from '../base/db/database';
import { json, rowsOf } from '../base/db/rows';

const measureRow = z.object({
  of: z.number(),
  address: z.string(),
  links: json<{ id: number; kind: Visit['kind']; url: string; title: string | null }[]>(),
  visits: json<{ kind: Visit['kind']; link: number; at: number; class: Visit['class'] }[]>(),
});

/** The visits of the measure `m`, as a JSON list. */
const VISITS = sql`coalesce((SELECT json_agg(json_build_object('kind', l.kind, 'link', l.id, 'at', floor(extract(epoch FROM v.at) * 1000)::float8, 'class', v.class))
  FROM visits v JOIN measured_links l ON l.id = v.link_id WHERE v.measure_id = m.id), '[]'::json)`;

/** What was counted of emails, as far as the acting user may know of it, by their ids. @param by as they are filed, or as they were written here */
export async function measuresOf(tx: Tx, by: 'email' | 'outgoing', ids: readonly number[]): Promise<Map<number, EmailMeasure>> {
  if (ids.length === 0) return new Map();
  const of = by === 'email' ? sql`m.email_id` : sql`m.outgoing_id`;
  const rows = await rowsOf(
    tx,
    measureRow,
    sql`SELECT ${of} AS of, m.address,
        coalesce((SELECT json_agg(json_build_object('id', l.id, 'kind', l.kind, 'url', l.url, 'title',
          (SELECT d.title FROM document_links k JOIN document_versions v ON v.id = k.version_id JOIN documents d ON d.id = v.document_id WHERE k.token_hash = l.token_hash)) ORDER BY l.id) FROM measured_links l WHERE l.measure_id = m.id), '[]'::json) AS links,
        ${VISITS} AS visits
      FROM measures m WHERE ${of} = ANY(${sql.param(ids)}::bigint[]) AND m.sent_at IS NOT NULL ORDER BY m.id`,
  );
  return new Map(rows.map((row) => [row.of, counted(row)]));
}

function counted({ address, links: all, visits }: z.infer<typeof measureRow>): EmailMeasure {
  const { links, notCounted } = countedVisits(visits);
  const so = (id: number): EmailMeasure['opened'] => {
    const found = links.get(id);
    return found
      ? { times: found.times, first: new Date(found.first).toISOString(), last: new Date(found.last).toISOString() }
      : { times: 0, first: null, last: null };
  };
  return {
    address,
    opened: so(all.find(({ kind }) => kind === 'opened')?.id ?? 0),
    links: all
      .filter(({ kind }) => kind !== 'opened')
      .map(({ id, kind, url, title }) => ({
        kind: kind === 'document' ? 'document' : 'link',
        name: title ?? (url || 'a document'),
        ...so(id),
      })),
    notCounted,
  };
}

/** So many of the latest measured emails are told apart. */
const MOST_TOLD = 5_000;

const visitRow = z.object({ id: z.number(), visits: json<Visit[]>() });

/** Ids of measured emails that the acting user may know of and that a person likely opened, or likely did not, of the latest. */
export async function openedEmails(tx: Tx, opened: 'yes' | 'no'): Promise<number[]> {
  const rows = await rowsOf(
    tx,
    visitRow,
    sql`SELECT m.email_id AS id, ${VISITS} AS visits
      FROM measures m WHERE m.email_id IS NOT NULL AND m.sent_at IS NOT NULL ORDER BY m.sent_at DESC LIMIT ${MOST_TOLD}`,
  );
  const isOpened = new Map<number, boolean>();
  for (const { id, visits } of rows) {
    const { links } = countedVisits(visits);
    // One email may be measured for each of its recipients.
    isOpened.set(id, isOpened.get(id) === true || links.size > 0);
  }
  return [...isOpened].flatMap(([id, is]) => (is === (opened === 'yes') ? [id] : []));
}
