import { mailboxSecrets } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { sql, eq } from 'drizzle-orm';
import { MailFailure } from '../../base/network/mailFailure';
import { SealBroken } from '../../base/secrets/keyRing';
import { mailboxBelongsTo } from '../../base/secrets/sealedFor';
import type { Services } from '../../base/services';
import type { MailServices, MailboxRow } from '../mailbox';
import type { MailTarget } from './mailConnection';
import type { Grant } from './providerSignIn';
import { refreshGrant } from './providerSignIn';

export type Secret = { password: string } | Grant;

/** A token is renewed when it has less than this left. */
const RENEW_BEFORE_MS = 60_000;

export async function putSecret(services: Pick<Services, 'database' | 'keyRing'>, mailboxId: number, secret: Secret): Promise<void> {
  const sealed = services.keyRing.seal(JSON.stringify(secret), mailboxBelongsTo(mailboxId));
  await services.database.worker.execute(
    sql`INSERT INTO mailbox_secrets (mailbox_id, sealed) VALUES (${mailboxId}, ${sealed}) ON CONFLICT (mailbox_id) DO UPDATE SET sealed = excluded.sealed, changed_at = now()`,
  );
}

const mailboxSecretRow = z.object({ sealed: z.string() });

export async function dropSecret(services: Pick<Services, 'database' | 'keyRing'>, mailboxId: number): Promise<Secret | null> {
  const rows = await rowsOf(
    services.database.worker,
    mailboxSecretRow,
    sql`DELETE FROM mailbox_secrets WHERE mailbox_id = ${mailboxId} RETURNING sealed`,
  );
  try {
    return rows[0] ? opened(services, mailboxId, rows[0].sealed) : null;
  } catch {
    return null;
  }
}

/**
 * Everything needed to connect. A token that runs out is renewed first; processes do that one after the other.
 *
 * @param renew renew the token in any case, since the server refused it
 * @throws {MailFailure}
 */
export async function targetOf(services: MailServices, mailbox: Pick<MailboxRow, 'id' | 'connection'>, renew = false): Promise<MailTarget> {
  const { connection } = mailbox;
  if (!connection) throw new MailFailure('sign-in-refused', 'The mailbox has no server yet.');
  const preset = services.presets.get(connection.preset);
  const secret = await services.database.work(async (tx) => {
    const rows = await rowsOf(tx, mailboxSecretRow, sql`SELECT sealed FROM mailbox_secrets WHERE mailbox_id = ${mailbox.id} FOR UPDATE`);
    if (!rows[0]) throw new MailFailure('sign-in-refused', 'No password or permission is stored.');
    const known = opened(services, mailbox.id, rows[0].sealed);
    if ('password' in known || (!renew && known.expiresAt - Date.now() > RENEW_BEFORE_MS)) return known;
    const fresh = await refreshGrant(preset, known.refreshToken);
    const sealed = services.keyRing.seal(JSON.stringify(fresh), mailboxBelongsTo(mailbox.id));
    await tx
      .update(mailboxSecrets)
      .set({ sealed, changedAt: sql`now()` })
      .where(eq(mailboxSecrets.mailboxId, mailbox.id));
    return fresh;
  });
  return {
    imap: connection.imap,
    smtp: connection.smtp,
    userName: connection.userName,
    secret: 'password' in secret ? { password: secret.password } : { accessToken: secret.accessToken },
    trust: preset.trust,
  };
}

function opened(services: Pick<Services, 'keyRing'>, mailboxId: number, sealed: string): Secret {
  try {
    return JSON.parse(services.keyRing.open(sealed, mailboxBelongsTo(mailboxId))) as Secret;
  } catch (error) {
    if (error instanceof SealBroken) throw new MailFailure('secret-unreadable');
    throw error;
  }
}
