import { readFileSync } from 'node:fs';
import ts from 'typescript';

/** Attributes and calls whose strings no one reads. */
const NOT_READ = /^(?:className|class|d|style|viewBox|path|key|value|name|data-\w+|gridTemplateColumns)$/;
const NOT_READ_CALLS = /^(?:clsx|sql|raw|rowsOf)/;

/**
 * The texts of a source file that people may read: JSX text, and strings and templates with a space in them. A part of a template that is
 * computed is `{}`. SQL, class names and imports are left out.
 *
 * @param {string} file path of a TypeScript file
 * @returns {{ line: number, text: string }[]}
 */
export function textsOf(file) {
  const source = ts.createSourceFile(
    file,
    readFileSync(file, 'utf8'),
    ts.ScriptTarget.Latest,
    true,
    file.endsWith('x') ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );
  const found = [];
  const visit = (node) => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
    if (ts.isTaggedTemplateExpression(node)) return;
    if (ts.isJsxAttribute(node) && NOT_READ.test(node.name.getText())) return;
    if (ts.isCallExpression(node) && NOT_READ_CALLS.test(node.expression.getText())) return;
    const text = textOf(node);
    if (text !== null && /[a-z]/i.test(text) && (ts.isJsxText(node) || /\s/.test(text)) && !isCode(text))
      found.push({ line: source.getLineAndCharacterOfPosition(node.getStart()).line + 1, text });
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

function textOf(node) {
  if (ts.isJsxText(node)) return node.text.replace(/\s+/g, ' ').trim();
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) return node.text;
  if (ts.isTemplateExpression(node)) return node.head.text + node.templateSpans.map((span) => `{}${span.literal.text}`).join('');
  return null;
}

/** SQL, and class names that stand in a constant. */
const isCode = (text) =>
  /\b(?:SELECT|INSERT|UPDATE|DELETE|WHERE)\b|(?:^| )(?:rounded|flex|grid|block|px-\d|text-sm|min-h-\d+)(?: |$)/.test(text);
