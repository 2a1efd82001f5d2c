import { openApiDocument } from '@fulvet/contract';
import type { Handlers } from '../base/handler';

export const openApiRoutes: Pick<Handlers, 'openApi'> = {
  openApi: async ({ services }) => openApiDocument(services.version),
};
