import { Worker } from 'node:worker_threads';
import { builtProgram } from '../builtProgram';
import type { ReadAnswer, ReadOrder, ReadTask, ReadTasks } from './readTasks';

export interface ReaderLimits {
  /** Threads that read beside each other. */
  threads: number;
  /** Milliseconds that a task may take once a thread has begun with it. */
  deadline: number;
  /** Megabytes of objects that a thread may hold. */
  memory: number;
}

/** Why a task was given up. */
export class ReadingGivenUp extends Error {
  constructor(
    readonly reason: 'deadline' | 'memory' | 'failed',
    message: string,
  ) {
    super(message);
  }
}

const DEFAULTS: ReaderLimits = { threads: 2, deadline: 20_000, memory: 512 };

interface Waiting {
  order: Omit<ReadOrder, 'id'>;
  resolve: (output: unknown) => void;
  reject: (error: Error) => void;
}

/**
 * Reads what others wrote, in threads beside the process that serves people. A task that takes too long or grows too large loses its
 * thread, is given up with its reason, and a new thread goes on with the next.
 *
 *     const pool = new ReaderPool();
 *     const table = await pool.read('table', { text, format: 'csv' });
 */
export class ReaderPool {
  private readonly limits: ReaderLimits;
  private readonly waiting: Waiting[] = [];
  private readonly idle: Worker[] = [];
  private readonly all = new Set<Worker>();
  /** A thread that has come up says so first; the time that it takes counts for no task. */
  private readonly ready = new WeakMap<Worker, Promise<unknown>>();
  private closed = false;

  get isClosed(): boolean {
    return this.closed;
  }

  constructor(limits: Partial<ReaderLimits> = {}) {
    this.limits = { ...DEFAULTS, ...limits };
  }

  /** @throws {ReadingGivenUp} when it took too long, grew too large, or could not be read */
  read<Task extends ReadTask>(task: Task, input: ReadTasks[Task]['input']): Promise<ReadTasks[Task]['output']> {
    return new Promise((resolve, reject) => {
      this.waiting.push({ order: { task, input }, resolve: resolve as (output: unknown) => void, reject });
      this.next();
    });
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const waiting of this.waiting.splice(0)) waiting.reject(new ReadingGivenUp('failed', 'Fulvet is stopping.'));
    await Promise.all([...this.all].map((thread) => thread.terminate()));
  }

  private next(): void {
    if (this.waiting.length === 0 || this.closed) return;
    const thread = this.idle.pop() ?? (this.all.size < this.limits.threads ? this.start() : null);
    const work = thread ? this.waiting.shift() : undefined;
    if (thread && work) this.give(thread, work);
  }

  private start(): Worker {
    const thread = new Worker(builtProgram('reader'), {
      resourceLimits: { maxOldGenerationSizeMb: this.limits.memory, maxYoungGenerationSizeMb: 64 },
    });
    thread.unref();
    this.all.add(thread);
    this.ready.set(thread, new Promise((resolve) => thread.once('message', resolve)));
    thread.on('exit', () => this.drop(thread));
    // Told to the task at work; without a listener it would end the process.
    thread.on('error', () => undefined);
    return thread;
  }

  private drop(thread: Worker): void {
    this.all.delete(thread);
    const at = this.idle.indexOf(thread);
    if (at >= 0) this.idle.splice(at, 1);
  }

  private give(thread: Worker, work: Waiting): void {
    let timer: NodeJS.Timeout | undefined;
    let isSettled = false;
    const settle = (): void => {
      isSettled = true;
      clearTimeout(timer);
      thread.off('message', onAnswer);
      thread.off('error', onError);
      thread.off('exit', onExit);
    };
    const giveUp = (error: ReadingGivenUp): void => {
      settle();
      this.drop(thread);
      void thread.terminate();
      work.reject(error);
      this.next();
    };
    const onAnswer = (answer: ReadAnswer): void => {
      settle();
      this.idle.push(thread);
      if ('failed' in answer) work.reject(new ReadingGivenUp('failed', answer.failed));
      else work.resolve(answer.output);
      this.next();
    };
    const onError = (error: NodeJS.ErrnoException): void =>
      giveUp(
        error.code === 'ERR_WORKER_OUT_OF_MEMORY'
          ? new ReadingGivenUp('memory', `Reading it needed more than ${this.limits.memory} MB of memory.`)
          : new ReadingGivenUp('failed', error.message),
      );
    const onExit = (): void => giveUp(new ReadingGivenUp('failed', 'The reader stopped.'));
    const begin = (): void => {
      if (isSettled) return;
      timer = setTimeout(
        () => giveUp(new ReadingGivenUp('deadline', `Reading it took more than ${this.limits.deadline / 1000} seconds.`)),
        this.limits.deadline,
      );
      thread.on('message', onAnswer);
      thread.postMessage({ id: 0, ...work.order } satisfies ReadOrder);
    };
    thread.on('error', onError);
    thread.on('exit', onExit);
    void this.ready.get(thread)?.then(begin);
  }
}
