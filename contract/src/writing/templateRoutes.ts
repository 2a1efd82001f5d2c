import { z } from 'zod';
import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import {
  filledTemplate,
  fillTemplate,
  mergeField,
  template,
  templateContent,
  templateFigures,
  templateKind,
  templateRow,
} from './templateShapes';

export const templateRoutes = {
  listTemplates: {
    method: 'get',
    path: '/templates',
    access: EDITORS,
    summary:
      'Templates, text blocks and articles that the reader finds; for a draft only what may be put in, what fits the answered email first',
    query: z.object({
      kind: templateKind.optional(),
      text: z.string().trim().max(200).default(''),
      outgoingId: z.coerce.number().int().positive().optional(),
    }),
    response: z.object({ templates: z.array(templateRow) }),
  },
  createTemplate: {
    method: 'post',
    path: '/templates',
    access: EDITORS,
    summary: 'Keep a text as a template, a text block or an article',
    body: templateContent,
    response: template,
    errors: ['may-not-share', 'too-many'],
  },
  listMergeFields: {
    method: 'get',
    path: '/templates/fields',
    access: EDITORS,
    summary: 'Fields that a template can have',
    response: z.object({ fields: z.array(mergeField) }),
  },
  listTemplateFigures: {
    method: 'get',
    path: '/templates/figures',
    access: EDITORS,
    summary: 'How often each template was used and answered',
    response: z.object({ figures: z.array(templateFigures) }),
  },
  getTemplate: {
    method: 'get',
    path: '/templates/{id}',
    access: EDITORS,
    summary: 'A template with its text',
    params: idParam,
    response: template,
  },
  saveTemplate: {
    method: 'put',
    path: '/templates/{id}',
    access: EDITORS,
    summary: 'Change a template',
    params: idParam,
    body: templateContent.extend({ revision: z.number().int().min(0).describe('As it was read.') }),
    response: template,
    errors: ['changed-meanwhile', 'may-not-share'],
  },
  removeTemplate: {
    method: 'delete',
    path: '/templates/{id}',
    access: EDITORS,
    summary: 'Remove a template; it can be restored',
    params: idParam,
    response: template,
  },
  restoreTemplate: {
    method: 'post',
    path: '/templates/{id}/restore',
    access: EDITORS,
    summary: 'Restore a template that was removed',
    params: idParam,
    response: template,
  },
  fillTemplate: {
    method: 'post',
    path: '/templates/{id}/fill',
    access: EDITORS,
    summary: 'A template with its fields filled, for a draft or, to look at it, for a record; the draft itself is not changed',
    params: idParam,
    body: fillTemplate,
    response: filledTemplate,
    errors: ['not-published'],
  },
  draftAsTemplate: {
    method: 'get',
    path: '/outgoing/{id}/as-template',
    access: EDITORS,
    summary: 'A draft as a template would have it: values that equal fields are fields',
    params: idParam,
    response: z.object({ subject: z.string(), html: z.string(), fields: z.array(z.string()) }),
  },
} as const satisfies Record<string, RouteShape>;
