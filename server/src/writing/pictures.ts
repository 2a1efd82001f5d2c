import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { User } from '@fulvet/contract';
import { rowsOf } from '../base/db/rows';
import { notFound, Refusal } from '../base/refusal';
import type { Services } from '../base/services';

/** How a draft names the files of its own that stand in its text as pictures: by where its writer sees them. */
const placeOf = (outgoingId: number, file: number | string): string => `/api/v1/outgoing/${outgoingId}/files/${file}`;

/** Whether a text may name a picture so: only its own files. */
export const isOwnPicture = (outgoingId: number, source: string): boolean =>
  new RegExp(`^${placeOf(outgoingId, '\\d{1,15}')}$`).test(source);

/** The first bytes of pictures that every mail program shows. */
const KINDS: readonly { type: string; begins: RegExp }[] = [
  { type: 'image/png', begins: /^\x89PNG\r\n\x1a\n/ },
  { type: 'image/jpeg', begins: /^\xff\xd8\xff/ },
  { type: 'image/gif', begins: /^GIF8[79]a/ },
  { type: 'image/webp', begins: /^RIFF.{4}WEBP/s },
];

/** What kind of picture bytes are, whatever they are said to be; null: none that is shown. */
export const pictureType = (bytes: Uint8Array): string | null =>
  KINDS.find(({ begins }) => begins.test(Buffer.from(bytes.subarray(0, 16)).toString('latin1')))?.type ?? null;

export const NOT_A_PICTURE = new Refusal(
  'unfit',
  'not-a-picture',
  'A picture in the text is a PNG, JPEG, GIF or WebP file. Attach this file instead.',
);

const fileRow = z.object({ name: z.string(), type: z.string(), content: z.instanceof(Buffer) });

/** A picture of a draft, for its writer. */
export async function pictureOf(
  { database }: Pick<Services, 'database'>,
  user: User,
  id: number,
  file: number,
): Promise<z.infer<typeof fileRow> | Refusal> {
  const [row] = await database.as(user.id, (tx) =>
    rowsOf(
      tx,
      fileRow,
      sql`SELECT f.name, f.type, f.content FROM outgoing_files f JOIN outgoing o ON o.id = f.outgoing_id WHERE f.id = ${file} AND o.id = ${id} AND f.inline`,
    ),
  );
  return row ?? notFound('picture');
}

interface StoredFile {
  id: number;
  name: string;
  type: string;
  content: Buffer;
  inline: boolean;
}

export interface FileOfMessage {
  name: string;
  type: string;
  content: Buffer;
  /** By which the text names it (RFC 2392); left out: it stands beside the text. */
  contentId?: string;
}

const PICTURE = /(<img\b[^>]*\ssrc=")([^"]*)("[^>]*>)/g;

/**
 * The text and the files of an email as they are sent: pictures are named by a Content-ID, those that the text does not show any more are left out.
 *
 * @param messageId of which Content-IDs are made, so that they are of this email alone
 */
export function withPictures(
  outgoingId: number,
  html: string,
  files: readonly StoredFile[],
  messageId: string,
): { html: string; files: FileOfMessage[] } {
  const shown = new Set<number>();
  const text = html.replace(PICTURE, (_whole, before: string, source: string, after: string) => {
    const file = files.find((it) => it.inline && placeOf(outgoingId, it.id) === source);
    if (!file) return '';
    shown.add(file.id);
    return `${before}cid:${contentId(file.id, messageId)}${after}`;
  });
  return {
    html: text,
    files: files
      .filter((file) => !file.inline || shown.has(file.id))
      .map(({ id, name, type, content, inline }) => ({ name, type, content, ...(inline ? { contentId: contentId(id, messageId) } : {}) })),
  };
}

const contentId = (file: number, messageId: string): string => `picture-${file}.${messageId}`;
