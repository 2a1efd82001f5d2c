import type { Handlers } from '../base/handler';
import { recordsSeen, seesAllRecords } from '../records/seenRecords';

const STREAM_MS = 10 * 60_000;

const KEEP_ALIVE_MS = 25_000;
/** Bytes that wait for a page to read them. */
const MOST_UNREAD = 256 * 1024;

export const changeRoutes: Pick<Handlers, 'streamChanges'> = {
  streamChanges: async ({ user, services, req, res }) => {
    const seesAll = await services.database.as(user.id, seesAllRecords);
    /** Of records that a change names, those that the reader sees. */
    const seen = (records: string[]): Promise<string[]> =>
      seesAll || records.length === 0 ? Promise.resolve(records) : services.database.as(user.id, (tx) => recordsSeen(tx, records));
    res.set({ 'Content-Type': 'text/event-stream', 'X-Accel-Buffering': 'no' });
    res.flushHeaders();
    res.write('retry: 2000\n\n');
    const end = (): void => {
      deaf();
      clearInterval(alive);
      clearTimeout(over);
      services.changes.streams.delete(end);
      res.end();
    };
    const deaf = services.changes.hear((change) => {
      if (change.kind === 'wake' || change.kind === 'work') return;
      if (change.to !== 'everyone' && !change.to.includes(user.id)) return;
      const tell = (told: object): void => {
        // A page that does not read is disconnected; it connects again when it does.
        if (res.writableLength > MOST_UNREAD) end();
        else if (!res.writableEnded) res.write(`data: ${JSON.stringify(told)}\n\n`);
      };
      if (change.kind === 'mailbox') tell({ kind: 'mailbox', id: change.id });
      else if (change.kind === 'progress') tell({ kind: 'progress', of: change.of });
      else seen(change.records).then((records) => tell({ kind: 'mail', records }), end);
    });
    const alive = setInterval(() => res.write(': here\n\n'), KEEP_ALIVE_MS);
    // The page connects again, and who it is for is asked again.
    const over = setTimeout(end, STREAM_MS);
    services.changes.streams.add(end);
    req.on('close', end);
    return undefined;
  },
};
