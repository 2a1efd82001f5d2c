import type { RecordKind, Role } from '@fulvet/contract';
import { createReadStream } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { basename, join, relative } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { setTimeout as pause } from 'node:timers/promises';
import type { Client } from './client';
import { CommandError } from './client';
import { say, textOf } from './texts';

const POLL_MS = 300;

export async function setUp(
  client: Client,
  options: { admin: string; passwordFile: string; ownDomain: string[]; name?: string; workspace: string },
): Promise<void> {
  const password = await firstLine(options.passwordFile);
  const name = options.name ?? options.admin.split('@')[0] ?? options.admin;
  const { token } = await client.call('setUp', {
    body: {
      workspace: options.workspace,
      admin: { email: options.admin, name, password },
      ownDomains: options.ownDomain,
    },
  });
  say(`Set up. ${options.admin} is the first administrator.`);
  process.stdout.write(`${token}\n`);
}

export async function teamAdd(
  client: Client,
  address: string,
  options: { name: string; role: Role; passwordFile?: string },
): Promise<void> {
  const password = options.passwordFile === undefined ? {} : { password: await firstLine(options.passwordFile) };
  await client.call('addMember', { body: { email: address, name: options.name, role: options.role, ...password } });
  say(`${address} is on the team as ${options.role}.`);
}

export async function importMail(client: Client, paths: readonly string[], mailbox: string): Promise<void> {
  const files = (await Promise.all(paths.map(filesUnder))).flat();
  if (files.length === 0) throw new CommandError('There is no file in what was named.');
  const created = await client.call('createImport', { body: { mailbox } });
  for (const file of files)
    await client.upload(
      `/imports/${created.id}/files?name=${encodeURIComponent(file.name)}`,
      Readable.toWeb(createReadStream(file.path)) as ReadableStream<Uint8Array>,
    );
  await client.call('startImport', { id: created.id });
  const run = await waitFor(
    () => client.call('getImport', { id: created.id }),
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
  const { items, total } = await client.call('listImportItems', { id: importId, problems: 'yes', limit: 1000 });
  for (const item of items) for (const problem of item.problems) say(`${item.file}, message ${item.position}: ${problem.message}`);
  if (total > items.length) say(`… and ${total - items.length} more; see Mailboxes, Imports.`);
}

export async function importRecords(client: Client, kind: RecordKind, file: string, previewOnly: boolean): Promise<void> {
  const text = await textOf(file);
  const format = /^\ufeff?\s*BEGIN:VCARD/i.test(text) ? 'vcard' : 'csv';
  const result = await client.call(previewOnly ? 'previewRecords' : 'importRecords', { kind, body: { format, text } });
  for (const { line, reason } of result.bad) say(`${file === '-' ? 'standard input' : basename(file)}, line ${line}: ${reason}`);
  const { counts } = result;
  process.stdout.write(
    `${counts.create} ${previewOnly ? 'would be created' : 'created'}, ${counts.update} ${previewOnly ? 'would be updated' : 'updated'}, ${counts.same} the same, ${counts.bad} not taken\n`,
  );
  if (counts.bad > 0 && counts.create + counts.update + counts.same === 0) throw new CommandError('No line could be taken.');
}

/** What the caller can undo, one a line: its number, when, what it was. */
export async function listSteps(client: Client): Promise<void> {
  const { steps } = await client.call('listUndo');
  for (const { id, at, summary } of steps.filter((step) => !step.undone)) process.stdout.write(`${id}\t${at}\t${summary}\n`);
}

export async function undoStep(client: Client, id: number): Promise<void> {
  if (!Number.isInteger(id) || id < 1) throw new CommandError('Name the number of a step, as “fulvet undo” lists them.');
  const { changed, kept } = await client.call('undo', { id });
  for (const { name, because } of kept) say(`${name} stays: ${because}`);
  process.stdout.write(`undone: ${changed} changed, ${kept.length} stay\n`);
}

export async function exportTo(client: Client, path: string): Promise<void> {
  const response = await client.stream(path);
  if (response.body)
    await pipeline(Readable.fromWeb(response.body as Parameters<typeof Readable.fromWeb>[0]), process.stdout, { end: false });
}

export async function rulebookShow(client: Client): Promise<void> {
  const state = await client.call('getRulebook');
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
  const state = await client.call('putRulebook', { body: document });
  say(`Version ${state.version} is in force. Past mail stays as decided; “decide” goes over it.`);
}

export async function decide(client: Client): Promise<void> {
  const started = await client.call('decide', { body: {} });
  const run = await waitFor(
    () => client.call('getDecideRun', { id: started.id }),
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

async function firstLine(file: string): Promise<string> {
  const line = (await textOf(file)).split(/\r?\n/, 1)[0] ?? '';
  if (!line) throw new CommandError(`${file === '-' ? 'Standard input' : file} holds no password in its first line.`);
  return line;
}

function megabytes(bytes: number): string {
  return (bytes / 1_000_000).toFixed(1);
}
