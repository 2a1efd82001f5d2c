import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  createReadStream,
  createWriteStream,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, relative, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { StartError } from './run.mjs';

const FORMAT = 'fulvet-backup';
const ROLES = ['fulvet_app', 'fulvet_worker'];
/** What runs at the moment is no part of what is kept. */
const LEFT_OUT = ['pgboss'];

/**
 * Writes all that an installation keeps into one tar file: the database as one moment has it, the sources, and the keys without which neither passwords nor
 * second factors can be read. The server may go on running.
 *
 * @returns what the manifest says
 */
export async function backUp({ bin, ownerUrl, dataFolder, secretFile, keyFile, target }) {
  if (existsSync(target)) throw new StartError(`${target} is there already. Name a file that is not.`);
  const folder = mkdtempSync(join(tmpdir(), 'fulvet-backup-'));
  try {
    const tables = await withSnapshot(ownerUrl, async (client, snapshot) => {
      await dump(bin, ownerUrl, snapshot, join(folder, 'database.dump'));
      return tableSums(client);
    });
    // Sources are only added to, so those that the database of that moment names are all there now.
    if (existsSync(join(dataFolder, 'blobs'))) cpSync(join(dataFolder, 'blobs'), join(folder, 'blobs'), { recursive: true });
    mkdirSync(join(folder, 'keys'), { mode: 0o700 });
    for (const [name, file] of [
      ['secret.key', secretFile],
      ['mail-keys.json', keyFile],
    ])
      if (existsSync(file)) cpSync(file, join(folder, 'keys', name));
    const manifest = { format: FORMAT, formatVersion: 1, made: new Date().toISOString(), tables, files: await fileSums(folder) };
    writeFileSync(join(folder, 'manifest.json'), JSON.stringify(manifest, null, 2));
    mkdirSync(dirname(resolve(target)), { recursive: true });
    run('tar', ['-cf', resolve(target), '-C', folder, 'manifest.json', ...readdirSync(folder).filter((one) => one !== 'manifest.json')]);
    spawnSync('chmod', ['600', resolve(target)]);
    return manifest;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/**
 * Puts a backup in place of what is there, and proves that it is the same: every file by its hash, every table by its number of rows and a sum over all of them.
 *
 * @param over replace an installation that holds something
 */
export async function restore({ bin, adminUrl, ownerUrl, name, dataFolder, secretFile, keyFile, source, over }) {
  if (!existsSync(source)) throw new StartError(`There is no file ${source}.`);
  const folder = mkdtempSync(join(tmpdir(), 'fulvet-restore-'));
  try {
    run('tar', ['-xf', resolve(source), '-C', folder]);
    const manifest = await readManifest(folder);
    if (!over && (await holdsSomething(adminUrl, ownerUrl, name)))
      throw new StartError(
        'This installation holds something already. Add --over to put the backup in its place; what is there is lost by that.',
      );
    await makeRoles(adminUrl);
    await makeEmpty(adminUrl, name);
    const { plain, env } = withoutPassword(ownerUrl);
    run(join(bin, 'pg_restore'), ['--no-owner', '--exit-on-error', '--dbname', plain, join(folder, 'database.dump')], env);
    for (const part of ['blobs', 'uploads']) rmSync(join(dataFolder, part), { recursive: true, force: true });
    mkdirSync(dataFolder, { recursive: true, mode: 0o700 });
    if (existsSync(join(folder, 'blobs'))) cpSync(join(folder, 'blobs'), join(dataFolder, 'blobs'), { recursive: true });
    for (const [file, to] of [
      ['secret.key', secretFile],
      ['mail-keys.json', keyFile],
    ])
      if (existsSync(join(folder, 'keys', file))) {
        mkdirSync(dirname(to), { recursive: true, mode: 0o700 });
        cpSync(join(folder, 'keys', file), to);
      }
    const differences = await compare(ownerUrl, manifest, dataFolder);
    if (differences.length > 0)
      throw new StartError(`The backup was put in place, and differs from what was backed up:\n  ${differences.join('\n  ')}`);
    return manifest;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

async function readManifest(folder) {
  const file = join(folder, 'manifest.json');
  if (!existsSync(file)) throw new StartError('This is no backup of Fulvet: it has no manifest.');
  const manifest = JSON.parse(readFileSync(file, 'utf8'));
  if (manifest.format !== FORMAT || manifest.formatVersion !== 1)
    throw new StartError('This backup has a format that this version of Fulvet does not know.');
  const sums = await fileSums(folder);
  for (const [name, sum] of Object.entries(manifest.files))
    if (sums[name] !== sum) throw new StartError(`The backup is damaged: ${name} is not as it was written. Nothing was changed.`);
  return manifest;
}

/** What differs between the restored installation and the manifest, in words. */
async function compare(ownerUrl, manifest, dataFolder) {
  const found = await withSnapshot(ownerUrl, (client) => tableSums(client));
  const tables = Object.entries(manifest.tables).flatMap(([table, { rows, sum }]) => {
    const now = found[table];
    if (!now) return [`the table ${table} is missing`];
    if (now.rows !== rows) return [`${table} has ${now.rows} rows and had ${rows}`];
    return now.sum === sum ? [] : [`rows of ${table} are not the same`];
  });
  const sums = existsSync(join(dataFolder, 'blobs')) ? await fileSums(dataFolder, 'blobs') : {};
  const files = Object.entries(manifest.files).flatMap(([name, sum]) =>
    name.startsWith('blobs/') && sums[name] !== sum ? [`${name} is not the same`] : [],
  );
  return [...tables, ...files];
}

async function withSnapshot(url, work) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    await client.query("SET TIME ZONE 'UTC'");
    await client.query('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY');
    const { rows } = await client.query('SELECT pg_export_snapshot() AS id');
    return await work(client, rows[0].id);
  } finally {
    await client.end();
  }
}

/** Rows of every table, and a sum over them in which their order does not count. */
async function tableSums(client) {
  const { rows } = await client.query(
    `SELECT format('%I.%I', n.nspname, c.relname) AS name FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind = 'r' AND n.nspname NOT IN ('pg_catalog', 'information_schema') AND NOT n.nspname = ANY($1) ORDER BY 1`,
    [LEFT_OUT],
  );
  const sums = {};
  for (const { name } of rows) {
    const { rows: found } = await client.query(
      `SELECT count(*)::int AS rows, coalesce(sum(hashtextextended(t::text, 0)::numeric), 0)::text AS sum FROM ${name} t`,
    );
    sums[name] = found[0];
  }
  return sums;
}

async function fileSums(folder, within = '') {
  const sums = {};
  const walk = async (path) => {
    for (const entry of readdirSync(path, { withFileTypes: true })) {
      const whole = join(path, entry.name);
      if (entry.isDirectory()) await walk(whole);
      else if (whole !== join(folder, 'manifest.json')) {
        const hash = createHash('sha256');
        await pipeline(createReadStream(whole), hash);
        sums[relative(folder, whole)] = hash.digest('hex');
      }
    }
  };
  if (statSync(join(folder, within)).isDirectory()) await walk(join(folder, within));
  return sums;
}

/** A connection string without its password, which goes by the environment: arguments are seen by every user of the machine. */
function withoutPassword(url) {
  const parsed = new URL(url);
  const env = { ...process.env, PGPASSWORD: decodeURIComponent(parsed.password) };
  parsed.password = '';
  return { plain: parsed.href, env };
}

function dump(bin, url, snapshot, target) {
  const { plain, env } = withoutPassword(url);
  const args = [
    '--format=custom',
    '--no-owner',
    `--snapshot=${snapshot}`,
    ...LEFT_OUT.map((one) => `--exclude-schema=${one}`),
    '--dbname',
    plain,
  ];
  return new Promise((done, failed) => {
    const child = spawn(join(bin, 'pg_dump'), args, { stdio: ['ignore', 'pipe', 'pipe'], env });
    let said = '';
    child.stderr.on('data', (chunk) => (said += chunk));
    const written = pipeline(child.stdout, createWriteStream(target, { mode: 0o600 }));
    child.on('error', failed);
    child.on('close', (code) =>
      written.then(() => (code === 0 ? done() : failed(new StartError(`The database could not be dumped: ${said.trim()}`))), failed),
    );
  });
}

async function onAdmin(adminUrl, work) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: adminUrl });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

async function holdsSomething(adminUrl, ownerUrl, name) {
  const there = await onAdmin(adminUrl, (client) => client.query('SELECT FROM pg_database WHERE datname = $1', [name]));
  if (there.rowCount === 0) return false;
  return onAdmin(ownerUrl, async (client) => {
    const { rows } = await client.query(`SELECT to_regclass('public.users') IS NOT NULL AS made`);
    return rows[0].made && (await client.query('SELECT FROM users LIMIT 1')).rowCount > 0;
  });
}

/** Roles are the cluster's, and no part of a database's dump; their passwords are set when the server starts. */
function makeRoles(adminUrl) {
  return onAdmin(adminUrl, async (client) => {
    for (const role of ROLES)
      if ((await client.query('SELECT FROM pg_roles WHERE rolname = $1', [role])).rowCount === 0)
        await client.query(`CREATE ROLE ${role} NOLOGIN NOSUPERUSER NOBYPASSRLS`);
  });
}

function makeEmpty(adminUrl, name) {
  return onAdmin(adminUrl, async (client) => {
    await client.query(`DROP DATABASE IF EXISTS "${name}" WITH (FORCE)`);
    await client.query(`CREATE DATABASE "${name}" ENCODING 'UTF8' TEMPLATE template0`);
    for (const role of ROLES) await client.query(`GRANT CONNECT ON DATABASE "${name}" TO ${role}`);
    await client.query(`GRANT CREATE ON DATABASE "${name}" TO fulvet_worker`);
  });
}

function run(command, args, env = process.env) {
  const done = spawnSync(command, args, { encoding: 'utf8', maxBuffer: 1 << 26, env });
  if (done.status !== 0)
    throw new StartError(`${command.split('/').at(-1)} failed: ${(done.stderr || done.error?.message || '').trim().slice(0, 2000)}`);
}
