import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { Session, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Request } from 'express';
import type { Services } from '../../base/services';
import { workspaceName } from '../queries';
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

export async function sessionOf(services: Services, user: User | null, req: Request): Promise<Session> {
  const name = await workspaceName(services.database.app);
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
    setUp: name !== null,
    workspace: name ?? '',
    csrf: session?.csrf ?? '',
    needs,
    provider: (await providerSettings(services.database.app))?.label ?? null,
  };
}

export function pendingOf(req: Request): { userId: number; at: number; tries: number } | null {
  const pending = (req.session as typeof req.session | undefined)?.pending;
  return pending && Date.now() - pending.at < CODE_MS ? pending : null;
}
