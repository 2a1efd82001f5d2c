import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { documentContent, DocumentDetail, User } from '@fulvet/contract';
import { MOST_DOCUMENT_BYTES } from '@fulvet/contract';
import { writeDown } from '../../base/audit';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import type { Spooled } from '../../base/files/spool';
import { piecesOf, spool } from '../../base/files/spool';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { demandChangeable } from '../demandChangeable';
import { demandShareable } from '../demandShareable';
import type { FileToAttach } from '../drafts';
import { fileName } from '../drafts';
import { documentOf } from './queries';

type Parts = Pick<Services, 'database'>;
type Content = z.output<typeof documentContent>;

const MOST_DOCUMENTS = 500;
const MOST_VERSIONS = 100;
const MB = 1024 * 1024;
/** Bytes of all versions of the documents of one member. */
const MOST_BYTES = 1024 * MB;
const PART_BYTES = 256 * 1024;

const countRow = z.object({ count: z.number() });
const sizeRow = z.object({ bytes: z.number() });

const TOO_LARGE = new Refusal(
  'tooLarge',
  'too-large',
  `A document may have ${MOST_DOCUMENT_BYTES / MB} MB, as much as an email carries. Nothing was added.`,
);
const EMPTY = new Refusal('unfit', 'empty-file', 'This file is empty. Choose another one.');

export function createDocument({ database }: Parts, user: User, content: Content): Promise<DocumentDetail | Refusal> {
  return database.as(user.id, async (tx) => {
    const refused = await demandShareable(tx, user, content, 'documents');
    if (refused) return refused;
    const [many] = await rowsOf(
      tx,
      countRow,
      sql`SELECT count(*)::int AS count FROM documents WHERE owner_id = ${user.id} AND removed_at IS NULL`,
    );
    if ((many?.count ?? 0) >= MOST_DOCUMENTS)
      return new Refusal('conflict', 'too-many', `You have ${MOST_DOCUMENTS} documents. Remove some of them first.`);
    const [made] = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO documents (owner_id, scope, team_id, topic, title, language, valid_until)
        VALUES (${user.id}, ${content.scope}, ${teamOf(content)}, ${content.topic}, ${content.title}, ${content.language}, ${content.validUntil}) RETURNING id`,
    );
    await noteSharing(tx, user, content);
    return (await documentOf(tx, made?.id ?? 0)) ?? notFound('document');
  });
}

const teamOf = ({ scope, teamId }: Content): number | null => (scope === 'team' ? teamId : null);

export function saveDocument(
  { database }: Parts,
  user: User,
  id: number,
  { revision, ...content }: Content & { revision: number },
): Promise<DocumentDetail | Refusal> {
  return database.as(user.id, async (tx) => {
    const found = await demandMine(tx, id, revision);
    if (isRefusal(found)) return found;
    const refused = await demandShareable(tx, user, content, 'documents');
    if (refused) return refused;
    await tx.execute(sql`UPDATE documents SET scope = ${content.scope}, team_id = ${teamOf(content)}, topic = ${content.topic}, title = ${content.title}, language = ${content.language},
      valid_until = ${content.validUntil}, revision = revision + 1, changed_at = clock_timestamp() WHERE id = ${id}`);
    if (content.scope !== found.scope) await noteSharing(tx, user, content);
    return (await documentOf(tx, id)) ?? notFound('document');
  });
}

async function noteSharing(tx: Tx, user: User, { scope, title }: Content): Promise<void> {
  if (scope === 'own') return;
  await writeDown(tx, user, { kind: 'settings', about: `shared the document ${title} with ${scope === 'all' ? 'everyone' : 'a team'}` });
}

async function demandMine(tx: Tx, id: number, revision: number | null = null): Promise<DocumentDetail | Refusal> {
  await tx.execute(sql`SELECT FROM documents WHERE id = ${id} FOR UPDATE`);
  const found = await documentOf(tx, id);
  return found ? demandChangeable(found, 'document', revision) : notFound('document');
}

/** Removes a document, so that its links end, or brings it back. */
export function setRemoved({ database }: Parts, user: User, id: number, isRemoved: boolean): Promise<DocumentDetail | Refusal> {
  return changeMine({ database }, user, id, async (tx, { title }) => {
    await tx.execute(sql`UPDATE documents SET removed_at = ${isRemoved ? sql`now()` : sql`NULL`} WHERE id = ${id}`);
    return `${isRemoved ? 'removed' : 'restored'} the document ${title}`;
  });
}

/** Withdraws a version, so that its links end at once, or allows it again. */
export function setVersionWithdrawn(
  { database }: Parts,
  user: User,
  { id, number }: { id: number; number: number },
  isWithdrawn: boolean,
): Promise<DocumentDetail | Refusal> {
  return changeMine({ database }, user, id, async (tx, { title }) => {
    const { rowCount } = await tx.execute(
      sql`UPDATE document_versions SET withdrawn_at = ${isWithdrawn ? sql`coalesce(withdrawn_at, now())` : sql`NULL`} WHERE document_id = ${id} AND number = ${number}`,
    );
    return rowCount === 0
      ? notFound('version')
      : `${isWithdrawn ? 'withdrew' : 'allowed again'} version ${number} of the document ${title}`;
  });
}

/** @param change what is done, and what the log says of it */
function changeMine(
  { database }: Parts,
  user: User,
  id: number,
  change: (tx: Tx, found: DocumentDetail) => Promise<string | Refusal>,
): Promise<DocumentDetail | Refusal> {
  return database.as(user.id, async (tx) => {
    const found = await demandMine(tx, id);
    if (isRefusal(found)) return found;
    const about = await change(tx, found);
    if (isRefusal(about)) return about;
    if (found.scope !== 'own') await writeDown(tx, user, { kind: 'settings', about });
    return (await documentOf(tx, id)) ?? notFound('document');
  });
}

/** Adds a version. It is written to disk first, and stored part by part: neither its size nor a slow sender holds anything up. */
export async function addVersion(services: Services, user: User, id: number, file: FileToAttach): Promise<DocumentDetail | Refusal> {
  const mine = await services.database.as(user.id, (tx) => demandMine(tx, id));
  if (isRefusal(mine)) return mine;
  if (file.saidBytes > MOST_DOCUMENT_BYTES) return TOO_LARGE;
  const spooled = await spool(services.uploads, file.bytes, MOST_DOCUMENT_BYTES);
  if (!spooled) return TOO_LARGE;
  try {
    if (spooled.size === 0) return EMPTY;
    return await services.database.as(user.id, async (tx) => {
      const found = await demandMine(tx, id);
      if (isRefusal(found)) return found;
      const refused = await demandRoom(tx, found, spooled.size);
      if (refused) return refused;
      await storeVersion(tx, user, found, file, spooled);
      return (await documentOf(tx, id)) ?? notFound('document');
    });
  } finally {
    await spooled.remove();
  }
}

async function demandRoom(tx: Tx, { id, versions }: DocumentDetail, size: number): Promise<Refusal | null> {
  if (versions.length >= MOST_VERSIONS)
    return new Refusal('conflict', 'too-many', `This document has ${MOST_VERSIONS} versions. Add a new document.`);
  const [kept] = await rowsOf(
    tx,
    sizeRow,
    sql`SELECT coalesce(sum(v.size), 0)::float8 AS bytes FROM document_versions v JOIN documents d ON d.id = v.document_id WHERE d.owner_id = (SELECT owner_id FROM documents WHERE id = ${id})`,
  );
  return (kept?.bytes ?? 0) + size > MOST_BYTES
    ? new Refusal('tooLarge', 'too-large', `The documents of a member may have ${MOST_BYTES / MB} MB together. Nothing was added.`)
    : null;
}

async function storeVersion(tx: Tx, user: User, { id, versions }: DocumentDetail, file: FileToAttach, spooled: Spooled): Promise<void> {
  const number = Math.max(0, ...versions.map((version) => version.number)) + 1;
  const [made] = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO document_versions (document_id, number, name, type, size, added_by) VALUES (${id}, ${number}, ${fileName(file.name)}, ${file.type}, ${spooled.size}, ${user.id}) RETURNING id`,
  );
  let part = 0;
  for await (const piece of piecesOf(spooled, PART_BYTES)) {
    await tx.execute(sql`INSERT INTO document_parts (version_id, part, content) VALUES (${made?.id ?? 0}, ${part}, ${piece})`);
    part += 1;
  }
  await tx.execute(sql`UPDATE documents SET changed_at = clock_timestamp() WHERE id = ${id}`);
}
