import { sql } from 'drizzle-orm';
import type { Request } from 'express';
import { BlockList, isIP } from 'node:net';
import { z } from 'zod';
import { visitClass } from '@fulvet/core';
import type { VisitKind } from '@fulvet/core';
import type { Db } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import type { Services } from '../../base/services';
import { tokenHash } from '../documents/links';
import { plainAddress } from './memberNetworks';
import type { MemberNetworks } from './memberNetworks';

/** More visits of an email are not kept: no person makes so many. */
const MOST_VISITS = 200;
const TOKEN = /^[\w-]{43}$/;

const linkRow = z.object({
  id: z.number(),
  url: z.string(),
  measure_id: z.number().nullable(),
  seconds: z.number().nullable(),
  own_ranges: z.array(z.string()),
  is_on: z.boolean(),
});

/** Visits that a process notes at the same time; more are not counted, so that no one fills its memory by asking. */
const MOST_AT_ONCE = 40;
let underWay = 0;

/** Notes a visit beside the answer to it. */
export function visitBeside(
  { database, log }: Pick<Services, 'database' | 'log'>,
  networks: MemberNetworks,
  kind: VisitKind,
  token: string,
  req: Request,
): void {
  if (underWay >= MOST_AT_ONCE) return;
  underWay += 1;
  visit(database.worker, networks, kind, token, req)
    .catch((error: unknown) => log.error({ err: error }, 'a visit'))
    .finally(() => (underWay -= 1));
}

/**
 * Notes that something of a measured email was asked for, and by what kind of thing.
 *
 * @returns where a link leads; null: there is no such token
 */
export async function visit(db: Db, networks: MemberNetworks, kind: VisitKind, token: string, req: Request): Promise<string | null> {
  const [link] = TOKEN.test(token)
    ? await rowsOf(
        db,
        linkRow,
        sql`SELECT l.id, l.url, l.measure_id, extract(epoch FROM now() - coalesce(m.sent_at, o.sent_at))::float8 AS seconds, ARRAY(SELECT jsonb_array_elements_text(w.measuring -> 'ownRanges')) AS own_ranges, (w.measuring ->> 'isOn')::boolean AS is_on
          FROM workspace w, measured_links l LEFT JOIN measures m ON m.id = l.measure_id LEFT JOIN outgoing o ON o.id = m.outgoing_id WHERE l.token_hash = ${tokenHash(token)} AND l.kind = ${kind}`,
      )
    : [];
  if (!link) return null;
  // Switched off, nothing is counted of what was sent before, either.
  if (link.measure_id === null || !link.is_on) return link.url;
  const isOwn = hasSession(req) || isIn(link.own_ranges, req.ip) || (await networks.has(req.ip));
  const by = visitClass({
    method: req.method,
    userAgent: req.get('user-agent') ?? '',
    purpose: ['sec-purpose', 'purpose', 'x-purpose', 'x-moz'].map((name) => req.get(name) ?? '').join(' '),
    isOwn,
    secondsSinceSent: link.seconds,
  });
  await db.execute(
    sql`INSERT INTO visits (measure_id, link_id, class) SELECT m.id, ${link.id}, ${by} FROM measures m WHERE m.id = ${link.measure_id} AND (SELECT count(*) FROM visits v WHERE v.measure_id = m.id) < ${MOST_VISITS}`,
  );
  return link.url;
}

/** From a browser in which someone is signed in: whoever claims that without being it is not counted, which harms no one. */
const hasSession = (req: Request): boolean => /(?:^|;\s*)fulvet\.session=/.test(req.get('cookie') ?? '');

/** @param ranges as `192.0.2.0/24`, or a single address */
function isIn(ranges: readonly string[], ip: string | undefined): boolean {
  const address = plainAddress(ip);
  const family = isIP(address);
  if (family === 0 || ranges.length === 0) return false;
  const listed = new BlockList();
  for (const range of ranges) {
    const [network = '', bits] = range.split('/');
    const kind = isIP(network) === 6 ? 'ipv6' : 'ipv4';
    if (bits === undefined) listed.addAddress(network, kind);
    else listed.addSubnet(network, Number(bits), kind);
  }
  return listed.check(address, family === 6 ? 'ipv6' : 'ipv4');
}
