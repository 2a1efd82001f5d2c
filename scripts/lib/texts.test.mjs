import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { textsOf } from './texts.mjs';

/** Words that are not plain English, or that have another name in the product. */
const BANNED =
  /\b(?:anew|mend(?:ed|s)?|nobody|somebody|everybody|anybody|whom|what beca?omes? of|stands? under|lies in|let go|on no record|under (?:no|any) record|let in less|on record|own word|otherwise decided|pass(?:es)? on|by machine|docket|kept lists?|strangers?|deeds?|called so|take off|taken off|taken back|had back|is told|are told|read anew)\b|^(?:said|whose)\b/i;
/** Values of the API and facts of decisions that look like texts. */
const VALUES = new Set([
  'no one left',
  'on record',
  'own word',
  'on no record',
  'taken off every record',
  'taken off deals',
  'taken off accounts',
]);
const LONGEST_SENTENCE = 140;

const listed = (...patterns) =>
  execFileSync('git', ['ls-files', ...patterns], { encoding: 'utf8' })
    .split('\n')
    .filter((file) => file !== '' && !/\.test\.tsx?$|\/testing\//.test(file));
const READ = listed(
  'web/src/**/*.ts',
  'web/src/**/*.tsx',
  'server/src/**/*.ts',
  'core/src/decision/**/*.ts',
  'core/src/rulebook/*.ts',
  'core/src/mailboxes/*.ts',
  'core/src/repairs/*.ts',
  'core/src/reports/*.ts',
  'core/src/trials/*.ts',
  'demo/src/adminWork.ts',
  'cli/src/*.ts',
  'mailhost/src/**/*.ts',
  'scripts/*.mjs',
  'scripts/lib/[!t]*.mjs',
);

test('no text uses a word that a busy reader has to think about', () => {
  expect(READ.length).toBeGreaterThan(300);
  const found = READ.flatMap((file) =>
    textsOf(file)
      .filter(({ text }) => BANNED.test(text) && !VALUES.has(text))
      .map(({ line, text }) => `${file}:${line} ${text}`),
  );
  expect(found).toEqual([]);
});

test('no sentence on a screen is longer than a reader takes in at once', () => {
  const found = READ.filter((file) => file.startsWith('web/')).flatMap((file) =>
    textsOf(file).flatMap(({ line, text }) =>
      text
        .split(/(?<=[.?!:]) /)
        .filter((sentence) => sentence.length > LONGEST_SENTENCE)
        .map((sentence) => `${file}:${line} ${sentence}`),
    ),
  );
  expect(found).toEqual([]);
});

describe('texts of a file', () => {
  test('are those that people read', () => {
    const folder = mkdtempSync(join(tmpdir(), 'texts-'));
    try {
      const file = join(folder, 'page.tsx');
      writeFileSync(
        file,
        'import a from \'no import at all\';\nconst q = sql`SELECT nobody FROM t`;\nexport const P = () => (\n  <p className="not this one" title="A title">\n    Some text {`and ${a} more`} {\'one\'}\n  </p>\n);\n',
      );
      expect(textsOf(file).map(({ text }) => text)).toEqual(['A title', 'Some text', 'and {} more']);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});
