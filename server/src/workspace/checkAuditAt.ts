import type { AuditCheck } from '@fulvet/contract';
import { drizzle } from 'drizzle-orm/node-postgres';
import pg from 'pg';
import type { Db } from '../base/db/database';
import { checkAudit } from './checkAudit';

/** Checks the audit log of a database as its owner, who sees every chain. */
export async function checkAuditAt(ownerUrl: string): Promise<AuditCheck> {
  const pool = new pg.Pool({ connectionString: ownerUrl, max: 1 });
  try {
    return await checkAudit(drizzle(pool, { casing: 'snake_case' }) as unknown as Db);
  } finally {
    await pool.end();
  }
}
