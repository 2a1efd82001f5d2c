import { ROLES } from '@fulvet/contract';
import { expect, test } from '@jest/globals';
import { PAGES, pagesOf, pagesToFind, titleAt } from './pages';

test('every page without parameters has its title, and no two pages share a path', () => {
  const paths = Object.values(PAGES).map(({ path }) => path);
  expect(new Set(paths).size).toBe(paths.length);
  for (const { path, title } of Object.values(PAGES)) expect(titleAt(path.replace(/:\w+/g, '7'))).toBe(title);
  expect(titleAt('/nothing/of/the/kind')).toBeNull();
});

test('a literal word goes before a parameter', () => {
  expect([titleAt('/mailboxes/connect'), titleAt('/mailboxes/12'), titleAt('/records/deal/import')]).toEqual([
    'Connect a mailbox',
    'Mailbox',
    'Import records',
  ]);
});

test('each role finds what its column has, and only administrators find the rules', () => {
  for (const role of ROLES) {
    const findable = new Set(pagesToFind(role).map(({ path }) => path));
    const column = (['steps', 'work', 'improve', 'administer'] as const).flatMap((group) => pagesOf(group, role));
    for (const { path } of column) if (path !== '/records') expect(findable).toContain(path);
    expect(findable.has('/keep-out')).toBe(role === 'admin');
    expect(findable.has('/workspace')).toBe(role === 'admin');
  }
  expect(pagesOf('work', 'viewer').map(({ title }) => title)).toEqual(['Home', 'All mail', 'Sharing', 'Undo']);
});
