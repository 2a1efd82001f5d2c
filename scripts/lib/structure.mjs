import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { root } from './run.mjs';

const START = '<!-- structure: written by `npm run structure` -->';
const END = '<!-- end of structure -->';
const SOURCES = join(root, 'server', 'src');

/** CONTRIBUTING with the diagram of the server's areas as their imports are now. */
export function withStructure(text) {
  const [before, rest] = text.split(START);
  const after = rest?.split(END)[1];
  if (after === undefined) throw new Error('CONTRIBUTING.md has no place for the diagram of the structure.');
  return `${before}${START}\n\n\`\`\`mermaid\n${diagram()}\n\`\`\`\n\n${END}${after}`;
}

/** The areas and whom each imports, as Mermaid; an arrow that follows from others is left out. */
export function diagram() {
  const arrows = areaImports();
  const lines = [...arrows].flatMap(([area, imported]) =>
    [...imported]
      .filter((target) => ![...imported].some((other) => other !== target && reaches(arrows, other, target)))
      .map((target) => `  ${area} --> ${target}`),
  );
  return ['flowchart BT', ...lines.sort()].join('\n');
}

/** Which areas of the server import which, without tests. */
export function areaImports() {
  const arrows = new Map();
  for (const name of readdirSync(SOURCES, { recursive: true })) {
    const [area, ...inside] = name.split('/');
    if (inside.length === 0 || area === 'testing' || !name.endsWith('.ts') || name.endsWith('.test.ts')) continue;
    const imported = arrows.get(area) ?? new Set();
    arrows.set(area, imported);
    for (const [, path] of readFileSync(join(SOURCES, name), 'utf8').matchAll(/from '(\.[^']+)'/g)) {
      const [target, ...file] = relative('.', join(dirname(name), path)).split('/');
      if (file.length > 0 && target !== area && target !== '..') imported.add(target);
    }
  }
  return arrows;
}

function reaches(arrows, from, to, seen = new Set()) {
  if (seen.has(from)) return false;
  seen.add(from);
  const next = arrows.get(from) ?? new Set();
  return next.has(to) || [...next].some((area) => reaches(arrows, area, to, seen));
}
