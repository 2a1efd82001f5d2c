import { spawn, spawnSync } from 'node:child_process';
import { chmodSync, cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { homedir, tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { parseArgs } from 'node:util';
import { fail, root, StartError } from './lib/run.mjs';

const HELP = `node scripts/freshMachine.mjs [OPTIONS]   (as root, on Debian)

Proves that the README's first command works on a machine that has nothing but Node.js: makes a minimal Debian in a folder, copies Node.js and a
clean clone into it, and runs "npm start" to the page that a person sets up, as root, as a user with sudo and as one without.

  --as LIST      some of: root, sudo, user (separated by commas; default all)
  --browser      one browser test, too, as root
  --keep         leave the folder, and say where it is
  --base FOLDER  a minimal Debian that an earlier run left
`;
const PLACE = 'opt/fulvet';
const MOST_SECONDS = 900;

async function main() {
  const { values } = parseArgs({
    options: {
      as: { type: 'string' },
      browser: { type: 'boolean' },
      keep: { type: 'boolean' },
      base: { type: 'string' },
      help: { type: 'boolean' },
    },
  });
  if (values.help) return process.stdout.write(HELP);
  if (process.getuid?.() !== 0) throw new StartError('Only root can make a Debian in a folder. Run it as root.');
  const work = mkdtempSync(join(tmpdir(), 'fulvet-fresh-'));
  chmodSync(work, 0o755);
  const base = values.base ?? makeBase(join(work, 'base'));
  const results = [];
  try {
    for (const who of values.as?.split(',') ?? ['root', 'sudo', 'user']) {
      const machine = join(work, who);
      run('cp', ['-a', base, machine]);
      prepare(machine);
      addNode(machine);
      run('git', ['clone', '--quiet', '--no-hardlinks', root, join(machine, PLACE)]);
      results.push(await tryStart(machine, who));
      if (values.browser && who === 'root') results.push(browserTest(machine));
      if (!values.keep) removeMachine(machine);
    }
  } finally {
    if (values.keep) process.stdout.write(`Left in ${work}\n`);
    else removeMachine(work);
  }
  for (const { name, held, said } of results) process.stdout.write(`${held ? 'held  ' : 'BROKEN'}  ${name}: ${said}\n`);
  if (results.some(({ held }) => !held)) process.exitCode = 1;
}

function run(command, args, options = {}) {
  const done = spawnSync(command, args, { encoding: 'utf8', maxBuffer: 1 << 28, ...options });
  if (done.status !== 0)
    throw new StartError(
      `${command} ${args.slice(0, 3).join(' ')} failed:\n${(done.stderr || done.stdout || done.error?.message || '').slice(-2000)}`,
    );
  return done.stdout;
}

/** A minimal Debian with the package sources of this machine. */
function makeBase(folder) {
  if (spawnSync('sh', ['-c', 'command -v debootstrap']).status !== 0) {
    run('apt-get', ['update', '-qq']);
    run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'debootstrap']);
  }
  const release = run('sh', ['-c', '. /etc/os-release && echo $VERSION_CODENAME']).trim();
  process.stdout.write(`Making a minimal Debian ${release} …\n`);
  run('debootstrap', ['--variant=minbase', '--include=ca-certificates,sudo', release, folder, ...mirror()], { env: process.env });
  return folder;
}

function mirror() {
  const text = run('sh', ['-c', 'cat /etc/apt/sources.list /etc/apt/sources.list.d/* 2>/dev/null || true']);
  const found = /^(?:deb\s+(?:\[[^\]]*\]\s+)?|URIs:\s*)(\S+)/m.exec(text)?.[1];
  return found ? [found] : [];
}

/** Package sources and names as here, a user with sudo and a plain one. */
function prepare(folder) {
  for (const place of ['etc/apt', 'etc/ssl', 'usr/local/share/ca-certificates'])
    if (existsSync(`/${place}`)) run('cp', ['-aT', `/${place}`, join(folder, place)]);
  for (const file of ['etc/resolv.conf', 'etc/hosts']) cpSync(`/${file}`, join(folder, file), { dereference: true, force: true });
  run('chroot', [
    folder,
    'sh',
    '-c',
    'useradd -m -s /bin/sh withsudo && useradd -m -s /bin/sh plain && echo "withsudo ALL=(ALL) NOPASSWD: ALL" > /etc/sudoers.d/withsudo && echo \'Defaults env_keep += "http_proxy https_proxy no_proxy"\' >> /etc/sudoers.d/withsudo',
  ]);
}

/** Node.js as it is here, with npm and what npm was told of its registry. */
function addNode(machine) {
  const bin = dirname(realpathSync(process.execPath));
  mkdirSync(join(machine, 'usr/local/bin'), { recursive: true });
  cpSync(realpathSync(process.execPath), join(machine, 'usr/local/bin/node'));
  const npm = [join(bin, '../lib/node_modules/npm'), '/usr/local/lib/node_modules/npm', '/usr/lib/node_modules/npm'].find((place) =>
    existsSync(place),
  );
  if (!npm) throw new StartError('npm is not found beside Node.js.');
  mkdirSync(join(machine, 'usr/local/lib/node_modules'), { recursive: true });
  run('cp', ['-aT', realpathSync(npm), join(machine, 'usr/local/lib/node_modules/npm')]);
  for (const name of ['npm', 'npx']) run('ln', ['-sf', `../lib/node_modules/npm/bin/${name}-cli.js`, join(machine, 'usr/local/bin', name)]);
  for (const rc of [join(homedir(), '.npmrc'), '/usr/local/etc/npmrc', process.env.NPM_CONFIG_USERCONFIG ?? ''])
    if (rc && existsSync(rc)) cpSync(rc, join(machine, 'usr/local/etc/npmrc'), { recursive: false, force: true });
}

/** A command in the machine, in a namespace of processes and mounts of its own. */
function inside(machine, who, command) {
  const user = { root: 'root', sudo: 'withsudo', user: 'plain' }[who];
  const script = join(machine, 'run.sh');
  const kept = Object.entries(process.env).filter(([name]) =>
    /^(?:https?_proxy|no_proxy|npm_config_|NODE_EXTRA_CA_CERTS|SSL_CERT_FILE)/i.test(name),
  );
  const exports = kept.map(([name, value]) => `export ${name}='${String(value).replaceAll("'", "'\\''")}'`).join('\n');
  writeFileSync(
    script,
    `#!/bin/sh\nexport PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin\n${exports}\ncd /${PLACE}\n${command}\n`,
    { mode: 0o755 },
  );
  const mounts = `mount -t proc proc ${machine}/proc && mount --rbind /dev ${machine}/dev && mount -t tmpfs none ${machine}/dev/shm`;
  return [
    'unshare',
    [
      '--mount',
      '--pid',
      '--fork',
      'sh',
      '-c',
      `${mounts} && exec chroot ${machine} ${user === 'root' ? 'sh /run.sh' : `su ${user} -c 'sh /run.sh'`}`,
    ],
  ];
}

async function tryStart(machine, who) {
  if (who !== 'root') run('chroot', [machine, 'chown', '-R', who === 'sudo' ? 'withsudo' : 'plain', `/${PLACE}`]);
  const port = 4700 + Math.floor(Math.random() * 200);
  const [command, args] = inside(machine, who, `PORT=${port} exec npm start -- --empty`);
  const began = Date.now();
  const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'], detached: true });
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (piece) => (said += piece));
  const ended = new Promise((resolve) => child.on('exit', (code) => resolve(code ?? 1)));
  const state = { code: null };
  void ended.then((code) => (state.code = code));
  while (state.code === null && !said.includes('Fulvet is at') && Date.now() - began < MOST_SECONDS * 1000)
    await new Promise((resolve) => setTimeout(resolve, 250));
  const seconds = ((Date.now() - began) / 1000).toFixed(0);
  if (who === 'user') {
    const names = /apt-get update && apt-get install -y --no-install-recommends postgresql/.test(said);
    kill(child);
    return {
      name: 'a user without sudo',
      held: state.code === 1 && names,
      said: names ? `exit code ${state.code}, and names the command (${seconds} s)` : said.slice(-800),
    };
  }
  const page = await fetch(`http://127.0.0.1:${port}/`).then(
    (answer) => answer.text(),
    () => '',
  );
  const session = await fetch(`http://127.0.0.1:${port}/api/v1/session`).then(
    (answer) => answer.text(),
    () => '',
  );
  const signedIn = await setUp(port);
  kill(child);
  await ended;
  const held = page.includes('<div id="root"') && session.includes('"isSetUp":false') === session.includes('isSetUp') && signedIn;
  return { name: who === 'root' ? 'root' : 'a user with sudo', held, said: held ? `signed in after ${seconds} s` : said.slice(-1500) };
}

/** Sets the installation up and signs in, as a person does. */
async function setUp(port) {
  const post = (path, body) =>
    fetch(`http://127.0.0.1:${port}/api/v1${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    }).then(
      (answer) => answer.ok,
      () => false,
    );
  const account = { email: 'ada@quillmere.example', password: 'gauges on the pier' };
  return (await post('/setup', { admin: { ...account, name: 'Ada' }, ownDomains: ['quillmere.example'] })) && post('/session', account);
}

function browserTest(machine) {
  const [command, args] = inside(machine, 'root', 'npm test -- --only browser setUp');
  const began = Date.now();
  const done = spawnSync(command, args, { encoding: 'utf8', maxBuffer: 1 << 28 });
  const passed = /(\d+) passed, 0 failed/.exec(done.stdout)?.[1];
  return {
    name: 'one browser test',
    held: done.status === 0 && Number(passed) > 0,
    said: passed ? `${passed} passed in ${((Date.now() - began) / 1000).toFixed(0)} s` : `${done.stdout}${done.stderr}`.slice(-1500),
  };
}

function kill(child) {
  try {
    process.kill(-child.pid, 'SIGTERM');
    setTimeout(() => {
      try {
        process.kill(-child.pid, 'SIGKILL');
      } catch {
        // It has ended.
      }
    }, 20_000).unref();
  } catch {
    // It has ended.
  }
}

function removeMachine(folder) {
  for (const name of existsSync(folder) ? readdirSync(folder) : [])
    if (existsSync(join(folder, name, 'proc', '1'))) throw new StartError(`${join(folder, name)} is still mounted; remove it by hand.`);
  rmSync(folder, { recursive: true, force: true });
}

process.chdir(root);
main().catch(fail);
