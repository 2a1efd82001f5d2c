import { undoable } from '../base/undoShapes';
import { z } from 'zod';
import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { ADMINS } from '../base/route';
import { draftState, finding, addressListEntry, addressList, pasted, ruleUse, rulebookState } from './shapes';

const listParam = z.object({ list: z.string().max(64) });

export const draftRoutes = {
  getDraft: {
    method: 'get',
    path: '/rulebook/draft',
    access: ADMINS,
    summary: 'The rulebook that is being edited',
    response: draftState,
  },
  putDraft: {
    method: 'put',
    path: '/rulebook/draft',
    access: ADMINS,
    summary: 'Keep an edited rulebook as the draft; nothing takes effect',
    query: z.object({ revision: z.coerce.number().int().min(0).describe('The revision that was edited; refused when another is kept.') }),
    body: z.unknown(),
    maxBody: 8 * 1024 * 1024,
    response: draftState.extend(undoable.shape),
    errors: ['bad-rulebook', 'changed-meanwhile'],
  },
  dropDraft: {
    method: 'delete',
    path: '/rulebook/draft',
    access: ADMINS,
    summary: 'Throw the draft away',
    response: draftState.extend(undoable.shape),
  },
  putDraftLive: {
    method: 'post',
    path: '/rulebook/draft/live',
    access: ADMINS,
    summary: 'Put the draft in force for new mail; past mail stays as decided until decided again',
    body: z.strictObject({ revision: z.number().int(), note: z.string().trim().max(500).default('') }),
    response: rulebookState,
    errors: ['changed-meanwhile', 'nothing-changed'],
  },
  checkDraft: {
    method: 'get',
    path: '/rulebook/draft/check',
    access: ADMINS,
    summary: 'What is odd about the draft: rules that never speak, lists that are gone, patterns that match all or nothing',
    response: z.object({ findings: z.array(finding) }),
  },
  useOfRules: {
    method: 'get',
    path: '/rules/use',
    access: ADMINS,
    summary: 'What each rule and list entry took in the last 30 days',
    response: z.object({ rules: z.array(ruleUse) }),
  },
  listAddressLists: {
    method: 'get',
    path: '/address-lists',
    access: ADMINS,
    summary: 'Address lists',
    response: z.object({ lists: z.array(addressList) }),
  },
  createAddressList: {
    method: 'post',
    path: '/address-lists',
    access: ADMINS,
    summary: 'Make an address list',
    body: z.strictObject({
      name: z.string().trim().min(1, { message: 'is missing' }).max(100),
      note: z.string().trim().max(500).default(''),
    }),
    response: addressList,
    errors: ['exists'],
  },
  deleteAddressList: {
    method: 'delete',
    path: '/address-lists/{list}',
    access: ADMINS,
    summary: 'Remove an address list that no rule refers to',
    params: listParam,
    response: undoable,
    errors: ['in-use'],
  },
  listAddressListEntries: {
    method: 'get',
    path: '/address-lists/{list}/entries',
    access: ADMINS,
    summary: 'Entries of an address list',
    params: listParam,
    query: z.object({ text: z.string().max(200).optional(), offset: z.coerce.number().int().min(0).default(0) }),
    response: z.object({ entries: z.array(addressListEntry), total: z.number().int() }),
  },
  pasteAddressListEntries: {
    method: 'post',
    path: '/address-lists/{list}/entries',
    access: ADMINS,
    summary: 'Add entries, pasted in any form: addresses, domains, URLs, “Name <address>”, separated by commas or lines; or CSV',
    params: listParam,
    body: z.strictObject({
      text: z.string().max(5_000_000),
      note: z.string().trim().max(500).default(''),
      until: z.iso.date().nullable().default(null),
    }),
    maxBody: 8 * 1024 * 1024,
    response: pasted.extend(undoable.shape),
  },
  changeAddressListEntry: {
    method: 'put',
    path: '/address-lists/{list}/entries/{id}',
    access: ADMINS,
    summary: 'Change an entry’s note, end or reach',
    params: listParam.extend(idParam.shape),
    body: z.strictObject({
      note: z.string().trim().max(500).optional(),
      until: z.iso.date().nullable().optional(),
      exactly: z.boolean().optional(),
    }),
    response: undoable,
  },
  removeAddressListEntry: {
    method: 'delete',
    path: '/address-lists/{list}/entries/{id}',
    access: ADMINS,
    summary: 'Remove an entry',
    params: listParam.extend(idParam.shape),
    response: undoable,
  },
  exportAddressList: {
    method: 'get',
    path: '/address-lists/{list}/export',
    access: ADMINS,
    summary: 'An address list as CSV: kind, value, exactly, note, until',
    params: listParam,
    response: { mediaType: 'text/csv' },
  },
} as const satisfies Record<string, RouteShape>;
