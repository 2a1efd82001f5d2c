import { sql } from 'drizzle-orm';
import { linksToMeasure, measuredHtml } from '@fulvet/core';
import type { Db } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { asParagraphs, unescapedText } from '../cleanHtml';
import { LINK_PATH, linkHashesIn, newToken, tokenHash } from '../documents/links';
import type { MayMeasure } from './whyNotMeasured';

/** Where the picture of an email lies, below the address of the installation. */
export const OPENED_PATH = '/o';
/** Where its links lead first. */
export const CLICKED_PATH = '/c';

/** What stands in a measured email instead of what its writer wrote. */
export interface MeasuredText {
  /** With links that lead by way of the installation. */
  html: string;
  /** The picture, for the end of the email. */
  picture: string;
}

/** What its recipient is told. It stands in the copy that its writer keeps, too. */
export const noticeBelow = ({ notice }: MayMeasure): string => asParagraphs(notice);

interface MeasuredEmail {
  id: number;
  writer_id: number;
  to: readonly { address: string }[];
  cc: readonly { address: string }[];
  bcc: readonly { address: string }[];
  html: string;
}

/** Has an email's openings counted: makes a random token for its picture and for each of its links, of which the hashes are kept. */
export async function measured(db: Db, email: MeasuredEmail, { address }: MayMeasure): Promise<MeasuredText> {
  const [recipient] = [...email.to, ...email.cc, ...email.bcc];
  // Made anew where a process died before the message was kept: no one has the tokens of before.
  await db.execute(
    sql`DELETE FROM measured_links WHERE measure_id IN (SELECT m.id FROM measures m WHERE m.outgoing_id = ${email.id} AND m.sent_at IS NULL)`,
  );
  await db.execute(sql`DELETE FROM measures WHERE outgoing_id = ${email.id} AND sent_at IS NULL`);
  const [made] = await rowsOf(
    db,
    idRow,
    sql`INSERT INTO measures (writer_id, outgoing_id, address) VALUES (${email.writer_id}, ${email.id}, ${recipient?.address.toLowerCase() ?? ''}) RETURNING id`,
  );
  const link = async (kind: string, hash: string, url: string): Promise<void> => {
    await db.execute(
      sql`INSERT INTO measured_links (token_hash, measure_id, kind, url) VALUES (${hash}, ${made?.id ?? 0}, ${kind}, ${url}) ON CONFLICT (token_hash) DO NOTHING`,
    );
  };
  const instead = new Map<string, string>();
  for (const url of linksToMeasure(email.html)) {
    const plain = unescapedText(url);
    if (plain.startsWith(`${address}/`)) continue;
    const token = newToken();
    await link('clicked', tokenHash(token), plain);
    instead.set(url, `${address}${CLICKED_PATH}/${token}`);
  }
  // Links to documents count by themselves, under the tokens that they have.
  for (const hash of email.html.includes(`${address}${LINK_PATH}/`) ? linkHashesIn(email.html) : []) await link('document', hash, '');
  const token = newToken();
  await link('opened', tokenHash(token), '');
  return {
    html: measuredHtml(email.html, (url) => instead.get(url) ?? null),
    picture: `<img src="${address}${OPENED_PATH}/${token}" width="1" height="1" alt="">`,
  };
}

/** So long a link of an email leads on. */
const LINKS_DAYS = 730;

/** What was counted is forgotten after the days that the workspace chose; links lead on without it. */
export async function forgetMeasures(db: Db): Promise<void> {
  await db.execute(
    sql`DELETE FROM measures WHERE created_at < now() - make_interval(days => (SELECT (w.measuring ->> 'keepDays')::int FROM workspace w))`,
  );
  await db.execute(sql`DELETE FROM measured_links WHERE created_at < now() - make_interval(days => ${LINKS_DAYS})`);
  await db.execute(sql`DELETE FROM member_networks WHERE seen_at < now() - interval '30 days'`);
}
