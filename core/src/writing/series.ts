import type { WorkingDays } from '../calendar/workingDays';
import { afterWorkingDays } from '../calendar/workingDays';

/** Why a series with someone has stopped. */
export const STOP_REASONS = [
  'answered',
  'bounced',
  'refused',
  'meeting',
  'deal closed',
  'kept out',
  'erased',
  'other series',
  'unsubscribed',
  'by hand',
  'left',
  'no text',
] as const;
export type StopReason = (typeof STOP_REASONS)[number];

/** Where a series with someone stands. `preparing`: the email of its step is being written. */
export type RunState = 'waiting' | 'preparing' | 'to look at' | 'to do' | 'sending' | 'ended' | 'stopped';

export interface SeriesStep {
  kind: 'email' | 'task';
  /** Working days after the step before it; of the first, after the beginning. */
  waitDays: number;
}

/** What is known of a series with someone when it is looked at. */
export interface RunSituation {
  state: RunState;
  steps: readonly SeriesStep[];
  /** Which step is next, or at work; from 0. */
  atStep: number;
  /** When the next step is due; milliseconds since 1970. */
  dueAt: number;
  /** Each email is shown to the member before it is sent. */
  asks: boolean;
  /** The email of the step at work; `gone`: its writer discarded it; null: none was begun. */
  email: { state: 'draft' | 'due' | 'handing over' | 'sent' | 'refused' | 'bounced' | 'unclear'; sentAt: number | null } | 'gone' | null;
  /** Why it is not to go on, as the mail and the records say. */
  stop: StopReason | null;
  /** When the last absence note since the step before came; null: none did. */
  absentAt: number | null;
  /** Everything that is sent by itself is held. */
  isHeld: boolean;
  /** How many more emails the mailbox may send by itself today. */
  leftToday: number;
  /** Until then the mailbox rests between two emails; milliseconds since 1970. */
  restsUntil: number;
}

/** What is to be done with a series with someone. */
export type RunTurn =
  | { does: 'nothing' }
  | { does: 'stop'; why: StopReason }
  | { does: 'end' }
  /** The step is done: the next one is due then. */
  | { does: 'go on'; dueAt: number }
  /** It is not yet time. */
  | { does: 'wait'; dueAt: number; because: 'absent' | 'limit' | 'pace' }
  /** The email of the step is to be begun; with `asks` its writer looks at it first. */
  | { does: 'begin'; asks: boolean }
  | { does: 'prepare' }
  | { does: 'say'; state: 'to look at' | 'to do' | 'sending' };

/** So many working days someone who is absent is left in peace. */
const ABSENT_DAYS = 5;
/** What is due longer than this waits for its writer: the process was not there, or everything was held. */
const LATE_MS = 3_600_000;

/**
 * What is to be done now. It says the same as often as it is asked: whoever dies before it is done loses nothing, and does nothing twice.
 *
 * @param now milliseconds since 1970
 */
export function turnOf(run: RunSituation, now: number, days: WorkingDays): RunTurn {
  if (run.state === 'ended' || run.state === 'stopped') return { does: 'nothing' };
  // What is being handed over can not be taken back: it is noted first.
  const isAway = run.email !== null && run.email !== 'gone' && ['handing over', 'unclear'].includes(run.email.state);
  if (run.stop !== null && !isAway) return { does: 'stop', why: run.stop };
  if (run.email !== null) return ofEmail(run, run.email, days);
  if (run.state === 'to do') return { does: 'nothing' };
  return ofWaiting(run, now, days);
}

/** When the first step of a series is due. @param at when it begins; milliseconds since 1970 */
export const firstDueAt = (steps: readonly SeriesStep[], at: number, days: WorkingDays): number =>
  afterWorkingDays(at, steps[0]?.waitDays ?? 0, days);

/** The step is done. @param at when; milliseconds since 1970 */
export function stepDone({ steps, atStep }: Pick<RunSituation, 'steps' | 'atStep'>, at: number, days: WorkingDays): RunTurn {
  const next = steps[atStep + 1];
  return next ? { does: 'go on', dueAt: afterWorkingDays(at, next.waitDays, days) } : { does: 'end' };
}

function ofEmail(run: RunSituation, email: NonNullable<RunSituation['email']>, days: WorkingDays): RunTurn {
  if (email === 'gone') return { does: 'stop', why: 'by hand' };
  const say = (state: 'to look at' | 'sending'): RunTurn => (run.state === state ? { does: 'nothing' } : { does: 'say', state });
  switch (email.state) {
    case 'draft':
      return run.state === 'preparing' ? { does: 'prepare' } : say('to look at');
    case 'due':
    case 'handing over':
      return say('sending');
    case 'unclear':
      return say('to look at');
    case 'refused':
    case 'bounced':
      return { does: 'stop', why: email.state };
    case 'sent':
      return stepDone(run, email.sentAt ?? run.dueAt, days);
  }
}

function ofWaiting(run: RunSituation, now: number, days: WorkingDays): RunTurn {
  const step = run.steps[run.atStep];
  if (!step) return { does: 'end' };
  if (run.isHeld || run.dueAt > now) return { does: 'nothing' };
  const absentUntil = run.absentAt === null ? now : afterWorkingDays(run.absentAt, ABSENT_DAYS, days);
  if (absentUntil > now) return { does: 'wait', dueAt: absentUntil, because: 'absent' };
  if (step.kind === 'task') return { does: 'say', state: 'to do' };
  if (run.leftToday <= 0) return { does: 'wait', dueAt: afterWorkingDays(now, 1, days), because: 'limit' };
  if (run.restsUntil > now) return { does: 'wait', dueAt: run.restsUntil, because: 'pace' };
  return { does: 'begin', asks: run.asks || now - run.dueAt > LATE_MS };
}
