import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { buildPrograms } from './lib/build.mjs';
import { fail, root } from './lib/run.mjs';

/** Writes contract/src/routeTable.ts: npm run routes. Clients need of a route its method and path, not the shapes that check it. */
async function main() {
  await buildPrograms({ contract: 'contract/src/routes.ts' });
  const { routes } = await import(pathToFileURL(join(root, 'dist', 'contract.js')).href);
  const lines = Object.entries(routes).map(([id, { method, path }]) => `  ${id}: '${method} ${path}',`);
  writeFileSync(
    join(root, 'contract', 'src', 'routeTable.ts'),
    [
      "import type { RouteShape } from './base/route';",
      "import type { RouteId } from './routes';",
      '',
      '/** Method and path of each route. Made by `npm run routes` from the routes themselves, and held against them by a test. */',
      'export const routeTable = {',
      ...lines,
      "} as const satisfies Record<RouteId, `${RouteShape['method']} ${string}`>;",
      '',
    ].join('\n'),
  );
}

process.chdir(root);
main().catch(fail);
