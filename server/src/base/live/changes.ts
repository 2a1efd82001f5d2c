import { sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import pg from 'pg';
import type { Db, Tx } from '../db/database';

/** Something that open pages and workers want to know of. It says what changed and for whom, never what an email says. */
export type Change =
  | { kind: 'mail'; to: 'everyone' | number[]; records: string[] }
  | { kind: 'mailbox'; id: number; to: number[] }
  | { kind: 'wake'; id: number }
  | { kind: 'work'; queue: string }
  | { kind: 'progress'; of: string; to: number[] };

const CHANNEL = 'fulvet_changes';
/** PostgreSQL takes 8000 bytes; a longer list of records is left out, and pages ask for what they show. */
const LONGEST = 7500;
const RECONNECT_MS = 1000;

/** Tells all processes, at the end of the transaction where there is one. */
export async function announce(db: Db | Tx, change: Change): Promise<void> {
  let text = JSON.stringify(change);
  if (text.length > LONGEST && change.kind === 'mail')
    text = JSON.stringify({ ...change, to: change.to === 'everyone' ? change.to : change.to.slice(0, 500), records: [] });
  await db.execute(sql`SELECT pg_notify(${CHANNEL}, ${text})`);
}

/** Hears the changes of all processes on one connection, and connects again when that breaks. */
export class ChangeListener {
  /** Open streams of pages, each with the way to end it. */
  readonly streams = new Set<() => void>();
  private readonly ears = new Set<(change: Change) => void>();
  private client: pg.Client | null = null;
  private stopped = false;
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly pool: pg.Pool,
    private readonly log: Logger,
  ) {}

  async start(): Promise<void> {
    const client = new pg.Client(this.pool.options as pg.ClientConfig);
    client.on('notification', (told) => this.tell(told.payload ?? ''));
    client.on('error', () => this.reconnect());
    client.on('end', () => this.reconnect());
    await client.connect();
    await client.query(`LISTEN ${CHANNEL}`);
    this.client = client;
  }

  /** @returns a function that ends it */
  hear(ear: (change: Change) => void): () => void {
    this.ears.add(ear);
    return () => this.ears.delete(ear);
  }

  /** Ends the streams of pages, which would hold up a server that stops. */
  endStreams(): void {
    for (const end of [...this.streams]) end();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearTimeout(this.timer);
    await this.client?.end().catch(() => undefined);
  }

  private tell(payload: string): void {
    const change = JSON.parse(payload) as Change;
    for (const ear of this.ears) ear(change);
  }

  private reconnect(): void {
    if (this.stopped || this.timer) return;
    this.client = null;
    this.timer = setTimeout(() => {
      this.timer = null;
      this.start().then(
        // What changed meanwhile was heard by no one: pages connect again, and ask for everything that they show.
        () => this.endStreams(),
        (error: unknown) => {
          this.log.warn({ err: error }, 'change listener');
          this.reconnect();
        },
      );
    }, RECONNECT_MS);
  }
}
