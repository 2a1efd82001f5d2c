/** An error by its parts: those of the system are not always instances of this realm's `Error`. */
interface Fault {
  code?: unknown;
  message?: unknown;
  cause?: unknown;
  errors?: unknown;
}

const MOST_CAUSES = 5;

/** An error, what caused it, and what caused that. */
export function* causesOf(error: unknown): Generator<Fault> {
  let fault = error;
  for (let depth = 0; typeof fault === 'object' && fault !== null && depth < MOST_CAUSES; depth += 1) {
    yield fault;
    fault = (fault as Fault).cause;
  }
}
