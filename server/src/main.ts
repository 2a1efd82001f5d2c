import { createServer } from 'node:http';
import type { Server } from 'node:http';
import { createApp } from './http/app';
import { removeStaleSpooled } from './base/files/spool';
import { removeStaleUploads } from './mailboxes/files/removeStaleUploads';
import type { Services } from './base/services';
import type { ServiceOptions } from './openServices';
import { closeServices, openServices } from './openServices';
import { HeavyThread } from './heavyThread';
import { WorkThread } from './workThread';

export interface ServerOptions extends ServiceOptions {
  webFolder: string | null;
  host: string;
  /** 0 for any free port. */
  port: number;
  behindTls?: boolean;
  /** Whether the work of the queue, and what computes over all mail, is done in threads beside the one that serves people (default no). */
  worksApart?: boolean;
}

/** A running installation. */
export interface RunningServer {
  url: string;
  services: Services;
  /** Null where the work is done in the process itself. */
  workThread: WorkThread | null;
  heavyThread: HeavyThread | null;
  stop(): Promise<void>;
}

/** Starts an installation: database brought up to date, jobs taken up, HTTP listening. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const { webFolder, host, port: wantedPort, behindTls = false, worksApart = false, ...serviceOptions } = options;
  const services = await openServices({ ...serviceOptions, works: !worksApart });
  await removeStaleUploads(services);
  await removeStaleSpooled(services.uploads);
  const workThread = worksApart ? new WorkThread(serviceOptions, services.log) : null;
  const heavyThread = worksApart ? new HeavyThread(serviceOptions, services.log) : null;
  const app = createApp(services, {
    heavyThread,
    secret: options.secret,
    webFolder,
    behindTls,
  });
  // Longer than proxies and clients keep a connection for its next request: else one of them meets it closing.
  const server = createServer({ maxHeaderSize: 32_768, requestTimeout: 0, headersTimeout: 70_000, keepAliveTimeout: 65_000 }, app);
  const close = async (): Promise<void> => {
    await workThread?.stop();
    await heavyThread?.stop();
    await closeServices(services);
  };
  const port = await listen(server, wantedPort, host).catch(async (error: unknown) => {
    await close();
    throw error;
  });
  const shown = host === '0.0.0.0' || host === '::' ? 'localhost' : host.includes(':') ? `[${host}]` : host;
  return {
    url: `http://${shown}:${port}`,
    services,
    workThread,
    heavyThread,
    stop: async () => {
      services.changes.endStreams();
      const closed = new Promise<void>((resolve) => server.close(() => resolve()));
      server.closeIdleConnections();
      const force = setTimeout(() => server.closeAllConnections(), 1500);
      await closed;
      clearTimeout(force);
      await close();
    },
  };
}

function listen(server: Server, port: number, host: string): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, () => {
      const address = server.address();
      resolve(typeof address === 'object' && address !== null ? address.port : port);
    });
  });
}
