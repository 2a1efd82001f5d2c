import type { Logger } from 'pino';
import type { BlobStore } from './blobs/blobStore';
import type { Database } from './db/database';
import type { Jobs } from './jobs/jobs';

/** The parts that handlers work with. */
export interface Services {
  database: Database;
  blobs: BlobStore;
  jobs: Jobs;
  /** Folder of files that wait for their import. */
  uploads: string;
  log: Logger;
  version: string;
}
