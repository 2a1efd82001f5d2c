/** A moment of the database as answers give it. */
export function iso(value: string | Date): string {
  return new Date(value).toISOString();
}
