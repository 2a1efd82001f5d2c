import { spawn } from 'node:child_process';
import { watch } from 'node:fs';
import { join } from 'node:path';
import { ensurePackages } from './lib/install.mjs';
import { fail, root } from './lib/run.mjs';

const WATCHED = ['core/src', 'contract/src', 'server/src', 'demo/src'];
const API_PORT = process.env.PORT ?? '4460';

/** For developers: the server starts again when its code changes, the web application is served by Vite with hot reload. */
async function main() {
  await ensurePackages();
  let server = null;
  let stopping = false;
  const start = () => {
    server = spawn(process.execPath, [join(root, 'scripts', 'start.mjs'), ...process.argv.slice(2)], {
      cwd: root,
      stdio: 'inherit',
      env: { ...process.env, FULVET_CHECK_ANSWERS: '1', PORT: API_PORT, FULVET_PROGRAMS_ONLY: '1' },
    });
  };
  const restart = () => {
    const old = server;
    if (!old || old.exitCode !== null) return start();
    old.once('exit', () => !stopping && start());
    old.kill('SIGTERM');
  };
  start();
  const vite = spawn('npx', ['--no-install', 'vite', 'web'], {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, FULVET_URL: `http://127.0.0.1:${API_PORT}` },
  });
  let timer = null;
  for (const folder of WATCHED) {
    watch(join(root, folder), { recursive: true }, () => {
      clearTimeout(timer);
      timer = setTimeout(restart, 300);
    });
  }
  for (const signal of ['SIGINT', 'SIGTERM']) {
    process.on(signal, () => {
      stopping = true;
      vite.kill('SIGTERM');
      if (server && server.exitCode === null) server.once('exit', () => process.exit(0)).kill('SIGTERM');
      else process.exit(0);
    });
  }
}

main().catch(fail);
