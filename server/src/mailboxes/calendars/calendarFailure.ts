import type { CalendarFailureCode } from '@fulvet/core';
import { CALENDAR_FAILURES } from '@fulvet/core';
import { AnswerTooLong } from '../../base/network/guardedFetch';
import { failureOf, MailFailure } from '../../base/network/mailFailure';
import { Refusal } from '../../base/refusal';

/** Something between Fulvet and a calendar server went wrong in a way that is known. */
export class CalendarFailure extends Error {
  constructor(
    readonly code: CalendarFailureCode,
    /** What the server said, or an empty string. */
    readonly said = '',
  ) {
    super(said === '' ? code : `${code}: ${said}`);
  }
}

/** Names the failure that an error of the network or of the calendar library stands for. */
export function calendarFailureOf(error: unknown): CalendarFailure {
  if (error instanceof CalendarFailure) return error;
  if (error instanceof AnswerTooLong) return new CalendarFailure('too-large', error.message);
  const { code, said } = error instanceof MailFailure ? error : failureOf(error);
  if (code === 'name-unknown' || code === 'host-refused' || code === 'throttled') return new CalendarFailure(code, said);
  return new CalendarFailure('no-answer', said);
}

/** Does something at a calendar server. @returns a refusal that says what to do, where that fails in a way that is known */
export async function orRefusal<T>(work: () => Promise<T>): Promise<T | Refusal> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof CalendarFailure)) throw error;
    const { title, remedy } = CALENDAR_FAILURES[error.code];
    return new Refusal('elsewhere', 'calendar-server', `${title}. ${remedy}${error.said ? ` The server said: ${error.said}` : ''}`);
  }
}
