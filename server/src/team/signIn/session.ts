import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { Session, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Request } from 'express';
import type { Services } from '../../base/services';
import { providerSettings } from './identityProvider';
import { CODE_MS } from './sessions';

const workspaceRow = z.object({ lacks: z.boolean() });

/** Whether a member has to set up a second factor before anything else. */
export async function lacksFactor({ database }: Services, userId: number, viaProvider: boolean): Promise<boolean> {
  if (viaProvider) return false;
  const rows = await rowsOf(
    database.app,
    workspaceRow,
    sql`SELECT w.second_factor_needed AND NOT u.second_factor AS lacks FROM workspace w, users u WHERE u.id = ${userId}`,
  );
  return rows[0]?.lacks ?? false;
}

const sessionRow = z.object({ name: z.string() });

export async function sessionOf(services: Services, user: User | null, req: Request): Promise<Session> {
  const rows = await rowsOf(services.database.app, sessionRow, sql`SELECT name FROM workspace`);
  const session = req.session as typeof req.session | undefined;
  const needs = user
    ? (await lacksFactor(services, user.id, session === undefined || (session.viaProvider ?? false)))
      ? 'second factor'
      : null
    : pendingOf(req)
      ? 'code'
      : null;
  return {
    user,
    setUp: rows.length > 0,
    workspace: rows[0]?.name ?? '',
    csrf: session?.csrf ?? '',
    needs,
    provider: (await providerSettings(services.database.app))?.label ?? null,
  };
}

export function pendingOf(req: Request): { userId: number; at: number; tries: number } | null {
  const pending = (req.session as typeof req.session | undefined)?.pending;
  return pending && Date.now() - pending.at < CODE_MS ? pending : null;
}
