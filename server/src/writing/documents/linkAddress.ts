import { sql } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import type { linkAddress, User } from '@fulvet/contract';
import { writeDown } from '../../base/audit';
import { json, rowsOf } from '../../base/db/rows';
import { guardedFetch } from '../../base/network/guardedFetch';
import { MailFailure } from '../../base/network/mailFailure';
import { Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { LINK_PATH } from './links';

const CHECK_MS = 8_000;

/**
 * Sets the address with which links begin. It is asked for a word that this installation alone knows; what leads elsewhere is refused, since recipients would
 * follow the links to someone else.
 */
export async function setLinkAddress(
  services: Services,
  user: User,
  { address, unchecked }: z.output<typeof linkAddress>,
): Promise<{ address: string | null; answers: boolean } | Refusal> {
  const kept = address?.replace(/\/+$/, '') ?? null;
  const problem = kept === null ? null : await problemOf(services, kept);
  if (problem !== null && !unchecked)
    return new Refusal('unfit', 'does-not-answer', `${problem} The address was not kept.`, { address: 'does not lead here' });
  await services.database.as(user.id, async (tx) => {
    await tx.execute(sql`UPDATE workspace SET link_address = ${kept}`);
    const about = kept === null ? 'no links to documents are made any more' : `links to documents begin with ${kept}`;
    await writeDown(tx, user, { kind: 'settings', about: problem === null ? about : `${about}, which did not answer when it was set` });
  });
  return { address: kept, answers: kept !== null && problem === null };
}

/** Why an address does not lead to this installation, as a sentence; null: it does. */
async function problemOf({ database, network }: Services, address: string): Promise<string | null> {
  const proof = { asked: randomBytes(24).toString('base64url'), answer: randomBytes(24).toString('base64url') };
  await database.worker.execute(sql`UPDATE workspace SET link_proof = ${JSON.stringify(proof)}::jsonb`);
  try {
    const response = await guardedFetch(network)(`${address}${LINK_PATH}/proof/${proof.asked}`, {
      method: 'GET',
      headers: {},
      signal: AbortSignal.timeout(CHECK_MS),
    });
    return (await response.text()).trim() === proof.answer
      ? null
      : `${address} answers, but it is not this installation of Fulvet. Check the address, and where the proxy leads.`;
  } catch (error) {
    if (error instanceof MailFailure && error.code === 'host-refused')
      return `${address} is an address of a private network, which recipients do not reach.`;
    if (error instanceof MailFailure) return `The name in ${address} is not known.`;
    return `${address} does not answer within ${CHECK_MS / 1000} seconds.`;
  } finally {
    await database.worker.execute(sql`UPDATE workspace SET link_proof = NULL`);
  }
}

const proofRow = z.object({ proof: json<{ asked: string; answer: string }>().nullable() });

/** What is answered to the check of an address that is under way; null: nothing like that is. */
export async function proofFor({ database }: Pick<Services, 'database'>, asked: string): Promise<string | null> {
  const [row] = await rowsOf(database.worker, proofRow, sql`SELECT link_proof AS proof FROM workspace`);
  return row?.proof && row.proof.asked === asked ? row.proof.answer : null;
}
