import type pg from 'pg';

/**
 * Counts the connections to each provider over all worker processes. A slot is an advisory lock of this process's database
 * session, so that those of a process that dies are free at once.
 */
export class ConnectionSlots {
  private client: Promise<pg.PoolClient> | null = null;
  private readonly held = new Map<string, Set<number>>();
  /** The session answers one question after the other. */
  private last: Promise<unknown> = Promise.resolve();

  constructor(private readonly pool: pg.Pool) {}

  /** @returns a function that gives the slot back, or null when all are taken */
  take(host: string, limit: number): Promise<(() => Promise<void>) | null> {
    return this.ask(async (client) => {
      const mine = this.held.get(host) ?? new Set<number>();
      this.held.set(host, mine);
      const { rows } = await client.query<{ slot: number }>(
        'SELECT s AS slot FROM generate_series(0, $2::int - 1) AS s WHERE NOT s = ANY($3::int[]) AND pg_try_advisory_lock(hashtext($1), s) LIMIT 1',
        [`connections to ${host}`, limit, [...mine]],
      );
      const slot = rows[0]?.slot;
      if (slot === undefined) return null;
      mine.add(slot);
      return () => this.giveBack(host, slot, client);
    });
  }

  /** Doing it again changes nothing. */
  private async giveBack(host: string, slot: number, from: pg.PoolClient): Promise<void> {
    if (this.held.get(host)?.delete(slot) !== true) return;
    await this.ask(async (client) => {
      // A session that broke has lost its locks by that.
      if (client === from) await client.query('SELECT pg_advisory_unlock(hashtext($1), $2)', [`connections to ${host}`, slot]);
    });
  }

  private ask<T>(question: (client: pg.PoolClient) => Promise<T>): Promise<T> {
    const answer = this.last.then(async () => question(await this.session()));
    this.last = answer.catch(() => undefined);
    return answer;
  }

  async stop(): Promise<void> {
    const client = await this.client?.catch(() => null);
    this.client = null;
    client?.release(true);
  }

  private session(): Promise<pg.PoolClient> {
    if (this.client) return this.client;
    const session = this.pool.connect().then((client) => {
      client.on('error', () => {
        // A session that broke goes back to the pool, which waits for all of them when it ends.
        if (this.client === session) this.client = null;
        this.held.clear();
        client.release(true);
      });
      return client;
    });
    this.client = session;
    session.catch(() => {
      if (this.client === session) this.client = null;
    });
    return session;
  }
}
