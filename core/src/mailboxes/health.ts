import type { FailureCode } from './failures';
import { FAILURES } from './failures';

export type MailboxState = 'imported' | 'connecting' | 'running' | 'paused' | 'stopped' | 'closed';

/** What goes wrong with a mailbox, since when. */
export interface MailboxProblem {
  code: FailureCode;
  /** Milliseconds. */
  since: number;
  /** Failures in a row. */
  attempts: number;
  retryAt: number | null;
  remedy: string;
  /** What the server said, word by word. */
  said: string;
}

export interface MailboxFacts {
  state: MailboxState;
  problem: MailboxProblem | null;
  lastContactAt: number | null;
  backlog: number;
  /** Set once every check passed. */
  checked: boolean;
  /** Reading has begun at this time. */
  startedAt: number | null;
}

export type HealthLevel = 'well' | 'busy' | 'trouble' | 'stopped' | 'resting';

/** The state of a mailbox in words. */
export interface Health {
  level: HealthLevel;
  /** In a few words. */
  state: string;
  problem: {
    code: string;
    title: string;
    since: number;
    /** What it means for the histories. */
    means: string;
    /** What Fulvet is doing about it. */
    doing: string;
    /** What the person has to do. */
    todo: string;
    said: string;
  } | null;
}

/** Without a word from the server for so long, a running mailbox counts as silent. */
const SILENT_AFTER = 3 * 60_000;

/** Says how a mailbox is doing. A mailbox that is not fully working is never said to be working. */
export function healthOf(facts: MailboxFacts, now: number): Health {
  switch (facts.state) {
    case 'imported':
      return { level: 'resting', state: 'From files', problem: null };
    case 'closed':
      return { level: 'resting', state: 'Disconnected; its history stays', problem: null };
    case 'paused':
      return { level: 'resting', state: 'Paused', problem: null };
    case 'connecting':
      return { level: 'resting', state: facts.checked ? 'Tried and ready to start' : 'Being connected', problem: null };
    default:
      return followed(facts, now);
  }
}

function followed(facts: MailboxFacts, now: number): Health {
  const { problem } = facts;
  if (problem) {
    const known = FAILURES[problem.code];
    const stopped = facts.state === 'stopped' || problem.retryAt === null;
    return {
      level: stopped ? 'stopped' : 'trouble',
      state: stopped ? 'Stopped: needs you' : 'In trouble: trying again',
      problem: {
        code: problem.code,
        title: known.title,
        since: problem.since,
        means: gapOf(facts, now),
        doing: stopped
          ? 'Fulvet has stopped trying and waits for you.'
          : `Fulvet has tried ${problem.attempts === 1 ? 'once' : `${problem.attempts} times`} and tries again ${whenOf(problem.retryAt, now)}.`,
        todo: problem.remedy || known.remedy,
        said: problem.said,
      },
    };
  }
  const lastSign = facts.lastContactAt ?? facts.startedAt ?? 0;
  if (now - lastSign > SILENT_AFTER)
    return {
      level: 'trouble',
      state: 'Not being read',
      problem: {
        code: 'silent',
        title: 'No worker reads this mailbox',
        since: lastSign,
        means: gapOf(facts, now),
        doing: 'The mailbox waits in the queue.',
        todo: 'The person who runs Fulvet should start a worker process (npm run worker), or look why those that run are busy.',
        said: '',
      },
    };
  if (facts.lastContactAt === null) return { level: 'busy', state: 'Starting', problem: null };
  if (facts.backlog > 0) return { level: 'busy', state: 'Reading back', problem: null };
  return { level: 'well', state: 'Working', problem: null };
}

function gapOf(facts: MailboxFacts, now: number): string {
  const from = facts.lastContactAt;
  if (from === null) return 'No mail of this mailbox has come in yet; its histories are empty until it works.';
  const first = dayOf(from);
  const last = dayOf(now);
  return first === last
    ? `Histories may lack this mailbox’s emails of ${first} since ${new Date(from).toISOString().slice(11, 16)} UTC. They are read as soon as it works again; nothing is lost.`
    : `Histories may lack this mailbox’s emails from ${first} to ${last}. They are read as soon as it works again; nothing is lost.`;
}

const dayOf = (at: number): string => new Date(at).toISOString().slice(0, 10);

function whenOf(at: number | null, now: number): string {
  const seconds = Math.max(0, Math.round(((at ?? now) - now) / 1000));
  if (seconds < 5) return 'now';
  return seconds < 90 ? `in ${seconds} seconds` : `in ${Math.round(seconds / 60)} minutes`;
}
