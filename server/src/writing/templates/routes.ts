import type { Handlers } from '../../base/handler';
import { notFound } from '../../base/refusal';
import { mergeFieldsOf } from './fieldValues';
import { draftAsTemplate, fill } from './fill';
import { createTemplate, saveTemplate, setRemoved } from './keep';
import { listTemplates, templateFigures, templateOf } from './queries';

export const templateRoutes: Pick<
  Handlers,
  | 'listTemplates'
  | 'createTemplate'
  | 'listMergeFields'
  | 'listTemplateFigures'
  | 'getTemplate'
  | 'saveTemplate'
  | 'removeTemplate'
  | 'restoreTemplate'
  | 'fillTemplate'
  | 'draftAsTemplate'
> = {
  listTemplates: async ({ user, query, services }) => ({
    templates: await services.database.as(user.id, (tx) => listTemplates(tx, query)),
  }),

  createTemplate: ({ user, body, services }) => createTemplate(services, user, body),

  listMergeFields: async ({ user, services }) => ({ fields: await services.database.as(user.id, (tx) => mergeFieldsOf(tx)) }),

  listTemplateFigures: async ({ user, services }) => ({ figures: await services.database.as(user.id, (tx) => templateFigures(tx)) }),

  getTemplate: async ({ user, params, services }) =>
    (await services.database.as(user.id, (tx) => templateOf(tx, params.id))) ?? notFound('template'),

  saveTemplate: ({ user, params, body, services }) => saveTemplate(services, user, params.id, body),

  removeTemplate: ({ user, params, services }) => setRemoved(services, user, params.id, true),

  restoreTemplate: ({ user, params, services }) => setRemoved(services, user, params.id, false),

  fillTemplate: ({ user, params, body, services }) => fill(services, user, params.id, body),

  draftAsTemplate: ({ user, params, services }) => draftAsTemplate(services, user, params.id),
};
