import pg from 'pg';
import { Refusal } from '../refusal';
import { causesOf } from './causes';

/** Classes and codes with which PostgreSQL says that it ends, starts, or has no room for a connection (appendix A of its manual). */
const AWAY = /^(?:08|57P0[1-5]|53300|25P03)/;
const SYSTEM = new Set(['ECONNREFUSED', 'ECONNRESET', 'ENOTFOUND', 'EPIPE', 'ETIMEDOUT', 'EHOSTUNREACH', 'EAI_AGAIN']);
const SAID =
  /connection terminated|timeout exceeded when trying to connect|client has encountered a connection error|not queryable|server conn crashed/i;

const CLOSED = /not currently accepting connections/;

/** Whether an error, or what caused it, means that the database cannot be reached at the moment. */
export function isOutage(error: unknown): boolean {
  for (const fault of causesOf(error)) {
    const code = String(fault.code ?? '');
    const isDatabases = fault instanceof pg.DatabaseError;
    if (isDatabases ? AWAY.test(code) || CLOSED.test(String(fault.message)) : SYSTEM.has(code) || SAID.test(String(fault.message)))
      return true;
    if (Array.isArray(fault.errors) && fault.errors.some(isOutage)) return true;
  }
  return false;
}

export const databaseAway = (): Refusal =>
  new Refusal('away', 'database-away', 'The database does not answer at the moment. Nothing was lost; try again in a minute.');
