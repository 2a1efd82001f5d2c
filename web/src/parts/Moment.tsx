import { moment as words } from './words';
const MINUTE = 60_000;
const DAY = 86_400_000;
const time = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit' });
const day = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' });
const dayAndYear = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', year: 'numeric' });
const exact = new Intl.DateTimeFormat(undefined, { dateStyle: 'full', timeStyle: 'long' });

/** A time, relative where that is short; exact with zone on hover. */
export function Moment({ at, className }: { at: string; className?: string }) {
  const date = new Date(at);
  return (
    <time dateTime={at} title={exact.format(date)} className={className}>
      {momentText(date, Date.now())}
    </time>
  );
}

/** `now`, `12 min`, `14:05` today, `Yesterday`, `4 May`, `4 May 2025`. */
export function momentText(date: Date, now: number): string {
  const ago = now - date.getTime();
  if (ago >= 0 && ago < MINUTE) return 'now';
  if (ago >= 0 && ago < 60 * MINUTE) return words.min(Math.floor(ago / MINUTE));
  const today = new Date(now).setHours(0, 0, 0, 0);
  if (date.getTime() >= today && date.getTime() < today + DAY) return time.format(date);
  if (date.getTime() >= today - DAY && date.getTime() < today) return words.yesterday;
  return date.getFullYear() === new Date(now).getFullYear() ? day.format(date) : dayAndYear.format(date);
}

export function exactMoment(at: string): string {
  return exact.format(new Date(at));
}
