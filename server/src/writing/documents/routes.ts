import { asDownload } from '../../base/contentDisposition';
import { inParts } from '../../base/download';
import type { Handlers } from '../../base/handler';
import { isRefusal, notFound } from '../../base/refusal';
import { addVersion, createDocument, saveDocument, setRemoved, setVersionWithdrawn } from './keep';
import { setLinkAddress } from './linkAddress';
import { addDocumentsTo, linkAddressOf, linksOf, setLinkWithdrawn } from './links';
import { documentOf, listDocuments, partOf } from './queries';

export const documentRoutes: Pick<
  Handlers,
  | 'listDocuments'
  | 'createDocument'
  | 'getDocument'
  | 'saveDocument'
  | 'removeDocument'
  | 'restoreDocument'
  | 'addDocumentVersion'
  | 'withdrawDocumentVersion'
  | 'getDocumentFile'
  | 'addDocuments'
  | 'listDocumentLinks'
  | 'withdrawDocumentLink'
  | 'setLinkAddress'
> = {
  listDocuments: ({ user, query, services }) =>
    services.database.as(user.id, async (tx) => ({
      documents: await listDocuments(tx, { text: query.text, toSend: query.toSend === 'true' }),
      linkAddress: await linkAddressOf(tx),
    })),

  createDocument: ({ user, body, services }) => createDocument(services, user, body),

  getDocument: async ({ user, params, services }) =>
    (await services.database.as(user.id, (tx) => documentOf(tx, params.id))) ?? notFound('document'),

  saveDocument: ({ user, params, body, services }) => saveDocument(services, user, params.id, body),

  removeDocument: ({ user, params, services }) => setRemoved(services, user, params.id, true),

  restoreDocument: ({ user, params, services }) => setRemoved(services, user, params.id, false),

  addDocumentVersion: ({ user, params, query, req, services }) =>
    addVersion(services, user, params.id, { ...query, saidBytes: Number(req.headers['content-length'] ?? 0), bytes: req }),

  withdrawDocumentVersion: ({ user, params, body, services }) => setVersionWithdrawn(services, user, params, body.withdrawn),

  getDocumentFile: async ({ user, params, services, res }) => {
    const document = await services.database.as(user.id, (tx) => documentOf(tx, params.id));
    const version = document?.versions.find(({ number }) => number === params.number);
    if (!version) return notFound('version');
    res.set({
      'Content-Type': 'application/octet-stream',
      'X-Content-Type-Options': 'nosniff',
      'Content-Disposition': asDownload(version.name),
      'Cache-Control': 'private, no-store',
    });
    return (
      (await services.downloads.send(
        user,
        res,
        inParts((part) => services.database.as(user.id, (tx) => partOf(tx, params, part))),
      )) ?? undefined
    );
  },

  addDocuments: ({ user, params, body, services }) => addDocumentsTo(services, user, params.id, body),

  listDocumentLinks: async ({ user, params, services }) => {
    const links = await services.database.as(user.id, (tx) => linksOf(tx, params.id));
    return isRefusal(links) ? links : { links };
  },

  withdrawDocumentLink: ({ user, params, body, services }) => setLinkWithdrawn(services, user, params.id, body.withdrawn),

  setLinkAddress: ({ user, body, services }) => setLinkAddress(services, user, body),
};
