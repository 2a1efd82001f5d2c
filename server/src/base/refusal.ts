/** A failure that the caller can do something about: answered with its status, code and sentence. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly fields?: Record<string, string>,
  ) {
    super(message);
  }
}

export const notFound = (what: string): Refusal => new Refusal(404, 'not-found', `There is no such ${what}, or it is not yours to see.`);
