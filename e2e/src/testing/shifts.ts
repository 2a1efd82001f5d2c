import type { Page } from 'puppeteer-core';

/** From now on each page notes by how much its parts move by themselves after they were first painted, a moved window being 1 (Layout Instability API). */
export const noteShifts = (page: Page): Promise<unknown> =>
  page.evaluateOnNewDocument(() => {
    const noted = { sum: 0, moved: [] as string[] };
    Object.assign(window, { shifts: noted });
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries() as (PerformanceEntry & { value: number; sources: { node: Node | null }[] })[]) {
        noted.sum += entry.value;
        noted.moved.push(...entry.sources.map(({ node }) => (node?.textContent ?? '').slice(0, 40)));
      }
    }).observe({ type: 'layout-shift', buffered: true });
  });

/** By how much parts of this page moved, and what moved. */
export const shiftsOf = (page: Page): Promise<{ sum: number; moved: string[] }> =>
  page.evaluate(() => (window as unknown as { shifts: { sum: number; moved: string[] } }).shifts);
