import { z } from 'zod';
import { idParam, kindAndId, kindParam, nothing } from '../base/params';
import type { RouteShape } from '../base/route';
import { ADMINS, EDITORS, EVERYBODY } from '../base/route';
import { recordKind } from '../base/values';
import { ownKindContent } from './kindShapes';
import {
  dealStage,
  ownField,
  recordChange,
  recordDetail,
  recordPage,
  recordQuery,
  recordSetup,
  recordValues,
  recordView,
  recordsImportRequest,
  recordsPreview,
} from './shapes';

const undo = z.number().int().describe('The step that takes it back, for `POST /undo/{id}`; null where nothing was changed.');

const peopleOnRecord = z.strictObject({
  people: z
    .array(
      z.strictObject({
        kind: z.enum(['contact', 'lead']),
        id: z.number().int().positive(),
        role: z.string().trim().max(100).default(''),
      }),
    )
    .max(500),
});

export const recordRoutes = {
  listRecords: {
    method: 'get',
    path: '/records/{kind}',
    access: EVERYBODY,
    summary: 'Contacts, leads, accounts, deals, or records of own kinds',
    params: kindParam,
    query: recordQuery,
    response: recordPage,
  },
  getRecord: {
    method: 'get',
    path: '/records/{kind}/{id}',
    access: EVERYBODY,
    summary: 'One record',
    params: kindAndId,
    response: recordDetail,
  },
  createRecord: {
    method: 'post',
    path: '/records/{kind}',
    access: EDITORS,
    summary: 'Create a record',
    params: kindParam,
    body: recordValues,
    response: z.object({ id: z.number().int(), undo }),
    errors: ['taken'],
  },
  editRecord: {
    method: 'put',
    path: '/records/{kind}/{id}',
    access: EDITORS,
    summary: 'Change fields of a record; those not named stay. Noted with before and after',
    params: kindAndId,
    body: recordValues,
    response: recordDetail.extend({ undo: undo.nullable() }),
    errors: ['taken'],
  },
  recordChanges: {
    method: 'get',
    path: '/records/{kind}/{id}/changes',
    access: EVERYBODY,
    summary: 'What was changed of a record, the latest first',
    params: kindAndId,
    response: z.object({ changes: z.array(recordChange) }),
  },
  handOver: {
    method: 'post',
    path: '/records/{kind}/hand-over',
    access: EDITORS,
    summary: 'Give records to another member: those named, or all of one owner. Noted with before and after',
    params: kindParam,
    body: z.strictObject({
      from: z.number().int().positive().nullable().default(null).describe('All that this member owns.'),
      ids: z.array(z.number().int().positive()).max(20_000).default([]),
      to: z.number().int().positive().nullable().describe('Null: no one.'),
    }),
    response: z.object({ ids: z.array(z.number().int()), undo: undo.nullable() }),
  },
  proposeDealPeople: {
    method: 'get',
    path: '/deals/{id}/proposed-people',
    access: EDITORS,
    summary: 'People who take part in the mail of a deal and are not on it',
    params: idParam,
    response: z.object({
      people: z.array(z.object({ kind: z.enum(['contact', 'lead']), id: z.number().int(), name: z.string(), emails: z.number().int() })),
    }),
  },
  setDealPeople: {
    method: 'put',
    path: '/deals/{id}/people',
    access: EDITORS,
    summary: 'Who is on a deal, and what they are to it',
    params: idParam,
    body: peopleOnRecord,
    response: recordDetail.extend({ undo: undo.nullable() }),
  },
  getRecordSetup: {
    method: 'get',
    path: '/record-setup',
    access: EVERYBODY,
    summary: 'Own fields of records, and the stages of deals',
    response: recordSetup,
  },
  setOwnFields: {
    method: 'put',
    path: '/record-setup/fields/{kind}',
    access: ADMINS,
    summary: 'Set the own fields of a kind of records; values of a field that is gone go too',
    params: kindParam,
    body: z.strictObject({
      fields: z.array(ownField.extend({ key: z.string().optional() })).max(60),
      of: z.string().max(60).optional().describe('Of records of own kinds: the key of the kind.'),
    }),
    response: recordSetup,
  },
  setDealStages: {
    method: 'put',
    path: '/record-setup/stages',
    access: ADMINS,
    summary: 'Set the stages of deals, in order; deals follow a stage that is renamed',
    body: z.strictObject({ stages: z.array(dealStage).max(40) }),
    response: recordSetup,
    errors: ['in-use'],
  },
  createOwnKind: {
    method: 'post',
    path: '/record-setup/kinds',
    access: ADMINS,
    summary: 'Define a kind of records of the workspace’s own',
    body: ownKindContent,
    response: recordSetup,
    errors: ['taken'],
  },
  editOwnKind: {
    method: 'put',
    path: '/record-setup/kinds/{id}',
    access: ADMINS,
    summary: 'Change a kind of records; records follow a state that is renamed, and numbers given stay',
    params: idParam,
    body: ownKindContent,
    response: recordSetup,
    errors: ['taken', 'in-use'],
  },
  removeOwnKind: {
    method: 'delete',
    path: '/record-setup/kinds/{id}',
    access: ADMINS,
    summary: 'Remove a kind that has no records',
    params: idParam,
    response: recordSetup,
    errors: ['in-use'],
  },
  setOwnRecordPeople: {
    method: 'put',
    path: '/records/own/{id}/people',
    access: EDITORS,
    summary: 'Who is on a record of an own kind, and what they are to it',
    params: idParam,
    body: peopleOnRecord,
    response: recordDetail.extend({ undo: undo.nullable() }),
  },
  listViews: {
    method: 'get',
    path: '/record-views',
    access: EVERYBODY,
    summary: 'Lists of records that were kept under a name, one’s own and shared ones',
    response: z.object({ views: z.array(recordView) }),
  },
  keepView: {
    method: 'post',
    path: '/record-views',
    access: EVERYBODY,
    summary: 'Keep a list under a name; the same name of your own is replaced',
    body: z.strictObject({
      kind: recordKind,
      name: z.string().trim().min(1, { message: 'needs a name' }).max(80),
      query: z.string().max(2000),
      shared: z.boolean().default(false),
    }),
    response: recordView,
  },
  forgetView: {
    method: 'delete',
    path: '/record-views/{id}',
    access: EVERYBODY,
    summary: 'Forget a list of one’s own',
    params: idParam,
    response: nothing,
  },
  previewRecords: {
    method: 'post',
    path: '/records/{kind}/import/preview',
    access: EDITORS,
    summary: 'What an import of records would do; changes nothing',
    params: kindParam,
    body: recordsImportRequest,
    maxBody: 64 * 1024 * 1024,
    response: recordsPreview,
  },
  importRecords: {
    method: 'post',
    path: '/records/{kind}/import',
    access: EDITORS,
    summary: 'Import records from CSV or vCard',
    params: kindParam,
    body: recordsImportRequest,
    maxBody: 64 * 1024 * 1024,
    response: recordsPreview.extend({ undo: undo.nullable() }),
  },
  exportRecords: {
    method: 'get',
    path: '/records/{kind}/export',
    access: EDITORS,
    summary: 'Records as CSV, or contacts as vCard',
    params: kindParam,
    query: recordQuery.extend({
      format: z.enum(['csv', 'vcard']).default('csv'),
      columns: z
        .enum(['fields', 'list'])
        .default('fields')
        .describe('fields: as the import reads them, of all records. list: as the list shows them, of those that its filters find.'),
    }),
    response: { mediaType: 'text/csv' },
  },
} as const satisfies Record<string, RouteShape>;
