import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import { root, runShown, StartError } from './run.mjs';

const ENTRIES = {
  server: 'server/src/index.ts',
  reader: 'server/src/reader.ts',
  work: 'server/src/work.ts',
  heavy: 'server/src/heavy.ts',
  cli: 'cli/src/main.ts',
  demo: 'demo/src/index.ts',
  mailhost: 'mailhost/src/main.ts',
};
const SOURCES = [
  'core/src',
  'contract/src',
  'server/src',
  'web',
  'demo/src',
  'cli/src',
  'mailhost/src',
  'package-lock.json',
  'scripts/lib/build.mjs',
];

/** Builds what changed: the programs for Node.js with esbuild, the web application with Vite. */
export async function ensureBuilt({ web = true } = {}) {
  const print = fingerprint(SOURCES);
  const stamp = join(root, 'dist', web ? '.built' : '.built-programs');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === print) return;
  await buildPrograms();
  if (web) {
    process.stdout.write('Building the web application …\n');
    const code = await runShown('npx', ['--no-install', 'vite', 'build', 'web', '--logLevel', 'warn']);
    if (code !== 0) throw new StartError('The web application could not be built; what is wrong stands above.');
    compressFiles(join(root, 'dist', 'web'));
  }
  // The whole holds the programs, too: who needs those alone must not build them again.
  for (const name of web ? ['.built', '.built-programs'] : ['.built-programs']) writeFileSync(join(root, 'dist', name), print);
}

/**
 * Bundles our own rooms into one file a program; packages of the registry stay in node_modules. Each file is put in place whole, so
 * that a program that starts meanwhile never reads half of one.
 */
export async function buildPrograms(entries = ENTRIES) {
  const { build } = await import('esbuild');
  const built = await build({
    absWorkingDir: root,
    entryPoints: entries,
    outdir: join(root, 'dist'),
    write: false,
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    sourcemap: true,
    logLevel: 'warning',
    plugins: [
      {
        name: 'registry packages stay outside',
        setup: (plugin) =>
          plugin.onResolve({ filter: /^[^./]/ }, (found) =>
            found.path.startsWith('@fulvet/') || found.kind === 'entry-point' ? null : { external: true },
          ),
      },
    ],
  });
  mkdirSync(join(root, 'dist'), { recursive: true });
  for (const file of built.outputFiles) {
    const next = `${file.path}.${process.pid}.next`;
    writeFileSync(next, file.contents);
    renameSync(next, file.path);
  }
}

/** Puts a Brotli and a gzip copy beside each file of text: the server sends what the browser accepts. */
function compressFiles(folder) {
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile() || !/\.(?:js|css|html|svg|json|webmanifest)$/.test(entry.name)) continue;
    const path = join(entry.parentPath, entry.name);
    const bytes = readFileSync(path);
    writeFileSync(`${path}.br`, brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length } }));
    writeFileSync(`${path}.gz`, gzipSync(bytes, { level: 9 }));
  }
}

function fingerprint(paths) {
  const hash = createHash('sha256');
  const walk = (path) => {
    if (!existsSync(path)) return;
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) walk(join(path, name));
    else hash.update(path).update(readFileSync(path));
  };
  for (const path of paths) walk(join(root, path));
  return hash.digest('hex');
}
