import type { Task } from '@fulvet/contract';
import { addDays, differenceInCalendarDays, format, parseISO } from 'date-fns';
import { taskDue as words } from './words';

const dayName = new Intl.DateTimeFormat(undefined, { weekday: 'short', day: 'numeric', month: 'short' });
const farDay = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', year: 'numeric' });

export const today = (): string => format(new Date(), 'yyyy-MM-dd');
export const inDays = (days: number): string => format(addDays(new Date(), days), 'yyyy-MM-dd');
export const ownZone = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone;

/** A day in words: by its name where it is near. @param day `2026-12-24` */
export function dayWords(day: string): string {
  const date = parseISO(day);
  const away = differenceInCalendarDays(date, new Date());
  if (away === 0) return words.today;
  if (away === 1) return words.tomorrow;
  if (away === -1) return words.yesterday;
  return Math.abs(away) < 300 ? dayName.format(date) : farDay.format(date);
}

export const dueWords = ({ day, time }: NonNullable<Task['due']>): string =>
  time === null ? dayWords(day) : words.atTime(dayWords(day), time);

export const isLate = ({ dueAt, done }: Task): boolean => dueAt !== null && done === null && Date.parse(dueAt) <= Date.now();

export type Part = 'overdue' | 'today' | 'nextSevenDays' | 'later' | 'noDay';

/** In which part of the list an open task stands. */
export function partOf(task: Task): Part {
  if (task.due === null) return 'noDay';
  if (isLate(task)) return 'overdue';
  const now = today();
  if (task.due.day <= now) return 'today';
  return task.due.day <= inDays(7) ? 'nextSevenDays' : 'later';
}
