import type { DecideRun, ImportRun, RecordKind, RecordsPreview, RulebookState } from '@fulvet/contract';
import { createReadStream } from 'node:fs';
import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, join, relative } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { setTimeout as pause } from 'node:timers/promises';
import type { Client } from './client';
import { CommandError } from './client';

const POLL_MS = 300;

export async function setUp(
  client: Client,
  options: { admin: string; passwordFile: string; ownDomain: string[]; name?: string; workspace: string },
): Promise<void> {
  const password = await firstLine(options.passwordFile);
  const name = options.name ?? options.admin.split('@')[0] ?? options.admin;
  const { token } = await client.json<{ token: string }>('POST', '/setup', {
    workspace: options.workspace,
    admin: { email: options.admin, name, password },
    ownDomains: options.ownDomain,
  });
  say(`Set up. ${options.admin} is the first administrator.`);
  process.stdout.write(`${token}\n`);
}

export async function teamAdd(
  client: Client,
  address: string,
  options: { name: string; role: string; passwordFile?: string },
): Promise<void> {
  const password = options.passwordFile === undefined ? {} : { password: await firstLine(options.passwordFile) };
  await client.json('POST', '/team', { email: address, name: options.name, role: options.role, ...password });
  say(`${address} is on the team as ${options.role}.`);
}

export async function importMail(client: Client, paths: readonly string[], mailbox: string): Promise<void> {
  const files = (await Promise.all(paths.map(filesUnder))).flat();
  if (files.length === 0) throw new CommandError('There is no file in what was named.');
  const created = await client.json<ImportRun>('POST', '/imports', { mailbox });
  for (const file of files)
    await client.upload(
      `/imports/${created.id}/files?name=${encodeURIComponent(file.name)}`,
      Readable.toWeb(createReadStream(file.path)) as ReadableStream<Uint8Array>,
    );
  await client.json('POST', `/imports/${created.id}/start`);
  const run = await waitFor(
    () => client.json<ImportRun>('GET', `/imports/${created.id}`),
    (item) =>
      item.phase === 'deciding'
        ? `deciding ${item.counts.decided} of ${item.counts.toDecide}`
        : `read ${megabytes(item.readBytes)} of ${megabytes(item.totalBytes)} MB`,
  );
  const { counts } = run;
  process.stdout.write(
    `${counts.new} new, ${counts.otherSighting} known from another mailbox, ${counts.known} already here, ${counts.unreadable} unreadable\n`,
  );
  if (counts.withProblems > 0) await listProblems(client, created.id);
  if (run.state !== 'done') throw new CommandError(run.message || `The import was ${run.state}.`);
}

async function listProblems(client: Client, importId: number): Promise<void> {
  const { items, total } = await client.json<{
    items: { position: number; file: string; problems: { message: string }[] }[];
    total: number;
  }>('GET', `/imports/${importId}/items?problems=yes&limit=1000`);
  for (const item of items) for (const problem of item.problems) say(`${item.file}, message ${item.position}: ${problem.message}`);
  if (total > items.length) say(`… and ${total - items.length} more; see Mailboxes, Imports.`);
}

export async function importRecords(client: Client, kind: RecordKind, file: string, previewOnly: boolean): Promise<void> {
  const text = await textOf(file);
  const format = /^\ufeff?\s*BEGIN:VCARD/i.test(text) ? 'vcard' : 'csv';
  const result = await client.json<RecordsPreview>('POST', `/records/${kind}/import${previewOnly ? '/preview' : ''}`, { format, text });
  for (const { line, reason } of result.bad) say(`${file === '-' ? 'standard input' : basename(file)}, line ${line}: ${reason}`);
  const { counts } = result;
  process.stdout.write(
    `${counts.create} ${previewOnly ? 'would be created' : 'created'}, ${counts.update} ${previewOnly ? 'would be updated' : 'updated'}, ${counts.same} the same, ${counts.bad} not taken\n`,
  );
  if (counts.bad > 0 && counts.create + counts.update + counts.same === 0) throw new CommandError('No line could be taken.');
}

export async function exportTo(client: Client, path: string): Promise<void> {
  const response = await client.stream(path);
  if (response.body)
    await pipeline(Readable.fromWeb(response.body as Parameters<typeof Readable.fromWeb>[0]), process.stdout, { end: false });
}

export async function rulebookShow(client: Client): Promise<void> {
  const state = await client.json<RulebookState>('GET', '/rulebook');
  process.stdout.write(`${JSON.stringify(state.document, null, 2)}\n`);
}

export async function rulebookPut(client: Client, file: string): Promise<void> {
  let document: unknown;
  try {
    document = JSON.parse(await textOf(file));
  } catch (error) {
    if (error instanceof CommandError) throw error;
    throw new CommandError(`${file} is not JSON: ${error instanceof Error ? error.message : ''}`);
  }
  const state = await client.json<RulebookState>('PUT', '/rulebook', document);
  say(`Version ${state.version} is in force. Past mail stays as decided; “decide” goes over it.`);
}

export async function decide(client: Client): Promise<void> {
  const started = await client.json<DecideRun>('POST', '/decide');
  const run = await waitFor(
    () => client.json<DecideRun>('GET', `/decide/${started.id}`),
    (item) => `decided ${item.done} of ${item.total}`,
  );
  process.stdout.write(`${run.total} decided, ${run.changed} changed\n`);
  if (run.state !== 'done') throw new CommandError(run.message || `The run was ${run.state}.`);
}

async function waitFor<Run extends { state: string }>(ask: () => Promise<Run>, tell: (run: Run) => string): Promise<Run> {
  for (;;) {
    const run = await ask();
    const under = run.state === 'queued' || run.state === 'running';
    if (process.stderr.isTTY) process.stderr.write(`\r\u001b[K${under ? tell(run) : ''}`);
    if (!under) return run;
    await pause(POLL_MS);
  }
}

/** The files under a path, in order of name; names as they stand below it. */
async function filesUnder(path: string): Promise<{ path: string; name: string }[]> {
  const found = await stat(path).catch(() => null);
  if (!found) throw new CommandError(`There is no file ${path}.`);
  if (!found.isDirectory()) return [{ path, name: basename(path) }];
  const entries = await readdir(path, { recursive: true, withFileTypes: true });
  return entries
    .filter((entry) => entry.isFile() && !entry.name.startsWith('.'))
    .map((entry) => join(entry.parentPath, entry.name))
    .sort()
    .map((file) => ({ path: file, name: relative(path, file) }));
}

/** A file's text, or standard input for `-`. */
export async function textOf(file: string): Promise<string> {
  if (file === '-') {
    const chunks: Buffer[] = [];
    for await (const chunk of process.stdin) chunks.push(chunk as Buffer);
    return Buffer.concat(chunks).toString('utf8');
  }
  const bytes = await readFile(file).catch((error: unknown) => {
    throw new CommandError(`${file} cannot be read: ${error instanceof Error ? error.message : ''}`);
  });
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

async function firstLine(file: string): Promise<string> {
  const line = (await textOf(file)).split(/\r?\n/, 1)[0] ?? '';
  if (!line) throw new CommandError(`${file === '-' ? 'Standard input' : file} holds no password in its first line.`);
  return line;
}

function megabytes(bytes: number): string {
  return (bytes / 1_000_000).toFixed(1);
}

/** What is for the person, not for the next program. */
function say(line: string): void {
  process.stderr.write(`${line}\n`);
}
