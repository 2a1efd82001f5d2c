import { writeHistoryReading } from '../base/audit';
import type { RecordKind, RecordsPreview } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import type { z } from 'zod';
import type { recordsImportRequest } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { emailRows } from '../emails/emailRows';
import { registerPage } from '../emails/register';
import type { Services } from '../base/services';
import type { Concerned } from '../base/concerned';
import { concernsMail } from '../base/concerned';
import { applyImport } from '../records/import/applyImport';
import { setDealPeople } from '../records/dealPeople';
import { editRecord } from '../records/editRecord';
import { handOver } from '../records/handOver';
import { contactsAsVcards, listAsCsv, recordsAsCsv } from '../records/exportRecords';
import { RECORD_FIELDS } from '../records/fields';
import { historyOf, historyOfDomain, historyPage } from '../histories/history';
import { recordInsights, scopeInsights } from '../histories/insights';
import type { ImportPlan } from '../records/import/planImport';
import { planImport } from '../records/import/planImport';
import { readCsv } from '../base/files/readCsv';
import { readVcards } from '../records/import/readVcards';
import { recordDetail } from '../records/recordDetail';
import { scopeFigures } from '../records/mailFigures';
import { recordList, searchRecords } from '../records/recordList';
import { liveRulebook } from '../rulebook/liveRulebook';
import { notFound, Refusal } from '../base/refusal';
import type { Handlers } from '../base/handler';

type RecordHandlers = Pick<
  Handlers,
  | 'listRecords'
  | 'getRecord'
  | 'getHistory'
  | 'getInsights'
  | 'getDomainHistory'
  | 'getDomainInsights'
  | 'createRecord'
  | 'editRecord'
  | 'recordChanges'
  | 'handOver'
  | 'setDealPeople'
  | 'previewRecords'
  | 'importRecords'
  | 'exportRecords'
  | 'search'
>;
const SAMPLE = 12;
const SHOWN_BAD = 200;

export const recordHandlers: RecordHandlers = {
  listRecords: ({ user, params, query, services }) => services.database.as(user.id, (tx) => recordList(tx, params.kind, query)),

  getRecord: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => recordDetail(tx, params.kind, params.id, compiled));
  },

  getHistory: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const page = await historyPage(tx, historyOf(params.kind, params.id), query, compiled);
      await writeHistoryReading(tx, user, page, `${params.kind} ${params.id}`);
      return page;
    });
  },

  getInsights: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => recordInsights(tx, params.kind, params.id, historyOf(params.kind, params.id), compiled));
  },

  getDomainHistory: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const page = await historyPage(tx, historyOfDomain(params.domain), query, compiled);
      await writeHistoryReading(tx, user, page, 'domain');
      return page;
    });
  },

  getDomainInsights: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const scope = historyOfDomain(params.domain);
    return services.database.as(user.id, async (tx) => scopeInsights(tx, scope, await scopeFigures(tx, scope), compiled));
  },

  createRecord: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const { id, concerned } = await services.database.as(user.id, (tx) =>
      editRecord(tx, user.id, params.kind, null, body.values, compiled),
    );
    await decideFor(services, concerned);
    return { id };
  },

  editRecord: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const { detail, concerned } = await services.database.as(user.id, async (tx) => {
      const edited = await editRecord(tx, user.id, params.kind, params.id, body.values, compiled);
      return { detail: await recordDetail(tx, params.kind, params.id, compiled), concerned: edited.concerned };
    });
    await decideFor(services, concerned);
    return detail;
  },

  recordChanges: async ({ user, params, services }) => {
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ id: number; at: string; by: string | null; field: string; before: string; after: string }>(
        sql`SELECT c.id, c.at, u.name AS by, c.field, c.before, c.after FROM record_changes c LEFT JOIN users u ON u.id = c.user_id WHERE c.kind = ${params.kind} AND c.record_id = ${params.id} ORDER BY c.id DESC LIMIT 300`,
      ),
    );
    return { changes: rows.map((row) => ({ ...row, at: new Date(row.at).toISOString() })) };
  },

  handOver: async ({ user, params, body, services }) => {
    const { ids, concerned } = await services.database.as(user.id, (tx) => handOver(tx, user.id, params.kind, body));
    await decideFor(services, concerned);
    return { ids };
  },

  setDealPeople: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const { detail, concerned } = await services.database.as(user.id, async (tx) => {
      const changed = await setDealPeople(tx, user.id, params.id, body.people);
      return { detail: await recordDetail(tx, 'deal', params.id, compiled), concerned: changed };
    });
    await decideFor(services, concerned);
    return detail;
  },

  previewRecords: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => previewOf(await planOf(tx, params.kind, body, compiled), false));
  },

  importRecords: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const { preview, concerned } = await services.database.as(user.id, async (tx) => {
      const plan = await planOf(tx, params.kind, body, compiled);
      if (plan.columns.length === 0 || !plan.columns.some((column) => column.field === 'name'))
        throw new Refusal(422, 'bad-file', plan.bad[0]?.reason ?? 'The file cannot be read.');
      return { preview: previewOf(plan, true), concerned: await applyImport(tx, plan, user.id) };
    });
    await decideFor(services, concerned);
    return preview;
  },

  exportRecords: async ({ user, params, query, services, res }) => {
    if (query.format === 'vcard' && params.kind !== 'contact')
      throw new Refusal(422, 'bad-input', 'Only contacts can be exported as vCard.');
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

  search: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const page = await registerPage(tx, { text: query.text, limit: 12 });
      return { records: await searchRecords(tx, query.text), emails: await emailRows(tx, page.ids, compiled), emailTotal: page.total };
    });
  },
};

async function decideFor({ jobs }: Services, concerned: Concerned): Promise<void> {
  if (concernsMail(concerned)) await jobs.decideConcerned(concerned);
}

function planOf(tx: Tx, kind: RecordKind, body: z.output<typeof recordsImportRequest>, rulebook: CompiledRulebook): Promise<ImportPlan> {
  if (body.format === 'vcard' && kind !== 'contact') throw notFound('vCard import for this kind');
  return planImport(tx, kind, body.format === 'vcard' ? readVcards(body.text) : readCsv(body.text), body.mapping, rulebook);
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
