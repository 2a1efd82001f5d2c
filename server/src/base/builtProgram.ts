import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The file of a built program: beside the built server, or where the build puts it when the server runs from its sources. */
export function builtProgram(name: string): string {
  const here = dirname(fileURLToPath(import.meta.url));
  for (let folder = here; folder !== dirname(folder); folder = dirname(folder)) {
    for (const file of [join(folder, `${name}.js`), join(folder, 'dist', `${name}.js`)]) if (existsSync(file)) return file;
  }
  throw new Error(`The program ${name} is not built. Run: npm run build`);
}
