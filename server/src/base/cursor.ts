import { Refusal } from './refusal';

/** What a page's cursor says: microseconds and the id of the last row. @throws 422 for one that no list gave */
export function cursorParts(cursor: string): [microseconds: string, id: string] {
  const [, microseconds, id] = /^(-?\d{1,18})\.(\d{1,18})$/.exec(cursor) ?? [];
  if (microseconds === undefined || id === undefined)
    throw new Refusal('unfit', 'bad-input', 'The cursor is not one that this list gave.', { after: 'is not a cursor' });
  return [microseconds, id];
}
