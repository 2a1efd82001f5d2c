import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { PAGES } from '../pages';
import { partsOf, partsWith } from './helpText';

const parts = partsOf(readFileSync('web/public/help.md', 'utf8'));
const titles = parts.map(({ title }) => title);

describe('the help', () => {
  test('has a part for every page, and none for pages that are not there', () => {
    const pages = new Set(Object.values(PAGES).map(({ title }) => title as string));
    expect([...pages].filter((title) => !titles.includes(title))).toEqual([]);
    expect(titles.filter((title) => !pages.has(title))).toEqual(['Words']);
    expect(new Set(titles).size).toBe(titles.length);
  });

  test('begins each part with one short sentence that says what the page is for', () => {
    for (const { title, text } of parts.filter((part) => part.title !== 'Words')) {
      const [first = ''] = text.split('\n\n');
      expect({ title, long: first.length > 140, ends: /[.]$/.test(first) }).toEqual({ title, long: false, ends: true });
    }
  });

  test('is found by the beginnings of words, parts with the words in their title first', () => {
    expect(partsWith(parts, 'keep out')[0]?.title).toBe('Keep out');
    expect(partsWith(parts, 'sealed')[0]?.title).toBe('Share');
    expect(partsWith(parts, 'oth ways').map(({ title }) => title)).toEqual([]);
    expect(partsWith(parts, 'mbox').map(({ title }) => title)).toEqual(['Mailboxes']);
    expect(partsWith(parts, 'zzz')).toEqual([]);
  });
});
