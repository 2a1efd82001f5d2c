import { Refusal, isRefusal, notFound } from '../../base/refusal';
import type { RecordKind, RecordsPreview, recordsImportRequest, User } from '@fulvet/contract';
import type { z } from 'zod';
import { decideFor } from '../../base/concerned';
import type { RecordTable } from '../../base/files/readCsv';
import { readTable } from '../../base/reading/readTable';
import type { Services } from '../../base/services';
import { noteStep } from '../../base/undoLog';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { RECORD_FIELDS } from '../fields';
import { nounOf } from '../kinds';
import { applyImport } from './applyImport';
import type { ImportPlan } from './planImport';
import { planImport } from './planImport';
import { undoImport } from './undoImport';

const SAMPLE = 12;

const SHOWN_BAD = 200;

type ImportRequest = z.output<typeof recordsImportRequest>;

async function tableOf({ blobs }: Services, kind: RecordKind, { format, text }: ImportRequest): Promise<RecordTable | Refusal> {
  if (format === 'vcard' && kind !== 'contact') return notFound('vCard import for this kind');
  return readTable(blobs.readers, text, format === 'vcard' ? 'vcard' : 'csv');
}

function previewOf(plan: ImportPlan, done: boolean): RecordsPreview {
  const count = (action: string): number => plan.rows.filter((row) => row.action === action).length;
  return {
    columns: plan.columns,
    fields: [
      ...RECORD_FIELDS[plan.kind].map(({ name, required, hint }) => ({ name, required, hint })),
      ...plan.own.map(({ key, label }) => ({ name: key, required: false, hint: label })),
    ],
    sample: plan.rows.slice(0, SAMPLE).map((row) => ({ line: row.line, action: row.action, values: row.values })),
    counts: { create: count('create'), update: count('update'), same: count('same'), bad: plan.bad.length },
    bad: plan.bad.slice(0, SHOWN_BAD),
    warnings: plan.rows
      .flatMap(({ line, instead }) =>
        instead === undefined
          ? []
          : [{ line, reason: `The account “${instead}”, which mail to its domain had created, becomes this one.` }],
      )
      .slice(0, SHOWN_BAD),
    done,
  };
}

/** What importing a file of records would do. */
export async function previewImport(
  services: Services,
  user: User,
  kind: RecordKind,
  file: ImportRequest,
): Promise<RecordsPreview | Refusal> {
  const { compiled } = await liveRulebook(services.database);
  const table = await tableOf(services, kind, file);
  if (isRefusal(table)) return table;
  return services.database.as(user.id, async (tx) => previewOf(await planImport(tx, kind, table, file, compiled), false));
}

/** Imports a file of records, as a step that can be undone, and has the mail that this concerns decided again. */
export async function importFile(
  services: Services,
  user: User,
  kind: RecordKind,
  file: ImportRequest,
): Promise<(RecordsPreview & { undo: number | null }) | Refusal> {
  const { compiled } = await liveRulebook(services.database);
  const table = await tableOf(services, kind, file);
  if (isRefusal(table)) return table;
  const done = await services.database.as(user.id, async (tx) => {
    const plan = await planImport(tx, kind, table, file, compiled);
    if (plan.columns.length === 0 || !plan.columns.some((column) => column.field === 'name'))
      return new Refusal('unfit', 'bad-file', plan.bad[0]?.reason ?? 'The file cannot be read.');
    const { created, updated, concerned } = await applyImport(tx, plan, user.id);
    const count = created.length + updated.length;
    const summary = `Imported ${count} ${nounOf(kind, count)} from a file`;
    const step = { summary, payload: { kind, created, updated } };
    return { preview: { ...previewOf(plan, true), undo: count > 0 ? await noteStep(tx, user.id, undoImport, step) : null }, concerned };
  });
  if (isRefusal(done)) return done;
  await decideFor(services, done.concerned);
  return done.preview;
}
