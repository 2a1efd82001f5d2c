import ICAL from 'ical.js';

/** A component in jCal form (RFC 7265): its name, its properties, the components in it. */
export type CalendarComponent = readonly [string, readonly unknown[], readonly unknown[]];

/** One value of a property; a property with several values is as many of these. */
export interface CalendarProperty {
  parameters: Readonly<Record<string, unknown>>;
  value: unknown;
  /** The value as text; of a period, its start. */
  text: string;
}

/** Reads a calendar object; null where it cannot be read. Nothing in it is evaluated. */
export function readCalendar(text: string): CalendarComponent | null {
  try {
    const read: unknown = ICAL.parse(text);
    return isComponent(read) ? read : null;
  } catch {
    return null;
  }
}

function isComponent(value: unknown): value is CalendarComponent {
  return Array.isArray(value) && typeof value[0] === 'string' && Array.isArray(value[1]) && Array.isArray(value[2]);
}

export function componentsOf(component: CalendarComponent, name: string): CalendarComponent[] {
  return component[2].filter(isComponent).filter(([of]) => of === name);
}

export function propertiesOf(component: CalendarComponent, name: string): CalendarProperty[] {
  return component[1].flatMap((property) => {
    if (!Array.isArray(property) || property[0] !== name) return [];
    const [, parameters, , ...values] = property as unknown[];
    return values.map((value) => ({ parameters: (parameters ?? {}) as Record<string, unknown>, value, text: textOf(value) }));
  });
}

function textOf(value: unknown): string {
  if (Array.isArray(value)) return textOf((value as unknown[])[0]);
  return typeof value === 'object' ? '' : String(value ?? '');
}

export function propertyOf(component: CalendarComponent, name: string): CalendarProperty | undefined {
  return propertiesOf(component, name)[0];
}
