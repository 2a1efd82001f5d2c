import type { Handlers } from '../base/handler';

const STREAM_MS = 10 * 60_000;

const KEEP_ALIVE_MS = 25_000;
/** Bytes that wait for a page to read them. */
const MOST_UNREAD = 256 * 1024;

export const changeRoutes: Pick<Handlers, 'streamChanges'> = {
  streamChanges: ({ user, services, req, res }) => {
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
      const told = change.kind === 'mail' ? { kind: 'mail', records: change.records } : { kind: 'mailbox', id: change.id };
      // A page that does not read is disconnected; it connects again when it does.
      if (res.writableLength > MOST_UNREAD) return end();
      res.write(`data: ${JSON.stringify(told)}\n\n`);
    });
    const alive = setInterval(() => res.write(': here\n\n'), KEEP_ALIVE_MS);
    // The page connects again, and who it is for is asked anew.
    const over = setTimeout(end, STREAM_MS);
    services.changes.streams.add(end);
    req.on('close', end);
    return Promise.resolve(undefined);
  },
};
