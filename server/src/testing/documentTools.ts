import { routeTo } from './routeTo';
import type { Answer } from './testServer';
import { crew, draft, IDA, rep, stage } from './writingStage';

// Documents, and links to them, as members make them: for the tests of documents.

export const as = (token: string, target: ReturnType<typeof routeTo>, body?: unknown): Promise<Answer> =>
  stage.server.call(target, { token, ...(body === undefined ? {} : { body }) });
export const good = ({ status, json, text }: Answer): Answer['json'] => {
  if (status !== 200) throw new Error(`${status} ${text}`);
  return json;
};
export const BYTES = { 'content-type': 'application/octet-stream' };
export const addFile = (id: number, name: string, bytes: Uint8Array | string, token = crew.tokens.rep): Promise<Answer> => {
  const { method, path } = routeTo('addDocumentVersion', { id });
  return stage.server.call(
    { method, path: `${path}?name=${encodeURIComponent(name)}&type=application%2Fpdf` },
    { token, bytes, headers: BYTES },
  );
};
export const make = async (
  content: object = {},
  bytes: Uint8Array | string = 'prices',
  token = crew.tokens.rep,
): Promise<Answer['json']> => {
  const { id } = good(await as(token, routeTo('createDocument'), { title: 'Price list', topic: 'Prices', ...content }));
  return good(await addFile(id, 'prices.pdf', bytes, token));
};
export const titlesFor = async (token: string, query: Record<string, unknown> = {}): Promise<string[]> =>
  good(await as(token, routeTo('listDocuments', query))).documents.map(({ title }: { title: string }) => title);
export const setAddress = (address: string | null, more: object = {}): Promise<Answer> =>
  as(crew.tokens.admin, routeTo('setLinkAddress'), { address, ...more });
export const addTo = (id: number, documentIds: number[], how: 'files' | 'links'): Promise<Answer> =>
  rep(routeTo('addDocuments', { id }), { body: { documentIds, how } });
export const linkTo = async (document: { id: number }, email?: Answer['json']): Promise<string> => {
  const { links } = good(await addTo((email ?? (await draft({ to: [IDA] }))).id, [document.id], 'links'));
  return links[0].url;
};
export const statusOf = async (url: string): Promise<number> => {
  const answer = await fetch(url);
  await answer.arrayBuffer();
  return answer.status;
};
