import { describe, expect, test } from '@jest/globals';
import { addressKey, isNoReplyLocal, isRoleLocal, isTokenLocal } from './address';

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

describe('addresses that systems make', () => {
  test.each([
    'unsubscribe',
    'unsubscribe-8f2k',
    'unsub+91',
    'reply+9d3e',
    'reply-4471',
    'confirm.8812',
    'tracking',
    'a1b2c3d4e5f6',
    'u-7f3a9c2e81b4',
    'SRS0=ab=cd=x.example=ida'.toLowerCase(),
    'bounce=ida',
  ])('%s is no one’s', (local) => expect(isTokenLocal(local)).toBe(true));

  test.each([
    'ida.brandt',
    'max.mustermann1985',
    'kimberly19850412',
    'j.smith2',
    'anne-marie.o-brien',
    'replyn',
    'leavers',
    'confirmed',
    'tracker',
    'xavier2000b',
    'i.brandt.4711',
  ])('%s may be someone’s', (local) => expect(isTokenLocal(local)).toBe(false));
});
