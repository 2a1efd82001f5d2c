import { describe, expect, test } from '@jest/globals';
import { schemaTables, sqlSources, unknownNames } from './sqlNames.mjs';

const tables = schemaTables();
const sources = sqlSources();

/** The schema with one column under another name. */
function renamed(table, column) {
  const columns = new Set(tables.get(table));
  columns.delete(column);
  columns.add('renamed_column');
  return new Map(tables).set(table, columns);
}

describe('names in SQL', () => {
  test('are all known to the schema or to their query', () => {
    expect(tables.size).toBeGreaterThan(70);
    expect(sources.reduce((sum, { texts }) => sum + texts.length, 0)).toBeGreaterThan(1000);
    expect(unknownNames(tables, sources)).toEqual([]);
  });

  test.each([
    ['emails', 'sent_at'],
    ['emails', 'id'],
    ['participants', 'address'],
    ['accounts', 'name'],
    ['filings', 'record_id'],
    ['grants', 'withdrawn_at'],
    ['undo_log', 'payload'],
    ['users', 'email'],
  ])('a renamed column does not pass: %s.%s', (table, column) => {
    expect(unknownNames(renamed(table, column), sources).length).toBeGreaterThan(0);
  });

  test('most columns are found wherever they stand', () => {
    const all = [...tables].flatMap(([table, columns]) =>
      [...columns].filter((name) => name !== 'ctid' && name !== 'xmax').map((column) => [table, column]),
    );
    const some = all.filter((_, at) => at % 12 === 5);
    const found = some.filter(([table, column]) => unknownNames(renamed(table, column), sources).length > 0);
    expect(found.length / some.length).toBeGreaterThan(0.75);
  });
});
