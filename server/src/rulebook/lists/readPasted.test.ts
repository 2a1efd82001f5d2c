import { describe, expect, test } from '@jest/globals';
import { readPasted } from './readPasted';

const values = (text: string): string[] => readPasted(text).read.map((entry) => `${entry.kind} ${entry.value}`);

describe('what is pasted into an address list', () => {
  test.each([
    ['one a line', 'press.example\nlaw.example', ['domain press.example', 'domain law.example']],
    [
      'separated by commas, semicolons and blanks',
      'a.example, b.example;c.example d.example',
      ['domain a.example', 'domain b.example', 'domain c.example', 'domain d.example'],
    ],
    [
      'names with addresses',
      '“Clerk” <Clerk@Law.example>, Ida Brandt <ida@x.example>',
      ['address clerk@law.example', 'address ida@x.example'],
    ],
    ['URLs', 'https://www.gazette.example/about?x=1 http://b.example:8080', ['domain gazette.example', 'domain b.example']],
    ['wildcards and leading @', '*.press.example @law.example', ['domain press.example', 'domain law.example']],
    ['mailto links', 'mailto:ida@x.example?subject=y', ['address ida@x.example']],
    ['international domains', 'bücher.example', ['domain xn--bcher-kva.example']],
    ['the same twice', 'a.example A.EXAMPLE', ['domain a.example']],
  ])('%s', (_, text, expected) => {
    expect(values(text)).toEqual(expected);
  });

  test('a note behind a tab belongs to the line', () => {
    expect(readPasted('press.example\twrites about everybody').read[0]).toMatchObject({ note: 'writes about everybody' });
  });

  test('what cannot be read is given back, and nothing else is lost', () => {
    expect(readPasted('press.example, rubbish, x@, 12')).toMatchObject({
      read: [{ value: 'press.example' }],
      unread: ['rubbish', 'x@', '12'],
    });
  });

  test('a CSV by its columns: what an export gives comes back as it was', () => {
    const csv = 'kind,value,exactly,note,until\ndomain,press.example,yes,"says ""no, thanks""",2026-12-31\naddress,ida@x.example,no,,\n';
    expect(readPasted(csv)).toEqual({
      read: [
        { kind: 'domain', value: 'press.example', exactly: true, note: 'says "no, thanks"', until: '2026-12-31' },
        { kind: 'address', value: 'ida@x.example', exactly: false, note: '', until: null },
      ],
      unread: [],
    });
    expect(readPasted('domain;note\nlaw.example;lawyers\nrubbish;x\n')).toMatchObject({
      read: [{ value: 'law.example', note: 'lawyers' }],
      unread: ['rubbish'],
    });
    expect(readPasted('value,until\na.example,tomorrow\n').unread).toEqual(['a.example until tomorrow']);
  });

  test('local parts, for the list of role addresses', () => {
    expect(readPasted('Info@, billing@x.example verkauf', 'locals').read.map((entry) => `${entry.kind} ${entry.value}`)).toEqual([
      'local info',
      'local billing',
      'local verkauf',
    ]);
  });
});
