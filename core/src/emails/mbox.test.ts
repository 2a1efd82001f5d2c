import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { MboxSplitter } from './mboxSplitter';
import { mboxEntry } from './mboxWriter';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const text = (raw: Uint8Array): string => new TextDecoder().decode(raw);

function split(source: string, chunk = 1_000_000, limit?: number): string[] {
  const splitter = new MboxSplitter(limit);
  const data = bytes(source);
  const found: string[] = [];
  for (let at = 0; at < data.length; at += chunk)
    found.push(...splitter.push(data.subarray(at, at + chunk)).map((message) => text(message.raw)));
  return [...found, ...splitter.end().map((message) => text(message.raw))];
}

const FROM = 'From ida@harbour.example Mon May  4 10:00:00 2026\n';

describe('MboxSplitter', () => {
  test('splits at separators after an empty line', () => {
    expect(split(`${FROM}Subject: a\n\none\n\n${FROM}Subject: b\n\ntwo\n`)).toEqual(['Subject: a\n\none\n', 'Subject: b\n\ntwo\n']);
  });

  test('reads CRLF', () => {
    expect(split(`${FROM}Subject: a\n\none\n\n${FROM}Subject: b\n\ntwo\n`.replace(/\n/g, '\r\n'))).toEqual([
      'Subject: a\r\n\r\none\r\n',
      'Subject: b\r\n\r\ntwo\r\n',
    ]);
  });

  test('gives quoted From lines back (mboxrd)', () => {
    expect(split(`${FROM}S: a\n\n>From here\n>>From there\n> From no\n`)).toEqual(['S: a\n\nFrom here\n>From there\n> From no\n']);
  });

  test('does not split at a From line within a paragraph or without a time', () => {
    const body = `text\nFrom us to you at 10:00\n\nFrom the harbour\n`;
    expect(split(`${FROM}S: a\n\n${body}`)).toEqual([`S: a\n\n${body}`]);
  });

  test('follows a Content-Length that leads to the next separator (mboxcl2)', () => {
    const body = `one\n\n${FROM}not a message\n`;
    expect(split(`${FROM}S: a\nContent-Length: ${body.length}\n\n${body}\n${FROM}S: b\n\ntwo\n`)).toEqual([
      `S: a\nContent-Length: ${body.length}\n\n${body}`,
      'S: b\n\ntwo\n',
    ]);
  });

  test.each([0, 1, 3, 5000])('ignores a Content-Length of %d that leads astray', (length) => {
    expect(split(`${FROM}S: a\nContent-Length: ${length}\n\none one one\n\n${FROM}S: b\n\ntwo\n`)).toEqual([
      `S: a\nContent-Length: ${length}\n\none one one\n`,
      'S: b\n\ntwo\n',
    ]);
  });

  test('bytes without a separator are one message', () => {
    expect(split('Subject: a\n\nbody')).toEqual(['Subject: a\n\nbody\n']);
    expect(split('\n\n  \n')).toEqual([]);
  });

  test('keeps no more of a message than the limit, and counts the rest', () => {
    const splitter = new MboxSplitter(60);
    const found = [...splitter.push(bytes(`${FROM}S: a\n\n${'x'.repeat(50)}\n${'y'.repeat(50)}\n\n${FROM}S: b\n\nz\n`)), ...splitter.end()];
    expect(found.map((message) => message.cutBytes)).toEqual([51, 0]);
    expect(found).toHaveLength(2);
  });

  test('the size of the chunks does not matter', () => {
    const source = `${FROM}S: a\nContent-Length: 9\n\none\n\ntwo\n\n${FROM}S: b\r\n\r\n>From x\r\n\r\n${FROM}S: c\nContent-Length: 99\n\nthree\n`;
    const whole = split(source);
    expect(whole).toHaveLength(3);
    fc.assert(fc.property(fc.integer({ min: 1, max: 80 }), (chunk) => expect(split(source, chunk)).toEqual(whole)));
  });
});

test('what is written is read again', () => {
  const line = fc.constantFrom(
    'hello',
    'From here',
    '>From there',
    '>>From x 10:00',
    '',
    'From a@x.example Mon May  4 10:00:00 2026',
    '--',
  );
  fc.assert(
    fc.property(fc.array(fc.array(line, { maxLength: 8 }), { minLength: 1, maxLength: 4 }), (bodies) => {
      const messages = bodies.map((lines, at) => `Subject: ${at}\n\n${lines.map((value) => `${value}\n`).join('')}end\n`);
      const mbox = messages.map((message) => text(mboxEntry(bytes(message), 'ida@harbour.example', 0))).join('');
      expect(split(mbox)).toEqual(messages);
    }),
  );
});
