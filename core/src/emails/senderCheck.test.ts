import { describe, expect, test } from '@jest/globals';
import { withCompanyAuthor } from './companyAuthor';
import { identityOf } from './identity';
import { readEmail } from './readEmail';
import { receiverOf, senderCheck } from './senderCheck';

const RECEIVER = receiverOf(['quillmere.example'], 'hedda@quillmere.example', 'imap.post-house.example');

const checked = (...results: string[]): string =>
  senderCheck(
    results.map((value) =>
      value.startsWith('Received') ? { name: 'received', value: value.slice(10) } : { name: 'authentication-results', value },
    ),
    'harbour.example',
    RECEIVER.servers,
  );

describe('the check of a sender', () => {
  test.each([
    ['passed', 'mx.quillmere.example; dmarc=pass (p=reject) header.from=harbour.example; dkim=fail'],
    ['passed', 'quillmere.example 1; dkim=pass header.d=mail.harbour.example header.s=k1'],
    ['passed', 'mx7.post-house.example; spf=pass smtp.mailfrom=bounce@mail.harbour.example'],
    ['passed', 'mx.quillmere.example (a; dmarc=fail) ; DKIM = pass header.i="@harbour.example"'],
    ['failed', 'mx.quillmere.example; dmarc=fail header.from=harbour.example; spf=pass smtp.mailfrom=x@elsewhere.example'],
    ['failed', 'mx.quillmere.example; dkim=fail header.d=harbour.example; spf=softfail smtp.mailfrom=harbour.example'],
    ['none', 'mx.quillmere.example; dkim=pass header.d=elsewhere.example; spf=pass smtp.mailfrom=x@elsewhere.example'],
    ['none', 'mx.quillmere.example; none'],
    ['none', 'mx.quillmere.example; dkim=fail header.d=harbour.example'],
    ['none', 'mx.elsewhere.example; dmarc=pass header.from=harbour.example'],
    ['none', 'mx.notquillmere.example; dmarc=pass header.from=harbour.example'],
    ['none', ''],
  ])('%s: %s', (expected, field) => {
    expect(checked(field)).toBe(expected);
  });

  test('is that of the server that received it, not what came with the message', () => {
    const forged = 'mx.quillmere.example; dmarc=pass header.from=harbour.example';
    expect(checked('mx.quillmere.example; dmarc=fail', 'Received: from elsewhere by mx.quillmere.example', forged)).toBe('failed');
    expect(checked('mx.quillmere.example; none', 'Received: from elsewhere by mx.quillmere.example', forged)).toBe('none');
    expect(checked('mx.elsewhere.example; dmarc=pass', 'Received: from a by b', 'mx.quillmere.example; dmarc=pass')).toBe('passed');
  });

  test('holds of several fields of one server', () => {
    expect(
      checked('mx.quillmere.example; spf=fail smtp.mailfrom=a@harbour.example', 'mx.quillmere.example; dkim=pass header.d=harbour.example'),
    ).toBe('passed');
  });

  test('ends for what no server writes', () => {
    const nasty = [
      `mx.quillmere.example; ${'('.repeat(200_000)}`,
      `mx.quillmere.example; ${'dkim=pass header.d='.repeat(20_000)}`,
      ';'.repeat(300_000),
    ];
    for (const value of nasty) expect(['passed', 'failed', 'none']).toContain(checked(value));
  });
});

const message = (headers: Record<string, string>): Uint8Array =>
  new TextEncoder().encode(
    `${Object.entries({
      To: 'hedda@quillmere.example',
      Subject: 'Order',
      Date: 'Mon, 4 May 2026 10:00:00 +0000',
      'Message-ID': '<a@x>',
      ...headers,
    })
      .map(([name, value]) => `${name}: ${value}`)
      .join('\r\n')}\r\n\r\n${'Please pay to another account. '.repeat(10)}\r\n`,
  );

const people = async (headers: Record<string, string>, receiver = RECEIVER): Promise<string[]> =>
  (await readEmail(message(headers), { arrivedAt: 0, receiver })).participants
    .filter(({ role }) => role === 'from' || role === 'claimed' || role === 'sender')
    .map(({ role, address }) => `${role} ${address}`);

const IDA = 'Ida Brandt <ida@harbour.example>';
const PASSED = 'mx.quillmere.example; dmarc=pass header.from=lists.example';

describe('an author whom an email that was sent on names', () => {
  test.each([
    ['from anywhere', { From: 'x@evil.example', 'X-Original-From': IDA }],
    [
      'from anywhere that passes',
      { From: 'x@evil.example', 'X-Original-From': IDA, 'Authentication-Results': 'mx.quillmere.example; dmarc=pass' },
    ],
    ['by a Reply-To', { From: '"Ida Brandt via Sales" <x@evil.example>', 'Reply-To': IDA }],
    [
      'from a list that was not confirmed',
      { From: '"Ida Brandt via Gauges" <gauges@lists.example>', 'Reply-To': IDA, 'List-Id': '<gauges.lists.example>' },
    ],
    [
      'from a list under another name than its domain',
      { From: 'x@lists.example', 'X-Original-From': IDA, 'List-Id': 'Gauges <gauges.harbour.example>', 'Authentication-Results': PASSED },
    ],
    [
      'from our own list, forged',
      { From: 'sales@quillmere.example', 'X-Original-From': IDA, 'Authentication-Results': 'mx.quillmere.example; dmarc=fail' },
    ],
    [
      'from a list that its own server confirms',
      {
        From: 'x@lists.example',
        'X-Original-From': IDA,
        'List-Id': '<gauges.lists.example>',
        'Authentication-Results': 'mx.lists.example; dmarc=pass',
      },
    ],
  ])('%s, is not believed, and stands there as claimed', async (_, headers) => {
    const [from, ...rest] = await people(headers);
    expect(from).not.toContain('harbour.example');
    expect(rest).toEqual(['claimed ida@harbour.example']);
  });

  test.each([
    ['a list of our own', { From: '"Ida Brandt via Sales" <sales@quillmere.example>', 'Reply-To': IDA }],
    ['a list under our own domain', { From: 'sales@lists.quillmere.example', 'X-Original-From': IDA }],
    [
      'a list that is confirmed',
      { From: 'x@lists.example', 'X-Original-From': IDA, 'List-Id': 'Gauges <gauges.lists.example>', 'Authentication-Results': PASSED },
    ],
  ])('%s is believed', async (_, headers) => {
    expect((await people(headers))[0]).toBe('from ida@harbour.example');
  });

  test.each([
    ['a group of their own company', 'purchasing@mail.harbour.example', true],
    ['a group of another company', 'purchasing@reef.example', false],
    ['an address at the same mail provider', 'x@harbour.example', false],
  ])('%s', async (name, from, believed) => {
    const facts = await readEmail(message({ From: from, 'X-Original-From': IDA }), { arrivedAt: 0, receiver: RECEIVER });
    const settled = withCompanyAuthor(facts, () => name.includes('provider'));
    expect(settled.authorTrusted).toBe(believed);
    expect(settled.participants.find(({ role }) => role === 'from')?.address).toBe(believed ? 'ida@harbour.example' : from);
    expect(identityOf(settled)).toBe(identityOf(facts));
  });

  test('is the same email whether it is believed or not', async () => {
    const raw = message({ From: 'sales@quillmere.example', 'X-Original-From': IDA });
    const [believed, doubted] = await Promise.all([readEmail(raw, { arrivedAt: 0, receiver: RECEIVER }), readEmail(raw, { arrivedAt: 0 })]);
    expect([believed.authorTrusted, doubted.authorTrusted]).toEqual([true, false]);
    expect(identityOf(believed)).toBe(identityOf(doubted));
  });

  test('is believed again as when it came in, whatever counts now', async () => {
    const raw = message({ From: 'x@evil.example', 'X-Original-From': IDA });
    const again = await readEmail(raw, { arrivedAt: 0, found: { senderCheck: 'passed', authorTrusted: true } });
    expect(again).toMatchObject({ senderCheck: 'passed', authorTrusted: true });
    expect(again.participants[0]).toMatchObject({ role: 'from', address: 'ida@harbour.example' });
  });
});
