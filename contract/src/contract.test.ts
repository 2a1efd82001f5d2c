import { describe, expect, test } from '@jest/globals';
import { openApiDocument } from './openApi';
import type { RouteShape } from './base/route';
import { ROLES } from './base/route';
import { routes } from './routes';
import { routeTable } from './routeTable';
import { emailQuery } from './emails/shapes';
import { keepOutRequest } from './decision/shapes';
import { setupRequest } from './team/shapes';

const all = Object.entries(routes) as [string, RouteShape][];

describe('the routes', () => {
  test.each(all)('%s names its parameters, its roles and what it is for', (_, route) => {
    const inPath = [...route.path.matchAll(/\{(\w+)\}/g)].map((match) => match[1]);
    expect(Object.keys(route.params?.shape ?? {}).sort()).toEqual(inPath.sort());
    expect(route.summary.length).toBeGreaterThan(5);
    if (route.access !== 'public') expect(route.access.every((role) => ROLES.includes(role))).toBe(true);
  });

  test('no two share method and path', () => {
    const keys = all.map(([, route]) => `${route.method} ${route.path}`);
    expect(new Set(keys).size).toBe(keys.length);
  });

  test('stand in the table for clients; `npm run routes` writes it', () => {
    expect(routeTable).toEqual(Object.fromEntries(all.map(([id, { method, path }]) => [id, `${method} ${path}`])));
  });

  test('what changes the rulebook or the team is for administrators', () => {
    for (const id of ['putRulebook', 'keepOut', 'removeKeepOut', 'decide', 'addMember', 'setPassword'] as const)
      expect(routes[id].access).toEqual(['admin']);
  });
});

describe('the OpenAPI document', () => {
  const document = openApiDocument('1.0.0') as {
    paths: Record<
      string,
      Record<
        string,
        { parameters: { name: string; in: string; required: boolean }[]; responses: Record<string, unknown>; security?: unknown[] }
      >
    >;
  };

  test('holds only plain JSON, and references that lead somewhere', () => {
    const text = JSON.stringify(document);
    expect(JSON.parse(text)).toEqual(document);
    expect(new Set(text.match(/"#\/[^"]+"/g))).toEqual(new Set(['"#/components/schemas/Error"']));
  });

  test('says which parameters are needed', () => {
    const parameters = document.paths['/emails']?.get?.parameters ?? [];
    expect(parameters.find((one) => one.name === 'limit')).toMatchObject({ in: 'query', required: false });
    expect(document.paths['/search']?.get?.parameters).toMatchObject([{ name: 'text', required: true }]);
    expect(document.paths['/emails/{id}']?.get?.parameters).toMatchObject([{ name: 'id', in: 'path', required: true }]);
  });

  test('says what needs no sign-in', () => {
    expect(document.paths['/session']?.get?.security).toEqual([]);
    expect(document.paths['/emails']?.get?.security).toBeUndefined();
  });
});

describe('shapes refuse what they do not name', () => {
  test.each([
    [
      'a setting more',
      setupRequest,
      { admin: { email: 'a@b.example', name: 'A', password: '0123456789', role: 'admin' }, ownDomains: ['b.example'] },
    ],
    ['a short password', setupRequest, { admin: { email: 'a@b.example', name: 'A', password: 'short' }, ownDomains: ['b.example'] }],
    ['no own domain', setupRequest, { admin: { email: 'a@b.example', name: 'A', password: '0123456789' }, ownDomains: [] }],
    ['an unknown effect', keepOutRequest, { kind: 'domain', value: 'b.example', effect: 'explode' }],
    ['a page of a thousand', emailQuery, { limit: '1000' }],
  ])('%s', (_, shape, value) => {
    expect(shape.safeParse(value).success).toBe(false);
  });

  test('and fill in what is left out', () => {
    expect(keepOutRequest.parse({ kind: 'domain', value: 'b.example' })).toEqual({
      kind: 'domain',
      value: 'b.example',
      exactly: false,
      effect: 'ignore',
      note: '',
    });
    expect(emailQuery.parse({})).toEqual({ limit: 60 });
  });
});
