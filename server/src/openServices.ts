import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { pino } from 'pino';
import type { Logger } from 'pino';
import { FolderBlobStore } from './base/blobs/blobStore';
import { openDatabase } from './base/db/database';
import { startJobs } from './jobs';
import { putShippedLists } from './rulebook/lists/shippedLists';
import { ChangeListener } from './base/live/changes';
import { Network } from './base/network/network';
import { ReaderPool } from './base/reading/readerPool';
import type { ReaderLimits } from './base/reading/readerPool';
import { Sources } from './base/reading/sources';
import { Presets } from './base/network/presets';
import type { TurnLimits } from './mailboxes/imap/turnLimits';
import { fillThreadHashes } from './emails/store/fillThreadHashes';
import { upgradeIdentities } from './mailboxes/upgradeIdentities';
import type { DownloadLimits } from './base/download';
import { Downloads } from './base/download';
import type { AttemptLimits } from './team/signIn/attempts';
import { ATTEMPT_LIMITS } from './team/signIn/attempts';
import type { UploadLimits } from './base/files/uploadQuota';
import { UploadQuota } from './base/files/uploadQuota';
import { KeyRing } from './base/secrets/keyRing';
import type { Services } from './base/services';

/** What the parts of an installation are opened with. Plain data. */
export interface ServiceOptions {
  ownerUrl: string;
  secret: string;
  migrationsFolder: string;
  /** Folder of this database's sources and uploads. */
  dataFolder: string;
  version: string;
  logLevel?: string;
  /** Failed attempts to get in that are let through in a quarter of an hour. */
  attemptLimits?: Partial<AttemptLimits>;
  /** File of the keys that seal passwords and tokens; outside the database. Default: in the data folder. */
  keyFile?: string;
  /** Folders of provider presets; later ones go before earlier ones. */
  presetFolders?: readonly string[];
  /** Mail servers on loopback and private addresses may be connected to. */
  privateHosts?: boolean;
  /** Name servers to ask first for mail servers. */
  nameServers?: readonly string[];
  turnLimits?: Partial<TurnLimits>;
  /** Whether this process works on mailboxes (default yes). */
  worksOnMailboxes?: boolean;
  /** What reading of mail and files may cost. */
  readerLimits?: Partial<ReaderLimits>;
  /** How much may wait for its import. */
  uploadLimits?: UploadLimits;
  downloadLimits?: Partial<DownloadLimits>;
  /** Folder of the sources, in place of that in the data folder. */
  sourceFolder?: string;
  /** Milliseconds after which imports that wait are taken up again. */
  takeUpMs?: number;
  /** Connections to the database that each role may have open. */
  poolSize?: number;
  /** It serves requests, or works for what does, and takes up what a process that ended left unfinished (default yes). */
  main?: boolean;
  /** Whether it does the work of the queue (default yes). */
  works?: boolean;
}

/** Opens the parts that handlers and jobs work with. */
export async function openServices(options: ServiceOptions): Promise<Services> {
  const log: Logger = pino({
    level: options.logLevel ?? 'warn',
    redact: ['err.params', 'err.query', 'req.headers'],
    serializers: { err: errorWithoutValues },
  });
  const uploads = join(options.dataFolder, 'uploads');
  await mkdir(uploads, { recursive: true, mode: 0o700 });
  const database = await openDatabase({
    ownerUrl: options.ownerUrl,
    secret: options.secret,
    migrationsFolder: options.migrationsFolder,
    ...(options.poolSize === undefined ? {} : { poolSize: options.poolSize }),
  });
  await putShippedLists(database);
  const blobs = new Sources(
    new FolderBlobStore(options.sourceFolder ?? join(options.dataFolder, 'blobs')),
    new ReaderPool(options.readerLimits),
  );
  const changes = new ChangeListener(database.workerPool, log);
  await changes.start();
  const parts = {
    database,
    blobs,
    uploads,
    uploadQuota: new UploadQuota(options.uploadLimits),
    attemptLimits: { ...ATTEMPT_LIMITS, ...options.attemptLimits },
    downloads: new Downloads(options.downloadLimits),
    log,
    changes,
    keyRing: KeyRing.open(options.keyFile ?? join(options.dataFolder, 'mail-keys.json')),
    network: new Network({
      privateHosts: options.privateHosts ?? false,
      ...(options.nameServers ? { nameServers: options.nameServers } : {}),
    }),
    presets: Presets.load([join(options.migrationsFolder, '..', 'presets'), ...(options.presetFolders ?? [])]),
    version: options.version,
  };
  if (options.main ?? true) {
    await upgradeIdentities(database, blobs, log);
    await fillThreadHashes(database, blobs, log);
  }
  const jobs = await startJobs(parts, {
    main: options.main ?? true,
    works: options.works ?? true,
    worksOnMailboxes: options.worksOnMailboxes ?? true,
    turnLimits: options.turnLimits ?? {},
    ...(options.takeUpMs === undefined ? {} : { takeUpMs: options.takeUpMs }),
  });
  return { ...parts, jobs };
}

export async function closeServices(services: Services): Promise<void> {
  await services.jobs.stop();
  await services.changes.stop();
  await services.blobs.close();
  await services.database.close();
}

/** Logs say what failed and where, never the values: they may be someone's mail. */
function errorWithoutValues(error: unknown): Record<string, unknown> {
  if (!(error instanceof Error)) return { message: 'not an error' };
  const cause = error.cause instanceof Error ? error.cause.message.slice(0, 300) : undefined;
  const message = error.message.split('\nparams:')[0]?.slice(0, 500);
  return {
    type: error.name,
    message,
    cause,
    stack: error.stack
      ?.split('\n')
      .filter((line) => line.trimStart().startsWith('at '))
      .slice(0, 12)
      .join('\n'),
  };
}
