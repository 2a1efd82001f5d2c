import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import ts from 'typescript';
import { root } from './run.mjs';

const SCHEMA = 'server/src/base/db/schema';
/** Where programs of the server ask the database; tests ask by texts of their own. */
const ASKS = ['server/src', 'demo/src', 'bench/src'];

/**
 * Names in the SQL of the sources that neither the schema nor the query itself knows: a renamed column is found wherever it is still asked for.
 *
 * @param tables columns by table, from {@link schemaTables}
 * @returns one line for each, `file:line name`
 */
export function unknownNames(tables, sources = sqlSources()) {
  const columns = new Set([...tables.values()].flatMap((names) => [...names]));
  const everywhere = new Set(sources.flatMap(({ texts }) => texts.flatMap(({ words }) => declaredNames(words))));
  return sources.flatMap(({ path, texts }) => {
    const declared = new Set(texts.flatMap(({ words }) => declaredNames(words)));
    return texts.flatMap(({ line, words }) => {
      const bound = boundAliases(words, tables);
      const own = ownColumns(words, tables);
      return words.flatMap((word, at) => {
        if (!isName(word) || words[at + 1] === '(') return [];
        const known = words[at - 1] === '.' ? isColumn(words[at - 2], word) : isWord(word);
        return known ? [] : [`${path}:${line} ${words[at - 1] === '.' ? `${words[at - 2]}.` : ''}${word}`];
      });
      function isColumn(alias, name) {
        if (['pgboss', 'information_schema', 'pg_catalog'].includes(alias)) return true;
        const named = bound.get(alias);
        return named ? named.has(name) : columns.has(name) || everywhere.has(name);
      }
      function isWord(name) {
        return KEYWORDS.has(name) || tables.has(name) || declared.has(name) || (own ?? columns).has(name);
      }
    });
  });
}

/** Columns by table, as the database names them, read from the schema's source. */
export function schemaTables() {
  const tables = new Map();
  for (const name of readdirSync(join(root, SCHEMA))) {
    eachNode(parse(join(SCHEMA, name)), (node) => {
      if (!ts.isCallExpression(node) || !['pgTable', 'pgView'].includes(node.expression.getText())) return;
      const [table, columns] = node.arguments;
      if (!ts.isStringLiteral(table) || !ts.isObjectLiteralExpression(columns)) return;
      const names = columns.properties.flatMap((property) =>
        ts.isSpreadAssignment(property) ? spreadNames(property.expression.getText()) : [snake(property.name.getText())],
      );
      tables.set(table.text, new Set([...names, 'ctid', 'xmax']));
    });
  }
  return tables;
}

function spreadNames(name) {
  for (const file of readdirSync(join(root, SCHEMA))) {
    let found = null;
    eachNode(parse(join(SCHEMA, file)), (node) => {
      if (!ts.isVariableDeclaration(node) || node.name.getText() !== name.replace(/\(.*/, '')) return;
      eachNode(node.initializer, (inner) => {
        if (found === null && ts.isObjectLiteralExpression(inner))
          found = inner.properties.map((property) => snake(property.name.getText()));
      });
    });
    if (found) return found;
  }
  return [];
}

/** Every template tagged `sql` in the sources, as words; what is inserted stands as `$`. */
export function sqlSources() {
  return ASKS.flatMap((folder) => readdirSync(join(root, folder), { recursive: true }).map((name) => join(folder, name)))
    .filter((path) => path.endsWith('.ts') && !path.endsWith('.test.ts') && !path.includes('/testing/'))
    .map((path) => {
      const source = parse(path);
      const texts = [];
      eachNode(source, (node) => {
        if (!ts.isTaggedTemplateExpression(node) || node.tag.getText() !== 'sql') return;
        const { template } = node;
        const text = ts.isNoSubstitutionTemplateLiteral(template)
          ? template.text
          : [template.head.text, ...template.templateSpans.map((span) => span.literal.text)].join(' $ ');
        texts.push({ line: source.getLineAndCharacterOfPosition(node.getStart()).line + 1, words: wordsOf(text) });
      });
      return { path: relative('.', path), texts };
    });
}

const wordsOf = (text) => text.replace(/--[^\n]*/g, ' ').match(/'(?:[^']|'')*'|"[^"]*"|[A-Za-z_][A-Za-z0-9_]*|\d[\w.]*|\$|[^\s]/g) ?? [];
const isName = (word) => /^[a-z_][a-z0-9_]*$/.test(word);
const snake = (name) => name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);

/** What a text names by itself: `AS x`, tables' aliases, `AS t(a, b)`, `WITH t (a, b) AS`. */
function declaredNames(words) {
  const names = [];
  words.forEach((word, at) => {
    const before = words[at - 1];
    const next = words[at + 1];
    if (!isName(word)) return;
    if (word.length <= 2) names.push(word);
    if (before === 'AS' || before === ')' || before === '$' || before === '"') names.push(word);
    if ((before === 'WITH' || before === 'RECURSIVE' || before === ',') && (next === 'AS' || next === '(')) names.push(word);
    if (isName(before ?? '') && ['FROM', 'JOIN', 'UPDATE', 'INTO', 'USING', ',', 'ONLY'].includes(words[at - 2])) names.push(word);
    if (next === '(' && (before === 'AS' || before === ')' || before === 'WITH')) {
      for (let inside = at + 2; inside < words.length && words[inside] !== ')'; inside += 1) {
        if (words[inside - 1] === '(' || words[inside - 1] === ',') names.push(words[inside]);
      }
    }
  });
  return names;
}

/** Aliases that a text gives to tables of the schema, with their columns. One that is given twice to different tables is left out. */
function boundAliases(words, tables) {
  const bound = new Map();
  const twice = new Set();
  const withNames = new Set(words.filter((word, at) => tables.has(word) && words[at + 1] === 'AS' && words[at + 2] === '('));
  words.forEach((word, at) => {
    const columns = tables.get(word);
    if (!columns || withNames.has(word) || !['FROM', 'JOIN', 'UPDATE', 'INTO', 'USING', ',', 'ONLY'].includes(words[at - 1])) return;
    const next = words[at + 1] === 'AS' ? words[at + 2] : words[at + 1];
    const alias = next !== undefined && isName(next) && !KEYWORDS.has(next) ? next : word;
    if (bound.has(alias) && bound.get(alias) !== columns) twice.add(alias);
    bound.set(alias, columns);
  });
  // Another use of the same name, as of a subquery.
  words.forEach((word, at) => {
    if (isName(word) && (words[at - 1] === ')' || (words[at - 1] === 'AS' && words[at - 2] === ')') || words[at - 1] === '$'))
      twice.add(word);
  });
  for (const alias of twice) bound.delete(alias);
  return bound;
}

/** Columns of all tables that a text asks, where it names every one of them itself; otherwise null. */
function ownColumns(words, tables) {
  const own = new Set();
  for (const [at, word] of words.entries()) {
    if (!['FROM', 'JOIN', 'UPDATE', 'INTO', 'USING'].includes(word) || words[at - 1] === 'DISTINCT' || words[at + 1] === 'SET') continue;
    const columns = tables.get(words[at + 1] === 'ONLY' ? words[at + 2] : words[at + 1]);
    if (!columns || words[at + 2] === ',' || words[at + 3] === ',') return null;
    for (const name of columns) own.add(name);
  }
  return own.size > 0 ? own : null;
}

function parse(path) {
  return ts.createSourceFile(path, readFileSync(join(root, path), 'utf8'), ts.ScriptTarget.Latest, true);
}

function eachNode(node, visit) {
  visit(node);
  ts.forEachChild(node, (child) => eachNode(child, visit));
}

/** Small words that stand without a bracket: PostgreSQL's types and units, columns of the queue and of sessions, which are not the schema's. */
const KEYWORDS = new Set(
  'pgboss start_after started_on singleton_key session sid sess not and secs days months bigint bigserial boolean bool text int int4 int8 integer smallint numeric real float4 float8 date time timestamptz timestamp interval json jsonb regclass regproc bytea uuid tsquery tsvector name oid true false null current_date current_timestamp epoch day month week hour minute second year excluded milliseconds microseconds simple'.split(
    ' ',
  ),
);
