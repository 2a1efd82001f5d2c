const whole = new Intl.NumberFormat('en-GB');

export function count(value: number): string {
  return whole.format(value);
}

/** `1 email`, `12 emails`. */
export function counted(value: number, item: string, many = `${item}s`): string {
  return `${whole.format(value)} ${value === 1 ? item : many}`;
}

/** `12 emails`; `1,000+ emails` where they were not counted further. */
export const countedEmails = (total: number, isMore: boolean): string =>
  isMore ? `${whole.format(total)}+ emails` : counted(total, 'email');

export function bytes(value: number): string {
  if (value < 1000) return `${value} B`;
  if (value < 1_000_000) return `${(value / 1000).toFixed(0)} kB`;
  return `${(value / 1_000_000).toFixed(value < 10_000_000 ? 1 : 0)} MB`;
}

/** Seconds as people say them. */
export function duration(seconds: number): string {
  if (seconds < 60) return `${Math.max(1, Math.round(seconds))} s`;
  return seconds < 3600 ? `${Math.round(seconds / 60)} min` : `${(seconds / 3600).toFixed(1)} h`;
}

/** `37 %` of a whole; a dash of nothing. */
export function percent(part: number, of: number): string {
  return of === 0 ? '–' : `${Math.round((part / of) * 100)} %`;
}
