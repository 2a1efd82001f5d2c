import { BAD_SHAPE } from '@fulvet/contract';
import type express from 'express';
import pg from 'pg';
import { ZodError } from 'zod';
import { databaseAway, isOutage } from '../base/db/outage';
import { isTaken } from '../base/db/taken';
import { Refusal } from '../base/refusal';
import type { RefusalKind } from '../base/refusal';
import type { Services } from '../base/services';

/** The status of each sort of refusal (RFC 9110): no other file knows one. */
const STATUS: Record<RefusalKind, number> = {
  signedOut: 401,
  forbidden: 403,
  unknown: 404,
  conflict: 409,
  tooLarge: 413,
  unfit: 422,
  busy: 429,
  elsewhere: 502,
  away: 503,
};
const UNREADABLE = { code: 'bad-request', message: 'The request cannot be read.' };
const BROKEN = {
  code: 'internal',
  message: 'Something went wrong on the server; nothing was lost. Try again, and tell the administrator if it stays so.',
};
/** Faults of a request that are named in its answer. */
const MOST_FAULTS = 20;

/** What of an error becomes of the answer to the request in which it happened; an unforeseen one is logged. */
export function answerError(services: Services): express.ErrorRequestHandler {
  return (error: unknown, req, res, _next) => {
    if (res.headersSent) {
      services.log.error({ err: error, path: req.path }, 'failed while answering');
      res.destroy();
      return;
    }
    const refusal = isOutage(error) ? databaseAway() : refusalOf(error);
    if (refusal) answerRefusal(res, refusal);
    else if (isUnreadable(error)) answer(res, Number(error.status), UNREADABLE);
    else {
      services.log.error({ err: error, path: req.path }, 'request failed');
      answer(res, 500, BROKEN);
    }
  };
}

export function answerRefusal(res: express.Response, refusal: Refusal): void {
  answer(res, STATUS[refusal.kind], refusal);
}

function answer(res: express.Response, status: number, { code, message, fields }: Pick<Refusal, 'code' | 'message' | 'fields'>): void {
  res.removeHeader('Content-Disposition');
  res.type('json');
  res.status(status).json({ error: { code, message, ...(fields ? { fields } : {}) } });
}

function refusalOf(error: unknown): Refusal | null {
  if (error instanceof ZodError) {
    const fields = Object.fromEntries(
      error.issues.slice(0, MOST_FAULTS).map((issue) => [issue.path.join('.') || 'request', issue.message]),
    );
    const sentence = Object.entries(fields)
      .map(([name, message]) => `${name}: ${message}`)
      .join('; ');
    return new Refusal('unfit', 'bad-input', `${BAD_SHAPE} ${sentence}.`, fields);
  }
  const cause = error instanceof Error ? error.cause : undefined;
  // Row security let the database refuse what the checks before it did not foresee.
  if (cause instanceof pg.DatabaseError && cause.code === '42501' && cause.hint === 'taken-over')
    return new Refusal(
      'forbidden',
      'not-yours',
      'A record is given to you by its owner or by a manager. Nothing was changed; ask one of them.',
    );
  if (cause instanceof pg.DatabaseError && cause.code === '42501')
    return new Refusal(
      'forbidden',
      'not-allowed',
      'This is not yours to change, or it would leave it where you do not see it. Nothing was changed.',
    );
  // The checks before saw nothing: two wrote at once, or a record has it that whoever asks does not see. Which, is not told.
  if (isTaken(error))
    return new Refusal(
      'conflict',
      'taken',
      'This cannot be saved as it is. Nothing was changed. Load the page again; if it stays so, ask an administrator to save it.',
    );
  if (isUnreadable(error) && error.status === 413) return new Refusal('tooLarge', 'too-large', 'The request is too large.');
  if (isUnreadable(error) && error.status === 404) return new Refusal('unknown', 'not-found', 'There is nothing here.');
  return null;
}

/** What Express says of a request that it cannot read, with the status for it. */
function isUnreadable(error: unknown): error is { status: number } {
  return error !== null && typeof error === 'object' && 'status' in error && Number(error.status) >= 400 && Number(error.status) < 500;
}
