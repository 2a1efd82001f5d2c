import { SMTPServer } from 'smtp-server';
import type { Delivery } from './delivery';
import type { FaultPlan } from './faults';
import type { MailStore } from './mailStore';
import type { SignIn } from './signIn';

export interface SmtpParts {
  store: MailStore;
  faults: FaultPlan;
  signIn: SignIn;
  delivery: Delivery;
  key: string;
  cert: string;
  host: string;
}

const MAX_MESSAGE = 30 * 1024 * 1024;

/** Submission over SMTP: TLS from the start where `secure`, else by STARTTLS. */
export function smtpServer(parts: SmtpParts, secure: boolean): SMTPServer {
  const refused = (message: string, responseCode: number): Error => Object.assign(new Error(message), { responseCode });
  const server = new SMTPServer({
    secure,
    name: parts.host,
    banner: 'Longshore mail',
    key: parts.key,
    cert: parts.cert,
    size: MAX_MESSAGE,
    authMethods: ['PLAIN', 'LOGIN', 'XOAUTH2'],
    logger: false,
    disableReverseLookup: true,
    // Who holds a connection open does not hold up the end.
    closeTimeout: 200,
    onConnect: (_session, done) => {
      const faults = parts.faults.of(null);
      if (faults.down) return done(refused('The service is down', 421));
      setTimeout(() => done(), faults.delayMs);
    },
    onAuth: (auth, _session, done) => {
      const name = auth.username ?? '';
      const account =
        auth.method === 'XOAUTH2' ? parts.signIn.byToken(name, auth.accessToken ?? '') : parts.signIn.byPassword(name, auth.password ?? '');
      const faults = parts.faults.of(account?.address ?? null);
      if (!account || faults.refuseSignIn) return done(refused('5.7.8 The address or the password is wrong', 535));
      if (faults.smtpOff)
        return done(refused('5.7.1 Sending is switched off. Open Doors in your Longshore settings and switch on “Sending door”.', 535));
      return done(null, { user: account.address });
    },
    onData: (stream, session, done) => {
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.on('end', () => {
        const account = parts.store.accounts.get(String(session.user ?? ''));
        if (!account) return done(refused('Sign in first', 530));
        const faults = parts.faults.of(account.address);
        if (faults.refuseContent) return done(refused('5.7.1 This email is not taken', 554));
        parts.delivery.submit(
          Buffer.concat(chunks),
          account,
          session.envelope.rcptTo.map((address) => address.address),
          !faults.keepNoCopy,
        );
        if (faults.loseAnswer) return closeConnection(server, session.id);
        return done(null, 'Taken');
      });
    },
  });
  return server;
}

function closeConnection(server: SMTPServer, id: string): void {
  for (const connection of server.connections as Set<{ session: { id: string }; _socket: { destroy: () => void } }>)
    if (connection.session.id === id) connection._socket.destroy();
}
