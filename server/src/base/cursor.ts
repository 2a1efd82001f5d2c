/** What a page's cursor says: microseconds and the id of the last row. The contract lets through no other. */
export function cursorParts(cursor: string): [microseconds: string, id: string] {
  const [microseconds = '0', id = '0'] = cursor.split('.');
  return [microseconds, id];
}
