/** Remembers what was worked out for a text, for so many texts; then it begins again, so that its memory stays bounded. */
export class Memo<T> {
  private readonly known = new Map<string, T>();

  constructor(
    private readonly make: (key: string) => T,
    private readonly most = 200_000,
  ) {}

  get(key: string): T {
    const found = this.known.get(key);
    if (found !== undefined) return found;
    const made = this.make(key);
    if (this.known.size >= this.most) this.known.clear();
    this.known.set(key, made);
    return made;
  }
}
