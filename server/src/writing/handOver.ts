import SMTPConnection from 'nodemailer/lib/smtp-connection';
import XOAuth2 from 'nodemailer/lib/xoauth2';
import { Readable } from 'node:stream';
import type { Network } from '../base/network/network';
import type { MailTarget } from '../mailboxes/connect/mailConnection';
import { smtpOptions } from '../mailboxes/connect/mailConnection';

/** A message with those who are to get it. */
export interface Envelope {
  from: string;
  to: readonly string[];
  /** Without blind copies. */
  source: Uint8Array;
}

/** What became of a message at the mail server. */
export type HandedOver =
  | { how: 'taken'; response: string; refusedFor: { address: string; said: string }[] }
  /** The server will not take it; nothing was sent. */
  | { how: 'refused'; said: string }
  /** Nothing was sent, and it may be tried again. */
  | { how: 'not now'; said: string }
  /** The connection ended before the server answered to the message: it may have been sent. */
  | { how: 'unclear'; said: string };

/**
 * Hands a message over to the mail server (RFC 5321, 6409).
 *
 * @param onContent called, and waited for, before the first byte of the message goes out: until then nothing can have been sent
 */
export async function handOver(
  network: Network,
  target: MailTarget,
  { from, to, source }: Envelope,
  onContent: () => Promise<void>,
): Promise<HandedOver> {
  let hasBegun = false;
  const failed = (error: unknown): HandedOver => {
    const { responseCode = 0, message = String(error) } = error as { responseCode?: number; message?: string };
    const said = message.slice(0, 500);
    if (responseCode >= 500) return { how: 'refused', said };
    // An answer of the server is an answer: it did not take the message.
    return { how: responseCode > 0 || !hasBegun ? 'not now' : 'unclear', said };
  };
  const connection = new SMTPConnection(await smtpOptions(network, target));
  // What breaks between commands is told to the command at work.
  const broken = new Promise<never>((_, reject) => connection.on('error', reject));
  broken.catch(() => undefined);
  const content = async function* (): AsyncGenerator<Uint8Array> {
    await onContent();
    hasBegun = true;
    yield source;
  };
  try {
    await Promise.race([broken, new Promise<void>((resolve) => connection.connect(() => resolve()))]);
    await Promise.race([
      broken,
      new Promise<void>((resolve, reject) => connection.login(credentialsOf(target), (error) => (error ? reject(error) : resolve()))),
    ]);
    // Read only once the server has asked for the message.
    const stream = Readable.from(content(), { objectMode: false });
    return await Promise.race([
      broken,
      new Promise<HandedOver>((resolve, reject) =>
        connection.send({ from, to: [...to] }, stream, (error, info) => {
          if (error) return reject(error);
          const refusedFor = (info?.rejectedErrors ?? []).map((it) => ({
            address: String(it.recipient ?? ''),
            said: it.message.slice(0, 300),
          }));
          resolve({ how: 'taken', response: info?.response ?? '', refusedFor });
        }),
      ),
    ]);
  } catch (error) {
    return failed(error);
  } finally {
    connection.close();
  }
}

function credentialsOf({ userName, secret }: MailTarget): Parameters<SMTPConnection['login']>[0] {
  if ('password' in secret) return { user: userName, pass: secret.password };
  return { type: 'OAuth2', user: userName, oauth2: new XOAuth2({ user: userName, accessToken: secret.accessToken }) };
}
