import { Session } from 'node:inspector';
import type { Profiler } from 'node:inspector';

/** Code whose branches count as new ground: our own and the libraries that read, not what makes the inputs. */
const READ_BY = /\/(core|contract|server)\/src\/|node_modules\/(?!fast-check|pure-rand)/;

/**
 * Says of each run whether it went where no earlier run has been: by V8's own precise coverage, for which
 * nothing is instrumented. A place is a function together with the blocks of it that ran.
 */
export class Coverage {
  private readonly session = new Session();
  private readonly seen = new Set<string>();

  constructor(private readonly onlyUrl: (url: string) => boolean = (url) => READ_BY.test(url)) {
    this.session.connect();
    this.session.post('Profiler.enable');
    this.session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });
  }

  /** How many places have been seen. */
  get places(): number {
    return this.seen.size;
  }

  /** Whether anything new ran since it was last asked. */
  foundNew(): boolean {
    const before = this.seen.size;
    // Over a session in the same thread, the answer is given before `post` returns.
    this.session.post('Profiler.takePreciseCoverage', (_error, answer?: Profiler.TakePreciseCoverageReturnType) => {
      for (const script of answer?.result ?? [])
        if (this.onlyUrl(script.url))
          for (const { ranges } of script.functions) {
            const [whole] = ranges;
            if (!whole || whole.count === 0) continue;
            const blocks = ranges.map((range) => (range.count > 0 ? range.startOffset : -range.endOffset)).join(',');
            this.seen.add(`${script.scriptId}:${whole.endOffset}:${blocks}`);
          }
    });
    return this.seen.size > before;
  }
}
