import { readFileSync, writeFileSync } from 'node:fs';
import { withStructure } from './lib/structure.mjs';
import { root } from './lib/run.mjs';

/** Draws the areas of the server into CONTRIBUTING.md: npm run structure. */
process.chdir(root);
writeFileSync('CONTRIBUTING.md', withStructure(readFileSync('CONTRIBUTING.md', 'utf8')));
