import { sql } from 'drizzle-orm';
import { createHash, randomBytes } from 'node:crypto';
import { z } from 'zod';
import type { addDocuments, DocumentDetail, DocumentLink, MadeLink, Outgoing, User } from '@fulvet/contract';
import { MOST_FILE_BYTES } from '@fulvet/contract';
import type { Db, Tx } from '../../base/db/database';
import { idRow, json, moment, rowsOf } from '../../base/db/rows';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { changed, demandDraft, roomIn } from '../drafts';
import { documentOf } from './queries';

type Parts = Pick<Services, 'database'>;

/** Where links lead, below the address of the installation. */
export const LINK_PATH = '/d';
const TOKEN = /\/d\/([\w-]{43})(?![\w-])/g;

/** What stands in a link that only its recipient is to have: 256 random bits. Its hash is stored. */
export const newToken = (): string => randomBytes(32).toString('base64url');

export const tokenHash = (token: string): string => createHash('sha256').update(token).digest('hex');

/** The hashes of the tokens of all links in a text. */
export const linkHashesIn = (html: string): string[] => [...html.matchAll(TOKEN)].map(([, token]) => tokenHash(token ?? ''));

/** So long after its end a link still says that it has ended. */
const KEPT_DAYS = 90;

const NO_ADDRESS = new Refusal(
  'conflict',
  'no-link-address',
  'Links need the address under which recipients reach Fulvet. An administrator sets it under Workspace. Attach the documents meanwhile.',
);

const addressRow = z.object({ address: z.string().nullable() });

export async function linkAddressOf(tx: Tx): Promise<string | null> {
  const [row] = await rowsOf(tx, addressRow, sql`SELECT link_address AS address FROM workspace`);
  return row?.address ?? null;
}

/** Attaches documents to a draft in their versions in force, or makes links to them for this draft. All of them, or none. */
export function addDocumentsTo(
  { database }: Parts,
  user: User,
  id: number,
  { documentIds, how, days }: z.output<typeof addDocuments>,
): Promise<{ outgoing: Outgoing; links: MadeLink[] } | Refusal> {
  return database.as(user.id, async (tx) => {
    const draft = await demandDraft(tx, id, null);
    if (isRefusal(draft)) return draft;
    const chosen: DocumentDetail[] = [];
    for (const documentId of new Set(documentIds)) {
      const found = await documentOf(tx, documentId);
      if (!found || found.isRemoved) return notFound('document');
      if (!found.current || found.isOver)
        return new Refusal(
          'conflict',
          'not-in-force',
          `${found.title} has no version in force. Choose another document, or ask ${found.owner}.`,
        );
      chosen.push(found);
    }
    if (how === 'files') return attachAll(tx, draft, chosen);
    const address = await linkAddressOf(tx);
    if (address === null) return NO_ADDRESS;
    const links: MadeLink[] = [];
    for (const document of chosen) links.push(await makeLink(tx, user, draft, { document, address, days }));
    return { outgoing: draft, links };
  });
}

async function attachAll(tx: Tx, draft: Outgoing, chosen: readonly DocumentDetail[]): Promise<{ outgoing: Outgoing; links: [] } | Refusal> {
  const bytes = chosen.reduce((sum, { current }) => sum + (current?.size ?? 0), 0);
  if (bytes > roomIn(draft))
    return new Refusal(
      'tooLarge',
      'too-large',
      `All files of an email may have ${MOST_FILE_BYTES / 1024 / 1024} MB together. Nothing was attached: insert links instead.`,
    );
  for (const { id, current } of chosen)
    await tx.execute(sql`INSERT INTO outgoing_files (outgoing_id, name, type, size, content)
      SELECT ${draft.id}, v.name, v.type, v.size, (SELECT string_agg(p.content, ''::bytea ORDER BY p.part) FROM document_parts p WHERE p.version_id = v.id)
      FROM document_versions v WHERE v.document_id = ${id} AND v.number = ${current?.number ?? 0}`);
  const outgoing = await changed(tx, draft.id);
  return isRefusal(outgoing) ? outgoing : { outgoing, links: [] };
}

async function makeLink(
  tx: Tx,
  user: User,
  draft: Outgoing,
  { document, address, days }: { document: DocumentDetail; address: string; days: number },
): Promise<MadeLink> {
  const token = newToken();
  await tx.execute(sql`INSERT INTO document_links (token_hash, version_id, writer_id, outgoing_id, recipients, ends_at)
    SELECT ${tokenHash(token)}, v.id, ${user.id}, ${draft.id}, ${recipientsOf(draft)}::jsonb, now() + make_interval(days => ${days})
    FROM document_versions v WHERE v.document_id = ${document.id} AND v.number = ${document.current?.number ?? 0}`);
  return { documentId: document.id, title: document.title, url: `${address}${LINK_PATH}/${token}` };
}

const recipientsOf = ({ to, cc, bcc }: Outgoing): string => JSON.stringify([...to, ...cc, ...bcc]);

/** When a draft is sent: its links are for whom it is sent to, and those that its writer took out of the text are no more. */
export async function settleLinks(tx: Tx, draft: Outgoing): Promise<void> {
  const hashes = sql.param(linkHashesIn(draft.html));
  await tx.execute(sql`DELETE FROM document_links WHERE outgoing_id = ${draft.id} AND token_hash <> ALL(${hashes}::text[])`);
  await tx.execute(sql`UPDATE document_links SET recipients = ${recipientsOf(draft)}::jsonb WHERE outgoing_id = ${draft.id}`);
}

/** To whom links went is forgotten a while after they ended; until then they say that they have. */
export async function forgetEndedLinks(db: Db): Promise<void> {
  await db.execute(sql`DELETE FROM document_links WHERE ends_at < now() - make_interval(days => ${KEPT_DAYS})`);
}

const titleRow = z.object({ title: z.string() });

/** Titles of documents to which a text has links that do not answer any more. */
export async function endedLinksIn(tx: Tx, html: string): Promise<string[]> {
  const hashes = linkHashesIn(html);
  if (hashes.length === 0) return [];
  const rows = await rowsOf(
    tx,
    titleRow,
    sql`SELECT coalesce(d.title, 'a document') AS title FROM unnest(${sql.param(hashes)}::text[]) n(hash) JOIN document_links l ON l.token_hash = n.hash LEFT JOIN document_versions v ON v.id = l.version_id LEFT JOIN documents d ON d.id = v.document_id
      WHERE NOT (SELECT o.is_open FROM fulvet_open_link(n.hash) o) ORDER BY 1`,
  );
  return rows.map(({ title }) => title);
}

const linkRow = z.object({
  id: z.number(),
  version: z.number(),
  recipients: json<DocumentLink['recipients']>(),
  created_at: moment,
  ends_at: moment,
  is_open: z.boolean(),
  is_withdrawn: z.boolean(),
});

const MOST_LINKS = 200;

async function linksWhere(tx: Tx, which: ReturnType<typeof sql>): Promise<DocumentLink[]> {
  const rows = await rowsOf(
    tx,
    linkRow,
    sql`SELECT l.id, v.number AS version, l.recipients, l.created_at, l.ends_at, coalesce((SELECT o.is_open FROM fulvet_open_link(l.token_hash) o), false) AS is_open, l.withdrawn_at IS NOT NULL AS is_withdrawn
      FROM document_links l JOIN document_versions v ON v.id = l.version_id WHERE ${which} ORDER BY l.created_at DESC, l.id DESC LIMIT ${MOST_LINKS}`,
  );
  return rows.map(({ created_at, ends_at, is_open, is_withdrawn, ...rest }) => ({
    ...rest,
    createdAt: created_at,
    endsAt: ends_at,
    isOpen: is_open,
    isWithdrawn: is_withdrawn,
  }));
}

/** Links that the acting user sent. */
export const linksOf = async (tx: Tx, documentId: number): Promise<DocumentLink[] | Refusal> =>
  (await documentOf(tx, documentId)) ? linksWhere(tx, sql`v.document_id = ${documentId}`) : notFound('document');

export function setLinkWithdrawn({ database }: Parts, user: User, id: number, isWithdrawn: boolean): Promise<DocumentLink | Refusal> {
  return database.as(user.id, async (tx) => {
    await rowsOf(
      tx,
      idRow,
      sql`UPDATE document_links SET withdrawn_at = ${isWithdrawn ? sql`coalesce(withdrawn_at, now())` : sql`NULL`} WHERE id = ${id} RETURNING id`,
    );
    const [found] = await linksWhere(tx, sql`l.id = ${id}`);
    return found ?? notFound('link');
  });
}
