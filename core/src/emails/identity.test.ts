import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { linkTarget } from './contentDigest';
import { readEmail } from './readEmail';
import { identityOf } from './identity';

const HEAD =
  'From: Ida Holm <ida@fjordfarm.example>\nTo: Kim <kim@quillmere.example>\nDate: Mon, 4 May 2026 10:00:00 +0000\nMessage-ID: <a1@fjordfarm.example>\n';
const LETTER =
  'We would like to order four tide gauges for the outer pier, to the price of 41,250 that you named on Tuesday. Please confirm by Friday.';

async function identity(source: string): Promise<string> {
  return identityOf(await readEmail(new TextEncoder().encode(source), { arrivedAt: Date.parse('2026-05-05T00:00:00Z') }));
}
const plain = (text: string, subject = 'Order', head = HEAD): string => `${head}Subject: ${subject}\n\n${text}\n`;
const original = plain(LETTER);

describe('copies of an email are one email', () => {
  test.each([
    ['with traces of its way', `Received: from a by b; Mon, 4 May 2026 10:00:05 +0000\nX-Trace: 1\n${original}`],
    ['with the blind copies of its sender', `Bcc: boss@quillmere.example\n${original}`],
    ['with its lines folded', plain(LETTER.replace(' the outer', '\nthe outer').replace('. Please', '.\n\nPlease'))],
    [
      'encoded in another way',
      `${HEAD}Subject: Order\nContent-Transfer-Encoding: quoted-printable\n\n${LETTER.replace('order', '=6Frder').replace(' to the', '=\n to the')}\n`,
    ],
    ['as HTML', `${HEAD}Subject: Order\nContent-Type: text/html\n\n<p>${LETTER}</p>`],
    [
      'as HTML with a plain part',
      `${HEAD}Subject: Order\nContent-Type: multipart/alternative; boundary=b\n\n--b\nContent-Type: text/plain\n\n${LETTER}\n--b\nContent-Type: text/html\n\n<div>${LETTER}</div>\n--b--`,
    ],
    [
      'through a mailing list',
      plain(
        `${LETTER}\n\n_______________________________________________\nPumps mailing list\nPumps@lists.quillmere.example\nhttps://lists.quillmere.example/listinfo/pumps`,
        '[Pumps] Order',
      ),
    ],
    [
      'behind a gateway that warns',
      plain(`CAUTION: This email originated from outside of the organization. Do not click links.\n\n${LETTER}`, '[EXTERNAL] Order'),
    ],
    [
      'behind a gateway with a notice',
      plain(
        `${LETTER}\n\nThis message and its attachments are confidential. If you have received this message in error, please notify the sender and delete it.`,
      ),
    ],
  ])('%s', async (_, copy) => {
    expect(await identity(copy)).toBe(await identity(original));
  });
});

describe('who knows Message-ID, sender and date does not have the email', () => {
  test.each([
    ['nothing is said', plain('')],
    ['one word differs', plain(LETTER.replace('Friday', 'Monday'))],
    ['the end is missing', plain(LETTER.replace(' Please confirm by Friday.', ''))],
    ['the beginning alone is known', plain(LETTER.slice(0, 60))],
    ['something is added', plain(`${LETTER} And two buoys.`)],
    ['the subject differs', plain(LETTER, 'Other')],
    ['another sender', plain(LETTER, 'Order', HEAD.replace('ida@', 'jo@'))],
    ['another second', plain(LETTER, 'Order', HEAD.replace('10:00:00', '10:00:01'))],
    [
      'another attachment',
      `${HEAD}Subject: Order\nContent-Type: multipart/mixed; boundary=b\n\n--b\n\n${LETTER}\n--b\nContent-Type: application/pdf; name=q.pdf\nContent-Disposition: attachment\n\nx\n--b--`,
    ],
  ])('%s', async (_, forged) => {
    expect(await identity(forged)).not.toBe(await identity(original));
  });

  test.each([
    [
      'words of a second part',
      (secret: string) =>
        `Content-Type: multipart/alternative; boundary=b\n\n--b\n\nSee the HTML part.\n--b\nContent-Type: text/html\n\n<p>${secret}</p>\n--b--`,
    ],
    [
      'the target of a link',
      (secret: string) => `Content-Type: text/html\n\n<p>${LETTER}</p><a href="https://share.fjordfarm.example/${secret}">here</a>`,
    ],
    ['a link in plain text', (secret: string) => `\n${LETTER} https://share.fjordfarm.example/${secret}`],
    [
      'the bytes of an attachment',
      (secret: string) =>
        `Content-Type: multipart/mixed; boundary=b\n\n--b\n\n${LETTER}\n--b\nContent-Type: application/pdf; name=q.pdf\nContent-Disposition: attachment\n\n${secret}\n--b--`,
    ],
    ['what stands under a line of dashes', (secret: string) => `\n${LETTER}\n\n----------------\n${secret}\n`],
    ['what follows a word of warning', (secret: string) => `\nAttention: the outside door has the code ${secret}\n\n${LETTER}\n`],
    [
      'what is called confidential by its sender',
      (secret: string) => `\n${LETTER}\n\nThis message is confidential. The code is ${secret}\n`,
    ],
  ])('cannot guess %s', async (_, body) => {
    const [right, wrong] = [`${HEAD}Subject: Order\n${body('gull-4711')}`, `${HEAD}Subject: Order\n${body('')}`];
    expect(await identity(wrong)).not.toBe(await identity(right));
  });

  test('what is short enough to guess is told apart by its recipients', async () => {
    const short = plain('Agreed!');
    expect(await identity(plain('Agreed.'))).toBe(await identity(short));
    expect(await identity(short.replace('kim@quillmere', 'mallory@elsewhere'))).not.toBe(await identity(short));
    expect(await identity(original.replace('kim@quillmere', 'list@quillmere'))).toBe(await identity(original));
  });

  test('whatever is left out', async () => {
    const words = LETTER.split(' ');
    await fc.assert(
      fc.asyncProperty(fc.subarray(words), async (known) => {
        if (known.length === words.length) return;
        expect(await identity(plain(known.join(' ')))).not.toBe(await identity(original));
      }),
    );
  });
});

test('without a Message-ID, the whole email counts', async () => {
  const bare = (text: string): string => plain(text, 'Order', HEAD.replace(/Message-ID:.*\n/, ''));
  expect(await identity(`X-Trace: 1\n${bare('Hello ')}`)).toBe(await identity(bare('Hello')));
  expect(await identity(bare('Other'))).not.toBe(await identity(bare('Hello')));
});

test.each([
  ['https://check.gateway.example/?url=https%3A%2F%2Fshop.example%2Fa%3Fb%3D1&data=05', 'https://shop.example/a?b=1'],
  ['https://check.gateway.example/v2/https://shop.example/a', 'https://shop.example/a'],
  ['https://shop.example/a.', 'https://shop.example/a'],
  ['https://shop.example/?next=%E0%A4%A', 'https://shop.example/?next=%E0%A4%A'],
])('the link %s leads to %s', (link, target) => {
  expect(linkTarget(link)).toBe(target);
});
