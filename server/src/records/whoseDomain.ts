import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';

/** An account by which a domain is known. */
export interface DomainOwner {
  id: number;
  name: string;
}

/**
 * The accounts whose domain this is, or whose domain it lies under, as a JSON list by name: those of the closest domain, all of them where several
 * share it. Only of accounts that the reader sees. The domain and those above it are looked up, instead of comparing every account's domain.
 */
export function whoseDomain(domain: SQL): SQL {
  return sql`coalesce((SELECT json_agg(json_build_object('id', its_owner.id, 'name', its_owner.name) ORDER BY its_owner.name, its_owner.id)
    FROM account_domains known JOIN accounts its_owner ON its_owner.id = known.account_id
    WHERE known.domain = (SELECT near.domain FROM account_domains near JOIN accounts seen ON seen.id = near.account_id
      WHERE near.domain = ANY (ARRAY(SELECT array_to_string((string_to_array(${domain}, '.'))[label:], '.') FROM generate_series(1, cardinality(string_to_array(${domain}, '.'))) label)) ORDER BY length(near.domain) DESC LIMIT 1)), '[]')`;
}
