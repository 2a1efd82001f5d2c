import { z } from 'zod';
import { rowsOf } from '../db/rows';
import { Refusal } from '../refusal';
import type { User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { statfs } from 'node:fs/promises';
import type { Database } from '../db/database';

/** Bytes of files that may wait for their import. */
export interface UploadLimits {
  file: number;
  member: number;
  workspace: number;
}

const GB = 1024 ** 3;
export const UPLOAD_LIMITS: UploadLimits = { file: 50 * GB, member: 60 * GB, workspace: 200 * GB };
/** Room that is left on the disk for everything else. */
const KEPT_FREE = GB;

const importRow = z.object({ own: z.number(), all: z.number() });

/** The uploads that are under way in this process, by member. */
export class UploadQuota {
  private readonly underWay = new Map<number, number>();

  constructor(private readonly limits: UploadLimits = UPLOAD_LIMITS) {}

  /**
   * How much of a file is still taken from this member.
   *
   * @returns a refusal when nothing is
   */
  async room(database: Database, user: User, folder: string): Promise<number | Refusal> {
    const rows = await rowsOf(
      database.worker,
      importRow,
      sql`SELECT coalesce(sum(total_bytes) FILTER (WHERE user_id = ${user.id}), 0)::float8 AS own, coalesce(sum(total_bytes), 0)::float8 AS all
        FROM imports i JOIN work w ON w.id = i.work_id WHERE w.state IN ('open', 'queued', 'running')`,
    );
    const { own = 0, all = 0 } = rows[0] ?? {};
    const everyone = [...this.underWay.values()].reduce((sum, bytes) => sum + bytes, 0);
    const ofMember = this.limits.member - own - (this.underWay.get(user.id) ?? 0);
    const ofWorkspace = this.limits.workspace - all - everyone;
    const disk = await statfs(folder);
    const free = disk.bavail * disk.bsize - KEPT_FREE;
    const room = Math.min(this.limits.file, ofMember, ofWorkspace, free);
    if (room > 0) return room;
    const [code, sentence] =
      room === free
        ? ['disk-full', 'The disk of the server is full. Nothing was lost; make room on it, then upload the file again.']
        : room === ofMember
          ? [
              'too-large',
              `Your files that wait for their import are ${inGb(this.limits.member)} already. Start or cancel these imports first.`,
            ]
          : [
              'too-large',
              `The workspace’s files that wait for their import are ${inGb(this.limits.workspace)} already. Wait until they are imported.`,
            ];
    return new Refusal('tooLarge', code, sentence);
  }

  /** Notes bytes that came in, or with a negative number that an upload ended. */
  count(user: User, bytes: number): void {
    const sum = (this.underWay.get(user.id) ?? 0) + bytes;
    if (sum > 0) this.underWay.set(user.id, sum);
    else this.underWay.delete(user.id);
  }

  tooLarge(room: number): Refusal {
    return new Refusal(
      'tooLarge',
      'too-large',
      room === this.limits.file
        ? `The file is larger than ${inGb(room)}. Split it and import the parts.`
        : 'There is no more room for files that wait for their import. Start or cancel other imports first.',
    );
  }
}

const inGb = (bytes: number): string => (bytes >= GB ? `${Math.round(bytes / GB)} GB` : `${Math.round(bytes / 1024)} kB`);
