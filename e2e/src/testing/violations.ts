import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Page } from 'puppeteer-core';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** What axe finds wrong on the page: rule, and the first element concerned. */
export async function violations(page: Page): Promise<string[]> {
  await page.evaluate(AXE);
  return page.evaluate(async () => {
    const { axe } = globalThis as unknown as {
      axe: { run: (where: Document, options: object) => Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
    };
    const found = await axe.run(document, { resultTypes: ['violations'] });
    return found.violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html.slice(0, 160) ?? ''}`);
  });
}
