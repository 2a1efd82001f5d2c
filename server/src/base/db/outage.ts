import pg from 'pg';
import { Refusal } from '../refusal';

/** Classes and codes with which PostgreSQL says that it ends, starts, or has no room for a connection (appendix A of its manual). */
const AWAY = /^(?:08|57P0[1-5]|53300|25P03)/;
const SYSTEM = new Set(['ECONNREFUSED', 'ECONNRESET', 'ENOTFOUND', 'EPIPE', 'ETIMEDOUT', 'EHOSTUNREACH', 'EAI_AGAIN']);
const SAID =
  /connection terminated|timeout exceeded when trying to connect|client has encountered a connection error|not queryable|server conn crashed/i;

const CLOSED = /not currently accepting connections/;

/** An error by its parts: those of the system are not always instances of this realm's `Error`. */
interface Fault {
  code?: unknown;
  message?: unknown;
  cause?: unknown;
  errors?: unknown;
}

const asFault = (value: unknown): Fault | null => (typeof value === 'object' && value !== null ? value : null);

/** Whether an error, or what caused it, means that the database cannot be reached at the moment. */
export function isOutage(error: unknown): boolean {
  if (error instanceof Refusal) return false;
  for (let fault = asFault(error), depth = 0; fault && depth < 5; fault = asFault(fault.cause), depth += 1) {
    const code = String(fault.code ?? '');
    const isDatabases = fault instanceof pg.DatabaseError;
    if (isDatabases ? AWAY.test(code) || CLOSED.test(String(fault.message)) : SYSTEM.has(code) || SAID.test(String(fault.message)))
      return true;
    if (Array.isArray(fault.errors) && fault.errors.some(isOutage)) return true;
  }
  return false;
}

/** What two records may not share, or what was written by two at once (appendix A: unique_violation). */
const TAKEN = '23505';

/** Whether an error, or what caused it, is that something is in use already. */
export function isTaken(error: unknown): boolean {
  for (let fault = asFault(error), depth = 0; fault && depth < 5; fault = asFault(fault.cause), depth += 1)
    if (fault instanceof pg.DatabaseError && String(fault.code) === TAKEN) return true;
  return false;
}

export const databaseAway = (): Refusal =>
  new Refusal(503, 'database-away', 'The database does not answer at the moment. Nothing was lost; try again in a minute.');
