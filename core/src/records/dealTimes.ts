import type { DealRecord } from './directory';

const DAY = 86_400_000;

/** Whether a deal was open at a time, milliseconds. */
export const wasOpen = ({ open, closedAt }: DealRecord, at: number): boolean => open || (closedAt !== null && at <= closedAt);

/** Whether a deal had begun when an email was sent, or began so soon afterwards that the email may have led to it. */
export const mayConcern = ({ openedAt }: DealRecord, at: number, leadDays: number): boolean =>
  openedAt === null || openedAt - leadDays * DAY <= at;
