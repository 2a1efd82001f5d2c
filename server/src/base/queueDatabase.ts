import { setTimeout as pause } from 'node:timers/promises';

/** What the queue sends to the database. */
export interface QueueDatabase {
  executeSql: (text: string, values: unknown[]) => Promise<{ rows: unknown[] }>;
}

type Query = (text: string, values: unknown[]) => Promise<{ rows: unknown[] }>;

const FIRST_PAUSE_MS = 250;
const LONGEST_PAUSE_MS = 10_000;
/** Says of jobs that they ended: as done, or as failed. */
const ENDS_JOBS = /SET completed_on = now\(\)|WITH deleted_jobs AS/;

/**
 * The database as the queue uses it. The queue does not wait for what it says of a job that ended: were that refused because the database
 * is away, no one would catch it, which ends the process, and the job would count as at work until it expires, so that its mailbox rests.
 * It is said again until the database takes it, or until the work here ends.
 *
 * @param hasEnded whether this process ends, and gives up
 */
export function queueDatabase(query: Query, warn: (error: unknown) => void, hasEnded: () => boolean): QueueDatabase {
  return {
    executeSql: async (text, values) => {
      if (!ENDS_JOBS.test(text)) return query(text, values);
      for (let wait = FIRST_PAUSE_MS; ; wait = Math.min(wait * 2, LONGEST_PAUSE_MS))
        try {
          return await query(text, values);
        } catch (error) {
          if (hasEnded()) return { rows: [] };
          warn(error);
          await pause(wait, undefined, { ref: false });
        }
    },
  };
}
