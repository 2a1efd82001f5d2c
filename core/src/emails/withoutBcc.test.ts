import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readHeaders } from './headers';
import { withoutBcc } from './withoutBcc';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const text = (raw: Uint8Array): string => new TextDecoder().decode(raw);

test.each([
  ['From: a@x.example\r\nBcc: b@x.example\r\nTo: c@x.example\r\n\r\nBcc: stays', 'From: a@x.example\r\nTo: c@x.example\r\n\r\nBcc: stays'],
  ['BCC : b@x.example,\n\tc@x.example\nresent-bcc: d@x.example\nTo: e@x.example\n\nHello', 'To: e@x.example\n\nHello'],
  ['\r\nBcc: b@x.example\r\nTo: e@x.example\r\n\r\nHello', '\r\nTo: e@x.example\r\n\r\nHello'],
  ['To: e@x.example\nBcc: b@x.example', 'To: e@x.example\n'],
  ['no header at all', 'no header at all'],
])('%j without its blind copies is %j', (raw, rest) => {
  expect(text(withoutBcc(bytes(raw)))).toBe(rest);
});

test('no reader of headers finds blind copies in what is left, and everything else is there', () => {
  const line = fc.oneof(
    fc.constantFrom(
      'Bcc: b@x.example',
      'bCC :x',
      ' folded',
      '\tfolded',
      'To: c@x.example',
      'X-Bcc: no',
      '',
      'nonsense',
      ':',
      'Resent-Bcc:y',
    ),
    fc.string({ maxLength: 20 }),
  );
  fc.assert(
    fc.property(fc.array(line), fc.constantFrom('\n', '\r\n', '\r'), (lines, end) => {
      const raw = bytes(['Subject: Gauges', ...lines].join(end));
      const before = readHeaders(raw).fields.filter(({ name }) => name !== 'bcc' && name !== 'resent-bcc');
      expect(readHeaders(withoutBcc(raw)).fields).toEqual(before);
    }),
    { numRuns: 500 },
  );
});
