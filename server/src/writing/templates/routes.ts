import type { Handlers } from '../../base/handler';
import { asDownload } from '../../base/contentDisposition';
import { isRefusal, notFound } from '../../base/refusal';
import { mergeFieldsOf } from './fieldValues';
import { draftAsTemplate, fill } from './fill';
import { addTemplateFile, templateFile } from './files';
import { createTemplate, saveTemplate, setRemoved } from './keep';
import { listTemplates, templateFigures, templateOf } from './queries';

export const templateRoutes: Pick<
  Handlers,
  | 'listTemplates'
  | 'createTemplate'
  | 'listMergeFields'
  | 'listTemplateFigures'
  | 'addTemplateFile'
  | 'getTemplateFile'
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

  addTemplateFile: ({ user, query, req, services }) => addTemplateFile(services, user, query.name, req),

  getTemplateFile: async ({ user, params, services, res }) => {
    const file = await templateFile(services, user, params.id);
    if (isRefusal(file)) return file;
    res.set({
      'Content-Type': 'message/rfc822',
      'X-Content-Type-Options': 'nosniff',
      'Content-Disposition': asDownload(file.name),
      'Cache-Control': 'private, no-store',
    });
    res.send(file.content);
    return undefined;
  },

  getTemplate: async ({ user, params, services }) =>
    (await services.database.as(user.id, (tx) => templateOf(tx, params.id))) ?? notFound('template'),

  saveTemplate: ({ user, params, body, services }) => saveTemplate(services, user, params.id, body),

  removeTemplate: ({ user, params, services }) => setRemoved(services, user, params.id, true),

  restoreTemplate: ({ user, params, services }) => setRemoved(services, user, params.id, false),

  fillTemplate: ({ user, params, body, services }) => fill(services, user, params.id, body),

  draftAsTemplate: ({ user, params, services }) => draftAsTemplate(services, user, params.id),
};
