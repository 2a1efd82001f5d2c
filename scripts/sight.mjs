import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { buildPrograms } from './lib/build.mjs';
import { fail, root } from './lib/run.mjs';

/** Writes server/migrations/repeatable/sight.sql from the ways in which a member comes to see an email: npm run sight. */
async function main() {
  await buildPrograms({ sight: 'server/src/sharing/sight/index.ts' });
  const { WAYS, sightSql } = await import(pathToFileURL(join(root, 'dist', 'sight.js')).href);
  writeFileSync(join(root, 'server', 'migrations', 'repeatable', 'sight.sql'), sightSql(WAYS));
}

process.chdir(root);
main().catch(fail);
