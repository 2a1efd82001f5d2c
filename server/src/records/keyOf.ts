/** A key for a name, which none of these is: small letters, digits and underscores. */
export function keyOf(label: string, taken: ReadonlySet<string>): string {
  const plain =
    label
      .normalize('NFKD')
      .toLowerCase()
      .replace(/\p{M}/gu, '')
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '')
      .slice(0, 40) || 'field';
  for (let n = 1; ; n += 1) {
    const key = n === 1 ? plain : `${plain}_${n}`;
    if (!taken.has(key)) return key;
  }
}
