import { emails as emailsTable } from '../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { TeamAddress } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { domainOf } from '@fulvet/core';
import { sql, eq, and } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import type { Tx } from '../base/db/database';
import { personKeyInSql } from '../base/db/personKey';
import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { mailboxKey } from './mailboxKey';

const teamAddressRow = z.object({
  address: z.string(),
  mailbox: z.string(),
  owner: z.string(),
  isOurs: z.boolean(),
  emails: z.number(),
  records: z.number(),
});

/** Addresses of mailboxes that no own domain covers, with what depends on them. */
async function outsideAddresses(tx: Tx, rulebook: CompiledRulebook): Promise<TeamAddress[]> {
  const rows = await rowsOf(
    tx,
    teamAddressRow,
    sql`
    SELECT a.address, m.address AS mailbox, u.name AS owner, EXISTS (SELECT FROM team_addresses t WHERE t.address = a.address) AS "isOurs",
      (SELECT count(DISTINCT p.email_id)::int FROM participants p WHERE ${personKeyInSql(rulebook, sql`p.address`)} = a.address) AS emails,
      (SELECT count(*)::int FROM person_addresses x WHERE x.address = a.address) AS records
    FROM mailboxes m JOIN users u ON u.id = m.owner_id, LATERAL (SELECT m.address UNION SELECT unnest(m.aliases)) AS a(address)
    WHERE NOT EXISTS (SELECT FROM users o WHERE lower(o.email) = a.address) ORDER BY 1, 2`,
  );
  return rows.filter((row) => !rulebook.isOurs('', domainOf(row.address)));
}

export const teamAddressRoutes: Pick<Handlers, 'listTeamAddresses' | 'setTeamAddress'> = {
  listTeamAddresses: async ({ services }) => {
    const { compiled } = await liveRulebook(services.database);
    return { addresses: await services.database.work((tx) => outsideAddresses(tx, compiled)) };
  },

  setTeamAddress: async ({ user, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const address = mailboxKey(body.address);
    const addresses = await services.database.work(async (tx) => {
      const known = await outsideAddresses(tx, compiled);
      if (!known.some((item) => item.address === address)) return notFound('address of a mailbox outside our own domains');
      await tx.execute(
        body.isOurs
          ? sql`INSERT INTO team_addresses (address, confirmed_by) VALUES (${address}, ${user.id}) ON CONFLICT DO NOTHING`
          : sql`DELETE FROM team_addresses WHERE address = ${address}`,
      );
      await writeDown(tx, user, {
        kind: 'settings',
        about: `${body.isOurs ? 'confirmed' : 'took back'} that an address outside our own domains belongs to us`,
      });
      // Internal mail names no one any more: all of it is looked at again in its sources.
      if (!body.isOurs)
        await tx
          .update(emailsTable)
          .set({ decidedAt: null })
          .where(and(eq(emailsTable.outcome, 'kept out'), eq(emailsTable.direction, 'internal')));
      return outsideAddresses(tx, compiled);
    });
    if (isRefusal(addresses)) return addresses;
    if (body.isOurs) await services.jobs.decideConcerned({ addresses: [address], domains: [] });
    else await services.jobs.decidePending();
    return { addresses };
  },
};
