import { ImapFlow } from 'imapflow';
import { createTransport } from 'nodemailer';
import type { Transporter } from 'nodemailer';
import { failureOf } from '../../base/network/mailFailure';
import type { Endpoint, Network } from '../../base/network/network';

/** Everything that is needed to reach a mailbox. */
export interface MailTarget {
  imap: Endpoint;
  smtp: Endpoint;
  userName: string;
  secret: { password: string } | { accessToken: string };
  /** A certificate to trust beside the public ones, PEM. */
  trust: string | undefined;
}

const CONNECT_MS = 15_000;
const GREETING_MS = 10_000;
/** Without a byte for so long a connection counts as dead. IDLE is renewed well before. */
const SOCKET_MS = 5 * 60_000;
const RENEW_IDLE_MS = 4 * 60_000;

/**
 * Opens an IMAP connection and signs in.
 *
 * @throws {MailFailure}
 */
export async function openImap(network: Network, target: MailTarget): Promise<ImapFlow> {
  const { imap } = target;
  const address = await network.addressOf(imap);
  const client = new ImapFlow({
    host: address,
    servername: imap.host,
    port: imap.port,
    secure: imap.security === 'tls',
    // Never in the open: where STARTTLS is not offered, connecting fails.
    ...(imap.security === 'starttls' ? { doSTARTTLS: true } : {}),
    auth:
      'password' in target.secret
        ? { user: target.userName, pass: target.secret.password }
        : { user: target.userName, accessToken: target.secret.accessToken },
    tls: { rejectUnauthorized: true, minVersion: 'TLSv1.2', ...(target.trust ? { ca: [target.trust] } : {}) },
    clientInfo: { name: 'Fulvet' },
    disableAutoIdle: true,
    maxIdleTime: RENEW_IDLE_MS,
    connectionTimeout: CONNECT_MS,
    greetingTimeout: GREETING_MS,
    socketTimeout: SOCKET_MS,
    logger: false,
  });
  // What breaks between commands is found by the next one; without a listener it would end the process.
  client.on('error', () => undefined);
  try {
    await client.connect();
    return client;
  } catch (error) {
    client.close();
    throw failureOf(error, farewellOf(client));
  }
}

/** What the server said before it closed the connection; the library keeps it without telling of it in its types. */
export function farewellOf(client: ImapFlow): string {
  const reason = 'byeReason' in client ? client.byeReason : '';
  return typeof reason === 'string' ? reason : '';
}

/**
 * How a server for submission is reached, always encrypted.
 *
 * @throws {MailFailure} when the server's name does not lead anywhere allowed
 */
export async function smtpOptions(network: Network, { smtp, trust }: MailTarget) {
  return {
    host: await network.addressOf(smtp),
    port: smtp.port,
    secure: smtp.security === 'tls',
    requireTLS: true,
    tls: { servername: smtp.host, rejectUnauthorized: true, minVersion: 'TLSv1.2' as const, ...(trust ? { ca: [trust] } : {}) },
    connectionTimeout: CONNECT_MS,
    greetingTimeout: GREETING_MS,
    socketTimeout: 60_000,
  };
}

/**
 * Makes a transport for submission.
 *
 * @throws {MailFailure} when the server's name does not lead anywhere allowed
 */
export async function openSmtp(network: Network, target: MailTarget): Promise<Transporter> {
  return createTransport({
    ...(await smtpOptions(network, target)),
    auth:
      'password' in target.secret
        ? { user: target.userName, pass: target.secret.password }
        : { type: 'OAuth2', user: target.userName, accessToken: target.secret.accessToken },
    disableFileAccess: true,
    disableUrlAccess: true,
  });
}
