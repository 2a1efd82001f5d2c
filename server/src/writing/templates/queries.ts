import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Template, TemplateFigures, TemplateRow, templateContent } from '@fulvet/contract';
import { templateKind, keptScope, templateState } from '@fulvet/contract';
import { htmlToText } from '@fulvet/core';
import type { Tx } from '../../base/db/database';
import { idRow, json, moment, rowsOf } from '../../base/db/rows';
import { cleanHtml } from '../cleanHtml';
import { documentsOfTemplate } from '../documents/queries';

const row = z.object({
  id: z.number(),
  kind: templateKind,
  name: z.string(),
  folder: z.string(),
  scope: keptScope,
  team: json<TemplateRow['team']>().nullable(),
  language: z.string(),
  shortcut: z.string(),
  subject: z.string(),
  state: templateState,
  beginning: z.string(),
  owner: z.string(),
  is_mine: z.boolean(),
  removed_at: moment.nullable(),
  changed_at: moment,
});

const BEGINNING = 140;
const MOST_LISTED = 500;
/** So much of an answered email tells which articles fit. */
const MOST_COMPARED = 4000;
const LEAST_FIT = 0.01;

const COLUMNS = sql`t.id, t.kind, t.name, t.folder, t.scope, CASE WHEN m.id IS NOT NULL THEN json_build_object('id', m.id, 'name', m.name) END AS team, t.language, t.shortcut, t.subject, t.state, left(t.words, ${BEGINNING}) AS beginning,
  u.name AS owner, t.owner_id = me.id OR (t.scope <> 'own' AND me.role = 'admin') AS is_mine, t.removed_at, t.changed_at`;
const FROM = sql`templates t JOIN users u ON u.id = t.owner_id LEFT JOIN teams m ON m.id = t.team_id JOIN users me ON me.id = fulvet_acting_user()`;

const asRow = ({ is_mine, removed_at, changed_at, ...rest }: z.infer<typeof row>): TemplateRow => ({
  ...rest,
  isMine: is_mine,
  isRemoved: removed_at !== null,
  changedAt: changed_at,
});

interface Asked {
  kind?: z.infer<typeof templateKind> | undefined;
  text: string;
  outgoingId?: number | undefined;
}

/** Templates that the acting user finds: those to keep, or, for a draft, those that may be put in, the fitting ones first. */
export async function listTemplates(tx: Tx, { kind, text, outgoingId }: Asked): Promise<TemplateRow[]> {
  const parts = text.toLowerCase().split(/\s+/).filter(Boolean);
  const fit = outgoingId === undefined ? sql`0::float8` : fitTo(outgoingId);
  const rows = await rowsOf(
    tx,
    row,
    sql`
    SELECT ${COLUMNS} FROM ${FROM} WHERE t.removed_at IS NULL AND ${kind === undefined ? sql`true` : sql`t.kind = ${kind}`}
      AND ${outgoingId === undefined ? sql`true` : sql`t.state = 'published'`}
      AND (SELECT bool_and(strpos(lower(concat_ws(' ', t.folder, t.shortcut, t.language, t.words)), part) > 0) FROM unnest(${sql.param(parts)}::text[]) part) IS NOT false
    ORDER BY ${fit} DESC, t.kind = 'article', lower(t.folder), lower(t.name), t.id LIMIT ${MOST_LISTED}`,
  );
  return rows.map(asRow);
}

/** How well an article fits the email that a draft answers, by the words that both have; 0: not at all, or it is no article. */
const fitTo = (outgoingId: number) => sql`CASE WHEN t.kind = 'article' THEN coalesce((
  SELECT nullif(greatest(ts_rank(to_tsvector('simple', t.words), replace(plainto_tsquery('simple', left(concat_ws(' ', c.subject, c.body), ${MOST_COMPARED}))::text, ' & ', ' | ')::tsquery) - ${LEAST_FIT}, 0), 0)
  FROM outgoing o JOIN email_contents c ON c.email_id = o.answers_id WHERE o.id = ${outgoingId}), 0) ELSE 0 END`;

const wholeRow = row.extend({ html: z.string(), revision: z.number() });

/** A template that the acting user finds; null: there is none. */
export async function templateOf(tx: Tx, id: number): Promise<Template | null> {
  const [found] = await rowsOf(tx, wholeRow, sql`SELECT ${COLUMNS}, t.html, t.revision FROM ${FROM} WHERE t.id = ${id}`);
  if (!found) return null;
  const { html, revision, ...rest } = found;
  const documents = (await documentsOfTemplate(tx, id)).map((document) => ({
    id: document.id,
    title: document.title,
    isInForce: document.current !== null && !document.isOver && !document.isRemoved,
  }));
  return { ...asRow(rest), html, revision, documents };
}

/** Stores what its owner wrote. @param id null: a new one of this member */
export async function storeTemplate(tx: Tx, userId: number, id: number | null, content: z.output<typeof templateContent>): Promise<number> {
  const html = cleanHtml(content.html);
  const subject = content.subject.replace(/[\r\n\t]+/g, ' ');
  const teamId = content.scope === 'team' ? content.teamId : null;
  // Its text comes first: the list shows how it begins.
  const words = [htmlToText(html), content.name, subject].join(' ').replace(/\s+/g, ' ').trim();
  const [stored] = await rowsOf(
    tx,
    idRow,
    id === null
      ? sql`INSERT INTO templates (kind, owner_id, scope, team_id, folder, name, language, shortcut, subject, html, words, state)
          VALUES (${content.kind}, ${userId}, ${content.scope}, ${teamId}, ${content.folder}, ${content.name}, ${content.language}, ${content.shortcut}, ${subject}, ${html}, ${words}, ${content.state}) RETURNING id`
      : sql`UPDATE templates SET kind = ${content.kind}, scope = ${content.scope}, team_id = ${teamId}, folder = ${content.folder}, name = ${content.name}, language = ${content.language}, shortcut = ${content.shortcut}, subject = ${subject},
          html = ${html}, words = ${words}, state = ${content.state}, revision = revision + 1, changed_at = clock_timestamp() WHERE id = ${id} RETURNING id`,
  );
  if (!stored) throw new Error('a template was not stored');
  const documents = sql.param(content.documentIds);
  await tx.execute(
    sql`DELETE FROM template_documents WHERE template_id = ${stored.id} AND document_id <> ALL(${documents}::bigint[]) AND document_id IN (SELECT id FROM documents)`,
  );
  // Only such that its owner finds.
  await tx.execute(
    sql`INSERT INTO template_documents (template_id, document_id) SELECT ${stored.id}, id FROM documents WHERE id = ANY(${documents}::bigint[]) ON CONFLICT DO NOTHING`,
  );
  return stored.id;
}

const figuresRow = z.object({
  template_id: z.number(),
  used: z.number(),
  answered: z.number(),
  median_hours: z.number().nullable(),
  emails: z.array(z.number()),
});
const MOST_EMAILS = 50;

/** How templates did, of the emails that the acting user may see: an answer is the first later email from a person of the other side. */
export async function templateFigures(tx: Tx): Promise<TemplateFigures[]> {
  const rows = await rowsOf(
    tx,
    figuresRow,
    sql`
    SELECT s.template_id, count(*)::int AS used, count(a.at)::int AS answered, percentile_cont(0.5) WITHIN GROUP (ORDER BY extract(epoch FROM a.at - e.sent_at) / 3600)::float8 AS median_hours,
      (array_agg(e.id ORDER BY e.sent_at DESC))[1:${sql.raw(String(MOST_EMAILS))}] AS emails
    FROM template_uses s JOIN emails e ON e.id = s.email_id
    LEFT JOIN LATERAL (SELECT min(x.sent_at) AS at FROM emails x WHERE x.conversation_id = e.conversation_id AND x.sent_at > e.sent_at AND x.direction = 'received' AND x.mail_class = 'person') a ON true
    GROUP BY 1`,
  );
  return rows.map(({ template_id, median_hours, ...rest }) => ({ templateId: template_id, medianHours: median_hours, ...rest }));
}
