import { Random } from '@fulvet/demo';
import fc from 'fast-check';

const MOST_LETTERS = 300_000;
const MOST_KEPT = 2_000;

/**
 * Inputs that each went where none before them had been, and the next one to try: made up, or made of what is
 * kept, cut, joined, repeated and changed by a few letters.
 */
export class Corpus {
  private readonly kept: string[];
  private readonly madeUp: fc.Arbitrary<string>;

  constructor(
    private readonly pieces: readonly string[],
    examples: readonly string[],
  ) {
    this.kept = [...examples];
    this.madeUp = madeUpOf(pieces);
  }

  get size(): number {
    return this.kept.length;
  }

  /** An input of this seed, given what is kept. */
  next(seed: number): string {
    const random = new Random(seed);
    if (this.kept.length === 0 || random.chance(0.3)) return fc.sample(this.madeUp, { numRuns: 1, seed })[0] ?? '';
    let text = random.pick(this.kept);
    for (let changes = random.int(1, 6); changes > 0; changes -= 1) text = this.changed(text, random).slice(0, MOST_LETTERS);
    return text;
  }

  keep(text: string): void {
    if (this.kept.length === MOST_KEPT) this.kept.splice(Math.floor(MOST_KEPT / 2), 1);
    this.kept.push(text);
  }

  private changed(text: string, random: Random): string {
    const from = random.int(0, text.length);
    const to = random.chance(0.5) ? Math.min(text.length, from + random.int(1, 40)) : random.int(from, text.length);
    const [before, part, after] = [text.slice(0, from), text.slice(from, to), text.slice(to)];
    switch (random.int(0, 6)) {
      case 0:
        return before + random.pick(this.pieces) + part + after;
      case 1:
        return before + after;
      case 2:
        return before + repeated(part, random.chance(0.9) ? random.int(2, 9) : random.int(10, 5_000)) + after;
      case 3: {
        const other = random.pick(this.kept);
        return before + other.slice(random.int(0, other.length)) + after;
      }
      case 4:
        return before + String.fromCharCode(random.int(0, random.chance(0.9) ? 255 : 65_535)) + text.slice(from + 1);
      case 5:
        return before + random.pick(this.pieces).repeat(random.int(1, 200)) + part + after;
      default:
        return part + random.pick(this.pieces) + before + after;
    }
  }
}

const repeated = (text: string, times: number): string => text.repeat(Math.min(times, Math.ceil(MOST_LETTERS / (text.length || 1))));

/** Short strings, long repetitions, and pieces in any order. */
function madeUpOf(pieces: readonly string[]): fc.Arbitrary<string> {
  const piece = fc.constantFrom(...pieces);
  return fc.oneof(
    fc.array(fc.oneof(piece, fc.string({ maxLength: 8 })), { maxLength: 200 }).map((parts) => parts.join('')),
    fc.tuple(piece, piece, fc.integer({ min: 1, max: 30_000 })).map(([first, repeated, times]) => first + repeated.repeat(times)),
    fc.tuple(fc.array(piece, { maxLength: 6 }), fc.integer({ min: 1, max: 5_000 })).map(([unit, times]) => unit.join('').repeat(times)),
    fc.uint8Array({ maxLength: 2_000 }).map((bytes) => String.fromCharCode(...bytes)),
  );
}
