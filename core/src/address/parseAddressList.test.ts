import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseAddressList } from './parseAddressList';

const read = (value: string): string[] =>
  parseAddressList(value).map((address) => (address.name ? `${address.name} <${address.address}>` : address.address));

describe('parseAddressList', () => {
  test.each([
    ['a plain address', 'ida@harbour.example', ['ida@harbour.example']],
    ['a name and an address', 'Ida Brandt <ida@harbour.example>', ['Ida Brandt <ida@harbour.example>']],
    [
      'a quoted name with a comma',
      '"Brandt, Ida" <ida@harbour.example>, b@x.example',
      ['Brandt, Ida <ida@harbour.example>', 'b@x.example'],
    ],
    ['a name with an unquoted comma', 'Brandt, Ida <ida@harbour.example>', ['Brandt, Ida <ida@harbour.example>']],
    ['semicolons between addresses', 'a@x.example; b@x.example;', ['a@x.example', 'b@x.example']],
    ['a missing comma after a bracket', 'A <a@x.example> B <b@x.example>', ['A <a@x.example>', 'B <b@x.example>']],
    ['two bare addresses without a comma', 'a@x.example b@x.example', ['a@x.example', 'b@x.example']],
    ['a comment as name', 'ida@harbour.example (Ida Brandt)', ['Ida Brandt <ida@harbour.example>']],
    ['a nested comment', 'ida@harbour.example (Ida (north) Brandt)', ['Ida (north) Brandt <ida@harbour.example>']],
    ['encoded words', '=?utf-8?Q?J=C3=B8rn_L=C3=B8kke?= <jorn@fisk.example>', ['Jørn Løkke <jorn@fisk.example>']],
    ['an encoded word around everything', '=?utf-8?Q?Ida_=3Cida=40harbour.example=3E?=', ['Ida <ida@harbour.example>']],
    ['a quoted local part', '"ida brandt"@harbour.example', ['"ida brandt"@harbour.example']],
    ['a source route', '<@relay.example,@other.example:ida@harbour.example>', ['ida@harbour.example']],
    ['a mailto', '<mailto:ida@harbour.example>', ['ida@harbour.example']],
    ['the address as its own name', '"ida@harbour.example" <ida@harbour.example>', ['ida@harbour.example <ida@harbour.example>']],
    ['an unclosed bracket', 'Ida <ida@harbour.example, b@x.example', ['Ida <ida@harbour.example>', 'b@x.example']],
    ['an unclosed quote', '"Ida <ida@harbour.example>, b@x.example', ['Ida <ida@harbour.example>', 'b@x.example']],
    ['empty members', ' , ,a@x.example,, ', ['a@x.example']],
    ['nothing', '', []],
    ['no address at all', 'undisclosed-recipients:;', []],
  ])('reads %s', (_, value, expected) => {
    expect(read(value)).toEqual(expected);
  });

  test('keeps the members of a group and its name', () => {
    expect(parseAddressList('Gauge team: a@x.example, B <b@x.example>; c@x.example')).toEqual([
      { name: '', address: 'a@x.example', group: 'Gauge team' },
      { name: 'B', address: 'b@x.example', group: 'Gauge team' },
      { name: '', address: 'c@x.example', group: null },
    ]);
  });

  test('loses no address of a well-formed list, whatever the names', () => {
    const name = fc.string({ maxLength: 12 }).map((text) => `"${text.replace(/[\\"\r\n]/g, ' ')}"`);
    const address = fc
      .tuple(fc.stringMatching(/^[a-z0-9]{1,8}$/), fc.stringMatching(/^[a-z]{1,8}$/))
      .map(([local, host]) => `${local}@${host}.example`);
    fc.assert(
      fc.property(fc.array(fc.tuple(name, address), { minLength: 1, maxLength: 8 }), (members) => {
        const value = members.map(([written, at]) => `${written} <${at}>`).join(', ');
        expect(parseAddressList(value).map((item) => item.address)).toEqual(members.map(([, at]) => at));
      }),
    );
  });

  test('never throws and ends on any input', () => {
    fc.assert(fc.property(fc.string({ maxLength: 300, unit: 'binary' }), (value) => Array.isArray(parseAddressList(value))));
  });

  test('reads ten thousand recipients', () => {
    const value = Array.from({ length: 10_000 }, (_, at) => `P${at} <p${at}@x.example>`).join(', ');
    expect(parseAddressList(value)).toHaveLength(10_000);
  });
});

describe('what is never closed', () => {
  test.each([
    ['comments', '(((((Ida <ida@x.example>', ['ida@x.example']],
    ['a comment within closed ones', '(a (b) <ida@x.example>, (c) tam@x.example', ['ida@x.example', 'tam@x.example']],
    ['a quotation of escaped marks', '"\\"\\"\\" <ida@x.example>', ['ida@x.example']],
    ['a bracket', '<ida@x.example, tam@x.example', ['ida@x.example', 'tam@x.example']],
  ])('%s: no address is lost', (_, value, addresses) => {
    expect(parseAddressList(value).map((found) => found.address)).toEqual(addresses);
  });
});
