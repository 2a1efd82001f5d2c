import type { HeavyRouteId, User } from '@fulvet/contract';
import type { Logger } from 'pino';
import { Worker } from 'node:worker_threads';
import { builtProgram } from './base/builtProgram';
import type { RefusalKind } from './base/refusal';
import { Refusal } from './base/refusal';
import type { ServiceOptions } from './openServices';

export interface HeavyLimits {
  /** Milliseconds that an answer may take. */
  deadline: number;
  /** Megabytes of objects that the thread may hold. */
  memory: number;
}

const DEFAULTS: HeavyLimits = { deadline: 120_000, memory: 2048 };
/** Of each role: it answers few requests at once. */
const CONNECTIONS = 2;

/** What a request asks, checked and parsed; plain data. */
export interface HeavyCall {
  number: number;
  route: HeavyRouteId;
  call: { user: User; params: unknown; query: unknown; body: unknown };
}

export type HeavyAnswer =
  | { number: number; result: unknown }
  | { number: number; refused: { kind: RefusalKind; code: string; message: string; fields?: Record<string, string> } }
  | { number: number; failed: Error };

type Settle = (answer: HeavyAnswer | Refusal) => void;

/**
 * Answers requests that compute over all mail or all records, in a thread beside the one that serves people: whoever looks at anything
 * else does not wait for it. The thread is started by the first request; where an answer takes too long or grows too large, the thread
 * is ended, what it was asked is refused in words, and the next request starts it again.
 */
export class HeavyThread {
  private thread: Worker | null = null;
  private readonly limits: HeavyLimits;
  private readonly waiting = new Map<number, Settle>();
  private last = 0;

  constructor(
    private readonly options: ServiceOptions,
    private readonly log: Logger,
    limits: Partial<HeavyLimits> = {},
  ) {
    this.limits = { ...DEFAULTS, ...limits };
  }

  /** Null until it is asked. */
  get threadId(): number | null {
    return this.thread?.threadId ?? null;
  }

  /** @throws what the handler threw */
  answer(route: HeavyRouteId, call: HeavyCall['call']): Promise<unknown> {
    const thread = (this.thread ??= this.start());
    const number = (this.last += 1);
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => this.end(thread, 'deadline'), this.limits.deadline);
      this.waiting.set(number, (answer) => {
        clearTimeout(timer);
        this.waiting.delete(number);
        if (answer instanceof Refusal) resolve(answer);
        else if ('failed' in answer) reject(answer.failed);
        else if ('refused' in answer) resolve(refusalOf(answer.refused));
        else resolve(answer.result);
      });
      thread.postMessage({ number, route, call } satisfies HeavyCall);
    });
  }

  async stop(): Promise<void> {
    const { thread } = this;
    if (thread) await this.end(thread, 'stopping');
  }

  private start(): Worker {
    const thread = new Worker(builtProgram('heavy'), {
      workerData: { ...this.options, poolSize: CONNECTIONS },
      resourceLimits: { maxOldGenerationSizeMb: this.limits.memory },
    });
    thread.unref();
    thread.on('message', (answer: HeavyAnswer) => this.waiting.get(answer.number)?.(answer));
    thread.on('error', (error: NodeJS.ErrnoException) => {
      this.log.error({ err: error }, 'the thread for heavy requests ended by a fault');
      void this.end(thread, error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'memory' : 'fault');
    });
    thread.on('exit', () => void this.end(thread, 'fault'));
    return thread;
  }

  private async end(thread: Worker, why: keyof typeof REFUSALS): Promise<void> {
    if (this.thread !== thread) return;
    this.thread = null;
    for (const settle of [...this.waiting.values()]) settle(REFUSALS[why]);
    await thread.terminate();
  }
}

const refusalOf = ({
  kind,
  code,
  message,
  fields,
}: {
  kind: RefusalKind;
  code: string;
  message: string;
  fields?: Record<string, string>;
}) => new Refusal(kind, code, message, fields);

const REFUSALS = {
  deadline: new Refusal('away', 'too-much', 'Computing this took too long, so it was stopped. Try again when less is going on.'),
  memory: new Refusal('away', 'too-much', 'Computing this needed too much memory, so it was stopped. Ask the operator for more.'),
  fault: new Refusal('away', 'too-much', 'Computing this was interrupted. Try again.'),
  stopping: new Refusal('away', 'too-much', 'Fulvet is stopping. Try again in a minute.'),
};
