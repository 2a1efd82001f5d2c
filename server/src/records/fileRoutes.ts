import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { RecordKind, RecordsPreview, recordsImportRequest } from '@fulvet/contract';
import type { z } from 'zod';
import { decideFor } from '../base/concerned';
import type { RecordTable } from '../base/files/readCsv';
import type { Handlers } from '../base/handler';
import { readTable } from '../base/reading/readTable';
import type { Services } from '../base/services';
import { liveRulebook } from '../rulebook/liveRulebook';
import { contactsAsVcards, listAsCsv, recordsAsCsv } from './exportRecords';
import { RECORD_FIELDS } from './fields';
import { noteStep } from '../base/undoLog';
import { applyImport } from './import/applyImport';
import { undoImport } from './import/undoImport';
import type { ImportPlan } from './import/planImport';
import { planImport } from './import/planImport';

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

export const recordFileRoutes: Pick<Handlers, 'previewRecords' | 'importRecords' | 'exportRecords'> = {
  previewRecords: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const table = await tableOf(services, params.kind, body);
    if (isRefusal(table)) return table;
    return services.database.as(user.id, async (tx) => previewOf(await planImport(tx, params.kind, table, body.mapping, compiled), false));
  },

  importRecords: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const table = await tableOf(services, params.kind, body);
    if (isRefusal(table)) return table;
    const result = await services.database.as(user.id, async (tx) => {
      const plan = await planImport(tx, params.kind, table, body.mapping, compiled);
      if (plan.columns.length === 0 || !plan.columns.some((column) => column.field === 'name'))
        return new Refusal('unfit', 'bad-file', plan.bad[0]?.reason ?? 'The file cannot be read.');
      const { created, updated, concerned } = await applyImport(tx, plan, user.id);
      const count = created.length + updated.length;
      const summary = `Imported ${count} ${count === 1 ? params.kind : `${params.kind}s`} from a file`;
      const step = { summary, payload: { kind: params.kind, created, updated } };
      return { preview: { ...previewOf(plan, true), undo: count > 0 ? await noteStep(tx, user.id, undoImport, step) : null }, concerned };
    });
    if (isRefusal(result)) return result;
    const { preview, concerned } = result;
    await decideFor(services, concerned);
    return preview;
  },

  exportRecords: async ({ user, params, query, services, res }) => {
    if (query.format === 'vcard' && params.kind !== 'contact')
      return new Refusal('unfit', 'bad-input', 'Only contacts can be exported as vCard.');
    const text = await services.database.as(user.id, (tx) =>
      query.format === 'vcard'
        ? contactsAsVcards(tx)
        : query.columns === 'list'
          ? listAsCsv(tx, params.kind, query)
          : recordsAsCsv(tx, params.kind),
    );
    const [type, ending] = query.format === 'vcard' ? ['text/vcard', 'vcf'] : ['text/csv', 'csv'];
    res.set({ 'Content-Type': `${type}; charset=utf-8`, 'Content-Disposition': `attachment; filename="${params.kind}s.${ending}"` });
    res.send(text);
    return undefined;
  },
};
