import pg from 'pg';
import { causesOf } from './causes';

/** What two records may not share, or what was written by two at once (appendix A of PostgreSQL's manual: unique_violation). */
const TAKEN = '23505';

/** Whether an error, or what caused it, is that something is in use already. */
export function isTaken(error: unknown): boolean {
  return [...causesOf(error)].some((fault) => fault instanceof pg.DatabaseError && String(fault.code) === TAKEN);
}
