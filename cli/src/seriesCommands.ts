import type { SeriesContent } from '@fulvet/contract';
import type { Client } from './client';
import { CommandError } from './client';
import { say, textOf } from './texts';

/** Prints the series that the caller finds, a line each: name, steps, with how many people they go on. */
export async function listSeries(client: Client): Promise<void> {
  const { series } = await client.call('listSeries');
  print(series.map(({ name, stepCount, open }) => [name, stepCount, open]));
}

const print = (rows: readonly (readonly (string | number)[])[]): void => {
  if (rows.length > 0) process.stdout.write(`${rows.map((row) => row.join('\t')).join('\n')}\n`);
};

interface WrittenSeries {
  name: string;
  steps: { waitDays?: number; template?: string; task?: string }[];
}

/** Keeps the series of a file: the caller's own of that name is changed. */
export async function addSeries(client: Client, file: string, { shared }: { shared: boolean }): Promise<void> {
  const written = parsed(await textOf(file));
  const { templates } = await client.call('listTemplates', { kind: 'template' });
  const idOf = (name: string): number => {
    const found = templates.find((template) => template.name === name);
    if (found) return found.id;
    throw new CommandError(`There is no template “${name}”. “fulvet templates export” shows those that there are.`);
  };
  const body: SeriesContent = {
    name: written.name,
    ...(shared ? { scope: 'all' as const } : {}),
    steps: written.steps.map(({ waitDays = 0, template, task = '' }) =>
      template === undefined ? { kind: 'task', waitDays, text: task } : { kind: 'email', waitDays, templateId: idOf(template) },
    ),
  };
  const { series } = await client.call('listSeries', { text: written.name });
  const known = series.find(({ name, isMine }) => isMine && name === written.name);
  const kept = known
    ? await client.call('saveSeries', {
        id: known.id,
        body: { ...body, revision: (await client.call('getSeries', { id: known.id })).revision },
      })
    : await client.call('createSeries', { body });
  say(`${kept.name}: ${kept.stepCount} step${kept.stepCount === 1 ? '' : 's'}.`);
}

function parsed(text: string): WrittenSeries {
  try {
    const { name, steps } = JSON.parse(text) as Partial<WrittenSeries>;
    if (typeof name === 'string' && Array.isArray(steps)) return { name, steps };
  } catch {
    // Said below.
  }
  throw new CommandError('The file is not JSON with a “name” and a list “steps”.', 2);
}

export interface SeriesToStart {
  to: string;
  name: string;
  deal?: string;
  zone?: string;
  unseen: boolean;
  instead: boolean;
}

/** Begins a series with someone and prints its number. */
export async function startSeries(client: Client, name: string, order: SeriesToStart): Promise<void> {
  const { series } = await client.call('listSeries', { text: name });
  const found = series.filter((item) => item.name === name);
  const [chosen] = found;
  if (!chosen || found.length > 1)
    throw new CommandError(found.length > 1 ? `There are ${found.length} series “${name}”.` : `There is no series “${name}”.`);
  const run = await client.call('startSeries', {
    id: chosen.id,
    body: {
      to: { name: order.name, address: order.to },
      dealId: order.deal === undefined ? null : numberIn(order.deal),
      zone: order.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone,
      asks: !order.unseen,
      instead: order.instead,
    },
  });
  process.stdout.write(`${run.id}\n`);
}

/** Prints with whom the caller's series go on: number, name, address, step, state. */
export async function listRuns(client: Client): Promise<void> {
  const { runs } = await client.call('listSeriesRuns', { open: 'true' });
  print(runs.map(({ id, name, to, atStep, stepCount, state }) => [id, name, to.address, `${atStep} of ${stepCount}`, state]));
}

/** Sends nothing more of a series to someone. */
export async function stopRun(client: Client, number: string): Promise<void> {
  const { to } = await client.call('stopSeriesRun', { id: numberIn(number) });
  say(`Nothing more is sent to ${to.address}.`);
}

function numberIn(text: string): number {
  if (/^[1-9]\d{0,14}$/.test(text)) return Number(text);
  throw new CommandError(`“${text}” is no number.`, 2);
}
