import type { TemplateContent } from '@fulvet/contract';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Client } from './client';
import { CommandError } from './client';
import { say, textOf } from './texts';

/** Prints the templates, text blocks and articles that the caller finds, as JSON that `import` takes. */
export async function exportTemplates(client: Client): Promise<void> {
  const { templates } = await client.call('listTemplates');
  const all: TemplateContent[] = [];
  for (const { id } of templates) {
    const { kind, name, folder, scope, team, language, shortcut, subject, html, state } = await client.call('getTemplate', { id });
    all.push({ kind, name, folder, scope, teamId: team?.id ?? null, language, shortcut, subject, html, state });
  }
  process.stdout.write(`${JSON.stringify({ templates: all }, null, 2)}\n`);
}

/** Writes the templates that the caller finds as emails into a folder, each under its number and name. */
export async function exportTemplateFiles(client: Client, folder: string): Promise<void> {
  const { templates } = await client.call('listTemplates');
  await mkdir(folder, { recursive: true });
  for (const { id, name } of templates) {
    const response = await client.stream(`/templates/${id}/file`);
    const plain = name.replace(/[^\p{L}\p{N} ._-]+/gu, ' ').trim();
    await writeFile(join(folder, `${id} ${plain}.eml`), Buffer.from(await response.arrayBuffer()));
  }
  say(`${templates.length} written to ${folder}.`);
}

/** Keeps what a file has: new ones are made; of one's own those with the same kind, name and language are changed. */
export async function importTemplates(client: Client, file: string): Promise<void> {
  if (/\.eml$/i.test(file)) {
    await client.uploadFile('/templates/file', file);
    return say('1 new.');
  }
  const wanted = parsed(await textOf(file));
  const { templates } = await client.call('listTemplates');
  const found = new Map(templates.filter(({ isMine }) => isMine).map((template) => [keyOf(template), template.id]));
  let changed = 0;
  for (const content of wanted) {
    const id = found.get(keyOf(content));
    if (id === undefined) await client.call('createTemplate', { body: content });
    else {
      const { revision } = await client.call('getTemplate', { id });
      await client.call('saveTemplate', { id, body: { ...content, revision } });
      changed += 1;
    }
  }
  say(`${wanted.length - changed} new, ${changed} changed.`);
}

const keyOf = ({ kind, name, language }: Pick<TemplateContent, 'kind' | 'name' | 'language'>): string =>
  [kind, language ?? '', name].join('\n');

function parsed(text: string): TemplateContent[] {
  try {
    const { templates } = JSON.parse(text) as { templates?: unknown };
    if (Array.isArray(templates)) return templates as TemplateContent[];
  } catch {
    // Said below.
  }
  throw new CommandError('The file is not JSON with a list “templates”, as “fulvet templates export” prints it.', 2);
}
