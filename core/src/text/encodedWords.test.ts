import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readEmail } from '../emails/readEmail';
import { bytesOf1252, textFrom } from './charsets';
import { decodedWords } from './encodedWords';

const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text);
const binary = (bytes: Uint8Array): string => [...bytes].map((byte) => String.fromCharCode(byte)).join('');
const asB = (bytes: Uint8Array, charset: string): string => `=?${charset}?B?${btoa(binary(bytes))}?=`;
const asQ = (bytes: Uint8Array, charset: string): string =>
  `=?${charset}?Q?${[...bytes].map((byte) => (byte === 0x20 ? '_' : /[a-z\d]/i.test(String.fromCharCode(byte)) ? String.fromCharCode(byte) : `=${byte.toString(16).toUpperCase().padStart(2, '0')}`)).join('')}?=`;

const names = fc
  .array(
    fc.constantFrom('Jürgen', 'Öztürk', 'Łąka', 'Zoë', 'Ådland', '山田', '李', 'Иванов', 'Ørsted', 'Ñuño', 'Čapek', 'Σίσυφος', 'ida', '😀'),
    { minLength: 1, maxLength: 4 },
  )
  .map((words) => words.join(' '));

describe('encoded words', () => {
  test('give the name however a program cut and wrote it, in names, subjects and names of files', async () => {
    await fc.assert(
      fc.asyncProperty(
        names,
        fc.array(fc.tuple(fc.integer({ min: 1, max: 12 }), fc.boolean(), fc.constantFrom('utf-8', 'UTF-8', 'utf8', 'utf-8*en')), {
          minLength: 1,
          maxLength: 8,
        }),
        fc.constantFrom(' ', '\r\n ', '\t'),
        async (name, cuts, gap) => {
          const bytes = utf8(name);
          const words: string[] = [];
          let at = 0;
          for (let nth = 0; at < bytes.length; nth += 1) {
            const [length = 4, isB = true, charset = 'utf-8'] = cuts[nth % cuts.length] ?? [];
            const part = bytes.subarray(at, at + length);
            words.push(isB ? asB(part, charset) : asQ(part, charset));
            at += length;
          }
          // One charset is spelled one way within a name; programs do not change it.
          const written = words.map((word) => word.replace(/^=\?[^?]+\?/, '=?utf-8?')).join(gap);
          expect(decodedWords(written.replace(/\r\n/g, ''))).toBe(name);
          const raw = `From: ${written} <ida@harbour.example>\r\nSubject: ${written}\r\nContent-Type: application/pdf; name="${written}.pdf"\r\nContent-Disposition: attachment; filename="${written}.pdf"\r\nContent-Transfer-Encoding: base64\r\n\r\neA==`;
          const facts = await readEmail(utf8(raw), { arrivedAt: 0 });
          expect([facts.subject, facts.participants[0]?.name]).toEqual([name, name]);
          expect(facts.attachments[0]?.name.replace(/\s/g, '')).toBe(`${name}.pdf`.replace(/\s/g, ''));
        },
      ),
      { numRuns: 60 },
    );
  });

  test('of charsets that are wrong, or unknown', () => {
    const latin = Uint8Array.from([...'Grüße'].map((char) => char.charCodeAt(0)));
    for (const charset of ['utf-8', 'us-ascii', 'x-unknown', 'iso-8859-1', 'windows-1252'])
      expect(decodedWords(asQ(latin, charset))).toBe('Grüße');
    for (const charset of ['iso-8859-1', 'us-ascii', 'x-unknown', 'unknown-8bit', 'windows-1252'])
      expect(decodedWords(asB(utf8('Grüße'), charset))).toBe('Grüße');
    expect(decodedWords('=?iso-2022-jp?B?GyRCO0VFRBsoQg==?=')).toBe('仕田');
  });

  test('what is none stays as it is written', () => {
    for (const text of ['a =? b', '=?utf-8?X?abc?=', '=??B?YQ==?=', 'no words', '=?utf-8?B?', '?='.repeat(50)])
      expect(decodedWords(text)).toBe(text);
    expect(decodedWords(`a ${asB(utf8('b'), 'utf-8')} c`)).toBe('a b c');
  });
});

describe('a text whose charset is declared wrongly or not at all', () => {
  test.each([
    ['utf-8', 'Grüße aus Köln, die Maße folgen.', 'windows-1252'],
    ['', 'Grüße aus Köln, die Maße folgen.', 'windows-1252'],
    ['iso-8859-1', 'Grüße aus Köln, die Maße folgen.', 'utf-8'],
    ['us-ascii', 'Été à la côte, déjà reçu.', 'utf-8'],
    ['utf-8', 'Добрый день, отправляем вам чертежи и счёт за поставку датчиков уровня.', 'windows-1251'],
    ['', 'Добрый день, отправляем вам чертежи и счёт за поставку датчиков уровня.', 'koi8-r'],
  ])('declared as “%s”: %s', async (declared, text, really) => {
    const bytes = really === 'utf-8' ? utf8(text) : encodedAs(text, really);
    const type = declared === '' ? 'Content-Type: text/plain' : `Content-Type: text/plain; charset=${declared}`;
    const head = utf8(`From: ida@harbour.example\r\n${type}\r\nContent-Transfer-Encoding: 8bit\r\n\r\n`);
    const facts = await readEmail(Uint8Array.from([...head, ...bytes]), { arrivedAt: 0 });
    expect(facts.text.trim()).toBe(text);
    expect(textFrom(bytes, declared)).toBe(text);
  });

  test('every byte comes back from the charset that gives each a character', () => {
    const all = Uint8Array.from({ length: 256 }, (_, at) => at);
    expect([...bytesOf1252(new TextDecoder('windows-1252').decode(all))]).toEqual([...all]);
  });
});

/** The bytes of a text in a charset of one byte a character. */
function encodedAs(text: string, charset: string): Uint8Array {
  const table = new Map(
    [...new TextDecoder(charset).decode(Uint8Array.from({ length: 256 }, (_, at) => at))].map((char, at) => [char, at]),
  );
  return Uint8Array.from([...text].map((char) => table.get(char) ?? 0x3f));
}

test('what a gateway encoded twice is decoded twice, and no text that only shows an encoded word is', () => {
  const word = '=?utf-8?B?TGl2IFNjaA==?= =?utf-8?B?ZWxsZmlzaA==?=';
  expect(decodedWords(`=?utf-8?B?${btoa(word)}?=`)).toBe('Liv Schellfish');
  const about = `About ${word}`;
  expect(decodedWords(`=?utf-8?B?${btoa(about)}?=`)).toBe(about);
});
