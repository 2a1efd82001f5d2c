import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { DocumentDetail, DocumentRow, DocumentVersion } from '@fulvet/contract';
import { keptScope } from '@fulvet/contract';
import type { Tx } from '../../base/db/database';
import { json, moment, rowsOf } from '../../base/db/rows';

const row = z.object({
  id: z.number(),
  title: z.string(),
  topic: z.string(),
  scope: keptScope,
  team: json<DocumentRow['team']>().nullable(),
  language: z.string(),
  valid_until: z.string().nullable(),
  is_over: z.boolean(),
  owner: z.string(),
  is_mine: z.boolean(),
  removed_at: moment.nullable(),
  changed_at: moment,
  revision: z.number(),
  versions: json<DocumentVersion[]>(),
});

const MOST_LISTED = 500;

/** Whether a document's last day has passed; days are those of UTC, as for its links. */
const IS_OVER = sql`coalesce(d.valid_until < (now() AT TIME ZONE 'UTC')::date, false)`;
const COLUMNS = sql`d.id, d.title, d.topic, d.scope, CASE WHEN m.id IS NOT NULL THEN json_build_object('id', m.id, 'name', m.name) END AS team, d.language, d.valid_until::text, ${IS_OVER} AS is_over,
  u.name AS owner, d.owner_id = me.id OR (d.scope <> 'own' AND me.role = 'admin') AS is_mine, d.removed_at, d.changed_at, d.revision,
  coalesce((SELECT json_agg(json_build_object('number', v.number, 'name', v.name, 'type', v.type, 'size', v.size, 'addedBy', a.name, 'addedAt', to_char(v.added_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"'), 'isWithdrawn', v.withdrawn_at IS NOT NULL) ORDER BY v.number DESC)
    FROM document_versions v JOIN users a ON a.id = v.added_by WHERE v.document_id = d.id), '[]'::json) AS versions`;
const FROM = sql`documents d JOIN users u ON u.id = d.owner_id LEFT JOIN teams m ON m.id = d.team_id JOIN users me ON me.id = fulvet_acting_user()`;

const asDetail = ({ valid_until, is_over, is_mine, removed_at, changed_at, ...rest }: z.infer<typeof row>): DocumentDetail => ({
  ...rest,
  validUntil: valid_until,
  isOver: is_over,
  isMine: is_mine,
  isRemoved: removed_at !== null,
  current: rest.versions.find(({ isWithdrawn }) => !isWithdrawn) ?? null,
  changedAt: changed_at,
});

/** Documents that the acting user finds, by topic and title. @param toSend only those that may be sent now */
export async function listDocuments(tx: Tx, { text, toSend }: { text: string; toSend: boolean }): Promise<DocumentRow[]> {
  const parts = text.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = await rowsOf(
    tx,
    row,
    sql`
    SELECT ${COLUMNS} FROM ${FROM} WHERE d.removed_at IS NULL
      AND ${toSend ? sql`NOT ${IS_OVER} AND EXISTS (SELECT FROM document_versions v WHERE v.document_id = d.id AND v.withdrawn_at IS NULL)` : sql`true`}
      AND (SELECT bool_and(strpos(lower(concat_ws(' ', d.title, d.topic, d.language, (SELECT string_agg(v.name, ' ') FROM document_versions v WHERE v.document_id = d.id))), part) > 0) FROM unnest(${sql.param(parts)}::text[]) part) IS NOT false
    ORDER BY lower(d.topic), lower(d.title), d.id LIMIT ${MOST_LISTED}`,
  );
  return rows.map((found) => {
    const { versions: _versions, revision: _revision, ...listed } = asDetail(found);
    return listed;
  });
}

/** A document that the acting user finds, with its versions; null: there is none. */
export async function documentOf(tx: Tx, id: number): Promise<DocumentDetail | null> {
  const [found] = await rowsOf(tx, row, sql`SELECT ${COLUMNS} FROM ${FROM} WHERE d.id = ${id}`);
  return found ? asDetail(found) : null;
}

/** The documents that a template takes along, of those that the acting user finds. */
export async function documentsOfTemplate(tx: Tx, templateId: number): Promise<DocumentDetail[]> {
  const rows = await rowsOf(
    tx,
    row,
    sql`SELECT ${COLUMNS} FROM ${FROM} JOIN template_documents t ON t.document_id = d.id WHERE t.template_id = ${templateId} ORDER BY lower(d.topic), lower(d.title), d.id`,
  );
  return rows.map(asDetail);
}

const partRow = z.object({ content: z.instanceof(Buffer) });

/** A part of the file of a version, from 0, where the acting user finds the document; null: there is none. */
export async function partOf(tx: Tx, { id, number }: { id: number; number: number }, part: number): Promise<Uint8Array | null> {
  const [row] = await rowsOf(
    tx,
    partRow,
    sql`SELECT p.content FROM document_parts p JOIN document_versions v ON v.id = p.version_id WHERE v.document_id = ${id} AND v.number = ${number} AND p.part = ${part}`,
  );
  return row?.content ?? null;
}
