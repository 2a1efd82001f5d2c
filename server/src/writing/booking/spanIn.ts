/** Formats of a zone; they are dear to make. */
interface ZoneFormats {
  day: Intl.DateTimeFormat;
  clock: Intl.DateTimeFormat;
}

const MOST_KEPT = 500;
const kept = new Map<string, ZoneFormats>();

function formatsOf(zone: string): ZoneFormats {
  const found = kept.get(zone);
  if (found) return found;
  // Zones come from whoever follows a link.
  if (kept.size >= MOST_KEPT) kept.clear();
  const made = {
    day: new Intl.DateTimeFormat('en-GB', { timeZone: zone, weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' }),
    clock: new Intl.DateTimeFormat('en-GB', { timeZone: zone, hour: '2-digit', minute: '2-digit' }),
  };
  kept.set(zone, made);
  return made;
}

/** From when to when by the clock of a zone: `Friday, 23 October 2026, 09:00 to 10:00 (Europe/Berlin)`. @param zone a name of the IANA database */
export function spanIn(zone: string, from: number, to: number): string {
  return `${dayIn(zone, from)}, ${clockIn(zone, from)} to ${clockIn(zone, to)} (${zone})`;
}

export const dayIn = (zone: string, at: number): string => formatsOf(zone).day.format(at);

export const clockIn = (zone: string, at: number): string => formatsOf(zone).clock.format(at);
