import { sql } from 'drizzle-orm';
import { createHmac } from 'node:crypto';
import type { Db } from '../../base/db/database';

const HOUR_MS = 3_600_000;
/** Addresses that a process remembers to have noted; then it notes them again. */
const MOST_REMEMBERED = 10_000;

/**
 * From where members worked in the last thirty days, as keyed hashes of IP addresses: who opens an email from there is a colleague, or its writer. The machine
 * itself says nothing about who asks.
 */
export class MemberNetworks {
  private readonly noted = new Map<string, number>();
  private readonly key: Buffer;

  constructor(
    private readonly db: Db,
    secret: string,
  ) {
    this.key = createHmac('sha256', secret).update('networks of members').digest();
  }

  /** Notes that a member asked from there; at most once an hour. */
  async note(ip: string | undefined): Promise<void> {
    const hash = this.hashOf(ip);
    if (hash === null || (this.noted.get(hash) ?? 0) > Date.now() - HOUR_MS) return;
    if (this.noted.size >= MOST_REMEMBERED) this.noted.clear();
    this.noted.set(hash, Date.now());
    await this.db.execute(
      sql`INSERT INTO member_networks (address_hash) VALUES (${hash}) ON CONFLICT (address_hash) DO UPDATE SET seen_at = now()`,
    );
  }

  async has(ip: string | undefined): Promise<boolean> {
    const hash = this.hashOf(ip);
    if (hash === null) return false;
    const { rowCount } = await this.db.execute(
      sql`SELECT FROM member_networks n WHERE n.address_hash = ${hash} AND n.seen_at > now() - interval '30 days'`,
    );
    return (rowCount ?? 0) > 0;
  }

  /** @returns null for the machine itself */
  private hashOf(ip: string | undefined): string | null {
    const address = plainAddress(ip);
    return address === '' || address === '::1' || address.startsWith('127.')
      ? null
      : createHmac('sha256', this.key).update(address).digest('hex');
  }
}

/** An IPv4 address in the form of IPv6 (RFC 4291, 2.5.5.2) is that IPv4 address. */
export const plainAddress = (ip: string | undefined): string => (ip ?? '').replace(/^::ffff:(?=\d+\.)/i, '');
