import { describe, expect, test } from '@jest/globals';
import { addressKey, isNoReplyLocal, isRoleLocal } from './address';

describe('addressKey', () => {
  test.each([
    ['Ida.Brandt@Harbour.EXAMPLE', 'ida.brandt@harbour.example'],
    ['ida+gauges@harbour.example', 'ida@harbour.example'],
    ['"ida"@harbour.example', 'ida@harbour.example'],
    ['"ida b"@harbour.example', '"ida b"@harbour.example'],
    ['ida@höfn.example', 'ida@xn--hfn-sna.example'],
    ['ida@harbour.example.', 'ida@harbour.example'],
  ])('%s compares as %s', (address, key) => {
    expect(addressKey(address)?.key).toBe(key);
  });

  test('keeps a tag where tags tell people apart', () => {
    expect(addressKey('ida+a@x.example', { tagsTellApart: true })?.key).toBe('ida+a@x.example');
  });

  test.each(['ida', '@x.example', 'ida@', 'ida@ho st.example', ''])('%j is no address', (text) => {
    expect(addressKey(text)).toBeNull();
  });
});

test.each([
  ['info', true],
  ['sales', true],
  ['invoices', true],
  ['sales-north', true],
  ['sales2', true],
  ['ticket-8812', true],
  ['support.8812', true],
  ['case', true],
  ['po-inbox', true],
  ['j.case', false],
  ['ida2', false],
  ['8812', false],
  ['ida.brandt', false],
  ['salesman', false],
  ['it.brandt', false],
])('%s names a function: %s', (local, expected) => {
  expect(isRoleLocal(local)).toBe(expected);
});

test.each([
  ['no-reply', true],
  ['donotreply', true],
  ['noreply-orders', true],
  ['mailer-daemon', true],
  ['norbert', false],
])('%s takes no answers: %s', (local, expected) => {
  expect(isNoReplyLocal(local)).toBe(expected);
});
