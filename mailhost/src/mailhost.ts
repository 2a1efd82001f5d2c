import { createServer as createHttpServer } from 'node:http';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer } from 'node:net';
import type { Server, Socket } from 'node:net';
import { createSecureContext, createServer as createTlsServer } from 'node:tls';
import selfsigned from 'selfsigned';
import { Calendars } from './calendars';
import { Delivery } from './delivery';
import { FaultPlan } from './faults';
import { ImapSession } from './imap/session';
import { MailStore } from './mailStore';
import { startNameServer } from './serviceRecords';
import { ShorePage } from './shorePage';
import { SignIn } from './signIn';
import { SignInPage } from './signInPage';
import { smtpServer } from './smtp';
import { sendJson } from './web';

export interface MailhostOptions {
  /** Folder that the mailboxes are kept in; without one they last as long as the process. */
  folder?: string;
  /** First of the ports to take, in the order imaps, imap, submissions, submission, web, names; 0 for any free ones. */
  firstPort?: number;
  accessSeconds?: number;
}

export interface Ports {
  imaps: number;
  imap: number;
  submissions: number;
  submission: number;
  web: number;
  names: number;
}

/** A running provider. */
export interface Mailhost {
  /** The name that its certificate and its service records hold. */
  host: string;
  ports: Ports;
  /** The certificate, PEM; made at start. */
  certificate: string;
  webUrl: string;
  store: MailStore;
  faults: FaultPlan;
  delivery: Delivery;
  signInPage: SignInPage;
  calendars: Calendars;
  /** Ends all IMAP connections that are open. */
  dropConnections(): void;
  /** Open IMAP connections. */
  connectionCount(): number;
  stop(): Promise<void>;
}

export const HOST = 'mail.longshore.example';
/** The program that may sign people in here. */
export const CLIENT = { clientId: 'fulvet-local', clientSecret: 'longshore-shared-secret' };

/** Starts the provider on loopback. */
export async function startMailhost(options: MailhostOptions = {}): Promise<Mailhost> {
  const store = new MailStore(options.folder ?? null);
  const faults = new FaultPlan();
  const signInPage = new SignInPage(store, { ...CLIENT, accessSeconds: options.accessSeconds ?? 3600 });
  const signIn = new SignIn(store, signInPage.tokenOwner);
  const delivery = new Delivery(store, HOST);
  const { key, cert } = await certificate();
  const secureContext = createSecureContext({ key, cert });
  const sockets = new Set<Socket>();
  const session = (secure: boolean) => (socket: Socket) => {
    sockets.add(socket);
    socket.on('close', () => sockets.delete(socket));
    socket.on('error', () => socket.destroy());
    if (faults.of(null).down) socket.destroy();
    else new ImapSession(socket, { store, faults, signIn, secureContext, secure });
  };
  const imaps = createTlsServer({ key, cert }, session(true));
  imaps.on('tlsClientError', () => undefined);
  const imap = createServer(session(false));
  const smtpParts = { store, faults, signIn, delivery, key, cert, host: HOST };
  const submissions = smtpServer(smtpParts, true);
  const submission = smtpServer(smtpParts, false);
  for (const server of [submissions, submission]) server.on('error', () => undefined);
  const calendars = new Calendars(store, signIn, faults);
  const shore = new ShorePage(store, delivery, faults);
  const web = createHttpServer((req, res) => {
    serve(req, res).catch((error: unknown) => sendJson(res, 400, { error: error instanceof Error ? error.message : 'unknown' }));
  });
  const serve = async (req: IncomingMessage, res: ServerResponse): Promise<void> => {
    const url = new URL(req.url ?? '/', 'http://localhost');
    if ((await calendars.handle(req, res, url)) || (await signInPage.handle(req, res, url)) || (await shore.handle(req, res, url))) return;
    sendJson(res, 404, { error: 'There is nothing here.' });
  };
  const first = options.firstPort ?? 0;
  const nth = (at: number): number => (first === 0 ? 0 : first + at);
  const ports: Ports = {
    imaps: await listen(imaps, nth(0)),
    imap: await listen(imap, nth(1)),
    submissions: await listen(submissions.server, nth(2)),
    submission: await listen(submission.server, nth(3)),
    web: await listen(web, nth(4)),
    names: 0,
  };
  const names = await startNameServer(
    {
      host: HOST,
      domains: () => new Set([...store.accounts.keys()].map((address) => address.slice(address.indexOf('@') + 1))),
      records: () => [
        { service: '_imaps._tcp', port: ports.imaps },
        { service: '_imap._tcp', port: ports.imap },
        { service: '_submissions._tcp', port: ports.submissions },
        { service: '_submission._tcp', port: ports.submission },
      ],
    },
    nth(5),
  );
  ports.names = names.address().port;
  const dropConnections = (): void => {
    for (const socket of sockets) socket.destroy();
  };
  return {
    host: HOST,
    ports,
    certificate: cert,
    webUrl: `http://127.0.0.1:${ports.web}`,
    store,
    faults,
    delivery,
    signInPage,
    calendars,
    dropConnections,
    connectionCount: () => sockets.size,
    stop: async () => {
      delivery.stop();
      dropConnections();
      web.closeAllConnections();
      names.close();
      await Promise.all([imaps, imap, web].map((item) => new Promise<void>((resolve) => item.close(() => resolve()))));
      await Promise.all([submissions, submission].map((server) => new Promise<void>((resolve) => server.close(() => resolve()))));
    },
  };
}

/** What an installation has to know of the provider: a preset in the form that presets have. */
export function presetOf(mailhost: Pick<Mailhost, 'host' | 'ports' | 'certificate' | 'webUrl'>): object {
  return {
    id: 'longshore',
    name: 'Longshore Mail',
    hosts: [mailhost.host],
    imap: { host: mailhost.host, port: mailhost.ports.imaps, security: 'tls' },
    smtp: { host: mailhost.host, port: mailhost.ports.submissions, security: 'tls' },
    signIn: ['password', 'redirect'],
    trust: mailhost.certificate,
    connections: 40,
    redirect: {
      authorizeUrl: `${mailhost.webUrl}/authorize`,
      tokenUrl: `${mailhost.webUrl}/token`,
      revokeUrl: `${mailhost.webUrl}/revoke`,
      scope: 'mail',
      ...CLIENT,
    },
    folderRoles: { Spam: 'junk', Bin: 'trash' },
    remedies: {
      'imap-off':
        'At Longshore, open Settings, then Doors, and switch on “IMAP door”. It opens within a minute; then try again from this step.',
      'sending-off': 'At Longshore, open Settings, then Doors, and switch on “Sending door”. Then try again from this step.',
      'sign-in-refused':
        'Longshore did not know this password. It is the one of your Longshore mailbox, not the one of Fulvet. Or choose “Sign in at Longshore”.',
    },
  };
}

function listen(server: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      const address = server.address();
      resolve(typeof address === 'object' && address !== null ? address.port : port);
    });
  });
}

async function certificate(): Promise<{ key: string; cert: string }> {
  const made = await selfsigned.generate([{ name: 'commonName', value: HOST }], {
    keySize: 2048,
    algorithm: 'sha256',
    notAfterDate: new Date(Date.now() + 400 * 86_400_000),
    extensions: [
      { name: 'basicConstraints', cA: true },
      {
        name: 'subjectAltName',
        altNames: [
          { type: 2, value: HOST },
          { type: 2, value: 'localhost' },
        ],
      },
    ],
  });
  return { key: made.private, cert: made.cert };
}
