import { join } from 'node:path';
import { ensureBuilt } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { fail, root } from './lib/run.mjs';

// What this prints besides the command's own output goes to standard error.
const write = process.stdout.write.bind(process.stdout);
process.stdout.write = process.stderr.write.bind(process.stderr);
try {
  await ensurePackages();
  await ensureBuilt({ web: false });
  process.stdout.write = write;
  const { main } = await import(join(root, 'dist', 'cli.js'));
  process.exitCode = await main(process.argv.slice(2));
} catch (error) {
  fail(error);
}
