import type { Logger } from 'pino';
import type { BlobStore } from './blobs/blobStore';
import type { Database } from './db/database';
import type { Jobs } from './jobs/jobs';
import type { ChangeListener } from './live/changes';
import type { Network } from './mailboxes/network';
import type { Presets } from './mailboxes/presets';
import type { KeyRing } from './secrets/keyRing';

/** The parts that handlers work with. */
export interface Services {
  database: Database;
  blobs: BlobStore;
  jobs: Jobs;
  /** What changes, told by all processes. */
  changes: ChangeListener;
  keyRing: KeyRing;
  network: Network;
  presets: Presets;
  /** Folder of files that wait for their import. */
  uploads: string;
  log: Logger;
  version: string;
}
