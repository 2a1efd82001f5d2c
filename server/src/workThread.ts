import type { Logger } from 'pino';
import { setTimeout as pause } from 'node:timers/promises';
import { Worker } from 'node:worker_threads';
import { builtProgram } from './base/builtProgram';
import type { ServiceOptions } from './openServices';

/** Megabytes of objects that the work may hold. */
const MEMORY_MB = 4096;
const SHORTEST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 60_000;
/** So long it may take to end in order. */
const STOP_MS = 10_000;

/**
 * Imports, decisions, trials and mailboxes, in a thread beside the one that serves people: whatever an email costs, requests do not wait for it.
 *
 * A thread that dies is replaced, after a pause that grows; what it was at is taken up again from the database.
 */
export class WorkThread {
  private thread: Worker;
  private stopping = false;
  private readonly stopped = new AbortController();
  private pauseMs = SHORTEST_PAUSE_MS;

  constructor(
    private readonly options: ServiceOptions,
    private readonly log: Logger,
  ) {
    this.thread = this.start();
  }

  get threadId(): number {
    return this.thread.threadId;
  }

  /** Ends the thread at once, as a fault would. */
  async kill(): Promise<void> {
    await this.thread.terminate();
  }

  async stop(): Promise<void> {
    this.stopping = true;
    this.stopped.abort();
    const { thread } = this;
    const ended = new Promise((resolve) => thread.once('exit', resolve));
    if (thread.threadId === -1) return;
    thread.postMessage('stop');
    await Promise.race([ended, pause(STOP_MS, undefined, { ref: false })]);
    await thread.terminate();
  }

  private start(): Worker {
    const thread = new Worker(builtProgram('work'), { workerData: this.options, resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB } });
    thread.on('message', () => {
      this.pauseMs = SHORTEST_PAUSE_MS;
    });
    thread.on('error', (error) => this.log.error({ err: error }, 'the work ended by a fault'));
    thread.on('exit', (code) => void this.replace(code));
    return thread;
  }

  private async replace(code: number): Promise<void> {
    if (this.stopping) return;
    this.log.error({ code, pauseMs: this.pauseMs }, 'the work is started again');
    await pause(this.pauseMs, undefined, { signal: this.stopped.signal }).catch(() => undefined);
    this.pauseMs = Math.min(this.pauseMs * 2, LONGEST_PAUSE_MS);
    if (!this.stopped.signal.aborted) this.thread = this.start();
  }
}
