/** Of what sort a refusal is. What becomes of it on the way to whoever asked is not known here. */
export type RefusalKind = 'signedOut' | 'forbidden' | 'unknown' | 'conflict' | 'tooLarge' | 'unfit' | 'busy' | 'elsewhere' | 'away';

/**
 * What someone can do something about: a code for programs, a sentence for people, and the fields that it is about.
 * It is given back, not thrown: thrown errors are bugs.
 */
export class Refusal {
  constructor(
    readonly kind: RefusalKind,
    readonly code: string,
    readonly message: string,
    readonly fields?: Record<string, string>,
  ) {}
}

export const isRefusal = (value: unknown): value is Refusal => value instanceof Refusal;

export const notFound = (what: string): Refusal =>
  new Refusal('unknown', 'not-found', `There is no such ${what}, or it is not yours to see.`);
