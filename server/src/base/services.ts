import type { CheckStep } from '@fulvet/core';
import type { Logger } from 'pino';
import type { Sources } from './reading/sources';
import type { Database } from './db/database';
import type { Downloads } from './download';
import type { UploadQuota } from './files/uploadQuota';
import type { Concerned } from './concerned';
import type { ChangeListener } from './live/changes';
import type { Network } from './network/network';
import type { Presets } from './network/presets';
import type { KeyRing } from './secrets/keyRing';

/** Work that goes on beside requests. */
export interface Jobs {
  importMail(importId: number): Promise<void>;
  decideAll(runId: number): Promise<void>;
  /** Decides the mail of these addresses and domains again, after records changed. */
  decideConcerned(scope: Concerned): Promise<void>;
  runTrial(trialId: number): Promise<void>;
  /** Decides what is undecided. */
  decidePending(): Promise<void>;
  /** Tries a mailbox from a step on. */
  checkMailbox(mailboxId: number, from: CheckStep): Promise<void>;
  /** Has a mailbox worked on at once, even where it waits for its next try. */
  hurryMailbox(mailboxId: number): Promise<void>;
  stop(): Promise<void>;
}

/** The parts that handlers work with. */
export interface Services {
  database: Database;
  blobs: Sources;
  jobs: Jobs;
  /** What changes, told by all processes. */
  changes: ChangeListener;
  keyRing: KeyRing;
  network: Network;
  presets: Presets;
  /** Folder of files that wait for their import. */
  uploads: string;
  uploadQuota: UploadQuota;
  downloads: Downloads;
  /** Failed attempts to get in that are let through in a quarter of an hour, for an account and from an IP address. */
  attemptLimits: { account: number; ip: number };
  log: Logger;
  version: string;
}
