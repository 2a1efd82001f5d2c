import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './run.mjs';
import { areaImports, withStructure } from './structure.mjs';

test('the diagram in CONTRIBUTING is that of the code; otherwise run npm run structure', () => {
  const text = readFileSync(join(root, 'CONTRIBUTING.md'), 'utf8');
  expect(withStructure(text)).toBe(text);
});

test('no two areas of the server import each other', () => {
  const arrows = areaImports();
  const both = [...arrows].flatMap(([area, imported]) =>
    [...imported].filter((other) => arrows.get(other)?.has(area)).map((other) => `${area} and ${other}`),
  );
  expect([arrows.size > 10, both]).toEqual([true, []]);
});

test('every path in CONTRIBUTING exists', () => {
  const text = readFileSync(join(root, 'CONTRIBUTING.md'), 'utf8');
  const paths = [...text.matchAll(/`((?:server|core|web|contract|scripts|docs|bench)\/[\w./-]+\.(?:tsx?|mjs|md|sql))`/g)].map(
    ([, path]) => path,
  );
  expect(paths.length).toBeGreaterThan(3);
  expect(paths.filter((path) => !exists(path))).toEqual([]);
});

function exists(path) {
  try {
    readFileSync(join(root, path));
    return true;
  } catch {
    return false;
  }
}
