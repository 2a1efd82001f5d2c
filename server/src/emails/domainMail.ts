import { domainToAscii, registrableDomain } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';

/**
 * The mail with a domain and those under it, as a query of `email_id, conversation_id, sent_at, direction, mail_class`. Under what is no domain of
 * someone, such as a whole country's, no domains are looked for.
 */
export function domainMail(domain: string): SQL {
  const ascii = domainToAscii(domain) || domain.toLowerCase();
  return sql`SELECT * FROM fulvet_domain_mail(${ascii}, ${registrableDomain(ascii) !== null})`;
}
