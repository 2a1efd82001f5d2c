import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { canReach, programs, serverUser, startCluster } from './postgres.mjs';
import { outputOf, StartError } from './run.mjs';

/**
 * The private PostgreSQL of an installation. Its folder and its port are written down when it is made, and are the same from then on.
 *
 * @returns what {@link startCluster} returns
 */
export async function startPrivateCluster(home) {
  const place = await clusterPlace(home);
  const cluster = await startCluster(place.folder, { port: place.port ?? undefined, noteFile: noteFile(home) });
  if (place.port !== cluster.port || !place.noted) writeNote(home, { folder: place.folder, port: cluster.port });
  return cluster;
}

/** Whether the private cluster is there and runs; asks nothing of programs that may not be installed. */
export function isClusterRunning(home) {
  const folder = readNote(home)?.folder ?? knownFolders(home).find((one) => existsSync(join(one, 'PG_VERSION')));
  return folder !== undefined && existsSync(join(folder, 'postmaster.pid'));
}

const noteFile = (home) => join(home, 'cluster.json');

function writeNote(home, note) {
  const next = `${noteFile(home)}.next`;
  writeFileSync(next, `${JSON.stringify(note, null, 2)}\n`, { mode: 0o600 });
  renameSync(next, noteFile(home));
}

function readNote(home) {
  if (!existsSync(noteFile(home))) return null;
  try {
    const { folder, port } = JSON.parse(readFileSync(noteFile(home), 'utf8'));
    if (typeof folder !== 'string') throw new Error('no folder');
    return { folder, port: Number.isInteger(port) ? port : null };
  } catch {
    throw new StartError(
      `${noteFile(home)} says where the database is, and cannot be read. Nothing was changed. Correct it: {"folder": "…", "port": 5460}`,
    );
  }
}

/** In the home folder, or where the server's user cannot reach that, under /var/lib/fulvet. */
function knownFolders(home) {
  return [join(home, 'postgres'), join('/var/lib/fulvet', createHash('sha256').update(home).digest('hex').slice(0, 12), 'postgres')];
}

async function clusterPlace(home) {
  const note = readNote(home);
  if (note) {
    checkNoted(home, note);
    return { ...note, noted: true };
  }
  // Made by an earlier version, which did not write the place down.
  const [inHome, apart] = knownFolders(home);
  const there = [inHome, apart].filter((folder) => existsSync(join(folder, 'PG_VERSION')));
  if (there.length > 1)
    throw new StartError(
      `There are two databases: ${there.join(' and ')}. Write into ${noteFile(home)} which of them to use: {"folder": "…"}`,
    );
  if (there[0]) return { folder: there[0], port: null, noted: false };
  // The server's user exists once PostgreSQL is installed.
  await programs();
  mkdirSync(home, { recursive: true });
  return { folder: serverUser() === null || canReach(home) ? inHome : apart, port: null, noted: false };
}

/** The database that was written down is used or nothing is: an empty one in its place would offer the set-up to anyone. */
function checkNoted(home, { folder }) {
  const user = serverUser();
  if (existsSync(dirname(folder)) && user !== null && !canReach(dirname(folder)))
    throw new StartError(
      `The database is in ${folder}, and PostgreSQL’s user “${user.name}” may not enter a folder above it. Nothing was changed. Run: chmod o+x ${dirname(folder)} (and the folders above it), then start again.`,
    );
  if (!existsSync(join(folder, 'PG_VERSION')))
    throw new StartError(
      `The database was in ${folder}, and is not there now. Put it back, or restore a backup. To begin with an empty one, remove ${noteFile(home)}.`,
    );
  const wanted = user?.uid ?? process.getuid?.();
  const owner = statSync(folder).uid;
  if (wanted !== undefined && owner !== wanted)
    throw new StartError(
      `The database in ${folder} belongs to the user ${nameOf(owner)}, and PostgreSQL runs as ${nameOf(wanted)}. Nothing was changed. Run as root: chown -R ${nameOf(wanted)} ${folder}`,
    );
}

const nameOf = (uid) => outputOf('id', ['-nu', String(uid)]) ?? String(uid);
