/** A value as JSON with the keys of every object sorted: equal text for equal values, whatever order their keys came in. */
export function canonicalJson(value: unknown): string {
  return JSON.stringify(value, (_, inner: unknown) =>
    inner !== null && typeof inner === 'object' && !Array.isArray(inner)
      ? Object.fromEntries(Object.entries(inner).sort(([item], [other]) => (item < other ? -1 : 1)))
      : inner,
  );
}
