import { setTimeout as pause } from 'node:timers/promises';
import type { Logger } from 'pino';
import type { ChangeListener } from './live/changes';

const LONGEST_PAUSE_MS = 30_000;
const SHORTEST_PAUSE_MS = 200;
const AFTER_ERROR_MS = 1000;

interface What {
  /** For the log. */
  name: string;
  /** Whoever announces work of this queue wakes it. */
  queue: string;
  atOnce: number;
  /** Does one piece of work. @returns whether there was one */
  next: () => Promise<boolean>;
  /** Until the next piece is due; null: none is in sight. */
  secondsToNext: () => Promise<number | null>;
}

/** Does what is due, one piece after the other, until nothing is; then it rests until the next is due, or it is woken. */
export class WokenLoop {
  private stopping = false;
  private woken = new AbortController();
  private loops: Promise<void>[] = [];

  private deaf: () => void = () => undefined;

  constructor(
    private readonly services: { log: Logger; changes: ChangeListener },
    private readonly what: What,
  ) {}

  start(): void {
    this.deaf = this.services.changes.hear((change) => {
      if (change.kind === 'work' && change.queue === this.what.queue) this.wake();
    });
    this.loops = Array.from({ length: this.what.atOnce }, () => this.loop());
  }

  async stop(): Promise<void> {
    this.stopping = true;
    this.deaf();
    this.wake();
    await Promise.all(this.loops);
  }

  private wake(): void {
    this.woken.abort();
    this.woken = new AbortController();
  }

  private async loop(): Promise<void> {
    const { name, next, secondsToNext } = this.what;
    while (!this.stopping) {
      const { signal } = this.woken;
      let waitMs = LONGEST_PAUSE_MS;
      try {
        while (!this.stopping && (await next()));
        waitMs = Math.max(SHORTEST_PAUSE_MS, Math.min(LONGEST_PAUSE_MS, ((await secondsToNext()) ?? Infinity) * 1000));
      } catch (error) {
        this.services.log.error({ err: error }, name);
        waitMs = AFTER_ERROR_MS;
      }
      if (!this.stopping) await pause(waitMs, undefined, { signal }).catch(() => undefined);
    }
  }
}
