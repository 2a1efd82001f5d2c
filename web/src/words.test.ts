import { describe, expect, test } from '@jest/globals';
import { readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

type Text = string | ((...values: never[]) => string);

const root = dirname(fileURLToPath(import.meta.url));
const files = readdirSync(root, { recursive: true, encoding: 'utf8' }).filter((file) => /(?:^|\/)words\.ts$/.test(file));
const LONGEST = 140;

/** All texts of the screens: functions are called with a value that stands for any name or number. */
async function allTexts(): Promise<{ key: string; text: string }[]> {
  const found: { key: string; text: string }[] = [];
  for (const file of files) {
    const groups = (await import(join(root, file))) as Record<string, Record<string, Text>>;
    for (const [group, texts] of Object.entries(groups))
      for (const [name, text] of Object.entries(texts)) {
        const said = typeof text === 'string' ? text : text(...(Array.from({ length: text.length }, () => 2) as never[]));
        found.push({ key: `${file} ${group}.${name}`, text: said });
      }
  }
  return found;
}

describe('the texts of the screens', () => {
  test('each says something, without two spaces or a value that is missing', async () => {
    const texts = await allTexts();
    expect(texts.length).toBeGreaterThan(1500);
    expect(texts.filter(({ text }) => text.trim() === '' || /\S {2,}\S|undefined|NaN|\[object/.test(text))).toEqual([]);
  });

  test('no sentence is longer than a reader takes in at once', async () => {
    const long = (await allTexts()).filter(({ text }) => text.split(/(?<=[.?!:]) |\n/).some((sentence) => sentence.length > LONGEST));
    expect(long).toEqual([]);
  });

  test('a text has the same apostrophes, dashes and dots everywhere', async () => {
    expect((await allTexts()).filter(({ text }) => /\w'\w|\.\.\.| - /.test(text))).toEqual([]);
  });
});
