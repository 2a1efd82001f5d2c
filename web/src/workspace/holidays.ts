import type { AutomaticSending } from '@fulvet/contract';

type Holidays = AutomaticSending['holidays'];

/** Holidays as lines: the day, then how it is called. */
export const holidayLines = (holidays: Holidays): string =>
  holidays.map(({ day, name }) => [day, name].filter(Boolean).join(' ')).join('\n');

/** Holidays from lines, in their order, each day once. `wrong`: the first line that begins with no day. */
export function readHolidays(text: string): { holidays: Holidays; wrong: string | null } {
  const found = new Map<string, string>();
  for (const line of text.split('\n').map((part) => part.trim())) {
    if (line === '') continue;
    const [, day = '', name = ''] = /^(\d{4}-\d{2}-\d{2})(?:\s+(.*))?$/.exec(line) ?? [];
    const date = new Date(`${day}T00:00:00Z`);
    if (Number.isNaN(date.getTime()) || date.toISOString().slice(0, 10) !== day) return { holidays: [], wrong: line };
    found.set(day, name.slice(0, 80));
  }
  return { holidays: [...found].sort().map(([day, name]) => ({ day, name })), wrong: null };
}
