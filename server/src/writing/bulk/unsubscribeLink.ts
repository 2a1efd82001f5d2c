import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../../base/db/database';
import { newToken, tokenHash } from '../documents/links';

/** Where recipients unsubscribe, below the address of the installation. */
export const UNSUBSCRIBE_PATH = '/u';

/** So long such a link answers. */
const KEPT_DAYS = 730;

/** What stands under an email to many, by the language of its text. */
const WORDS: Readonly<Record<string, string>> = {
  en: 'Unsubscribe',
  de: 'Abmelden',
  fr: 'Se désabonner',
  es: 'Darse de baja',
  it: 'Annulla iscrizione',
  nl: 'Afmelden',
};

/** A link by which this address unsubscribes. @param address with which links of the installation begin */
export async function makeUnsubscribeLink(db: Db | Tx, base: string, address: string): Promise<string> {
  const token = newToken();
  await db.execute(sql`INSERT INTO unsubscribe_links (token_hash, address) VALUES (${tokenHash(token)}, ${address})`);
  return `${base}${UNSUBSCRIBE_PATH}/${token}`;
}

/** The last line of an email to many. */
export const unsubscribeLine = (url: string, language: string): string =>
  `<p><a href="${url}">${WORDS[language.slice(0, 2).toLowerCase()] ?? WORDS.en ?? ''}</a></p>`;

/** Unsubscribes whom a token is for. @returns whether there is such a token */
export async function unsubscribe(db: Db, token: string): Promise<boolean> {
  const { rowCount } = await db.execute(sql`
    WITH link AS (SELECT l.address FROM unsubscribe_links l WHERE l.token_hash = ${tokenHash(token)}),
    done AS (INSERT INTO unsubscribes (address) SELECT address FROM link ON CONFLICT (address) DO NOTHING)
    SELECT FROM link`);
  return (rowCount ?? 0) > 0;
}

/** @returns whether there is such a token */
export async function isUnsubscribeToken(db: Db, token: string): Promise<boolean> {
  const { rowCount } = await db.execute(sql`SELECT FROM unsubscribe_links l WHERE l.token_hash = ${tokenHash(token)}`);
  return (rowCount ?? 0) > 0;
}

export async function forgetOldUnsubscribeLinks(db: Db): Promise<void> {
  await db.execute(sql`DELETE FROM unsubscribe_links WHERE created_at < now() - make_interval(days => ${KEPT_DAYS})`);
}
