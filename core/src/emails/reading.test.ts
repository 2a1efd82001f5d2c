import { describe, expect, test } from '@jest/globals';
import { subjectParts } from './baseSubject';
import { bodyParts, ownText } from './bodyParts';
import { readDate } from './emailDate';
import { htmlToText } from './htmlToText';
import { messageIds } from './messageIds';

describe('subjectParts', () => {
  test.each([
    ['Re: Pegel Ost', 'Pegel Ost', true, false],
    ['AW: WG: Re[2]: Fwd: Pegel Ost', 'Pegel Ost', true, true],
    ['RE: RE: [gauges] Re: Quote 12', 'Quote 12', true, false],
    ['[Fwd: Quote 12]', 'Quote 12', false, true],
    ['Quote 12 (fwd)', 'Quote 12', false, true],
    ['SV: VS: Tilbud', 'Tilbud', true, false],
    ['回复: 潮位计', '潮位计', true, false],
    ['Re', 'Re', false, false],
    ['Reply cost: 5', 'Reply cost: 5', false, false],
    ['[only a tag]', '[only a tag]', false, false],
    ['', '', false, false],
    ['  Re :   spaced   out ', 'spaced out', true, false],
  ])('%j has the base %j', (subject, base, isReply, isForward) => {
    expect(subjectParts(subject)).toEqual({ base, isReply, isForward });
  });

  test('ends quickly on a very long subject', () => {
    expect(subjectParts('Re: '.repeat(100_000)).isReply).toBe(true);
  });
});

describe('bodyParts', () => {
  test('tells own text, quote and signature apart', () => {
    const text =
      'Hello Ida,\n\nthe gauge is on its way.\n\n-- \nTomas\nQuillmere Hydrometrics\n\nOn Mon, 4 May 2026 at 10:00, Ida <ida@x.example> wrote:\n> Where is it?\n> Ida';
    expect(bodyParts(text).map((part) => part.kind)).toEqual(['own', 'signature', 'quote']);
    expect(ownText(text)).toBe('Hello Ida,\n\nthe gauge is on its way.');
  });

  test('an answer between quoted lines stays in its place', () => {
    const parts = bodyParts('> Can you deliver in June?\nYes, in week 24.\n> And the price?\nAs quoted.');
    expect(parts.map((part) => [part.kind, part.text])).toEqual([
      ['quote', '> Can you deliver in June?'],
      ['own', 'Yes, in week 24.'],
      ['quote', '> And the price?'],
      ['own', 'As quoted.'],
    ]);
  });

  test('a copied header block begins the quote', () => {
    const text = 'See below.\n\nVon: Ida\nGesendet: Montag\nAn: Tomas\nBetreff: Pegel\n\nWo bleibt er?';
    expect(bodyParts(text)[1]).toMatchObject({ kind: 'quote' });
    expect(ownText(text)).toBe('See below.');
  });

  test('a closing phrase near the end begins the signature', () => {
    expect(bodyParts('The quote is attached.\n\nKind regards\nIda Brandt\nHarbour Oriel').map((part) => part.kind)).toEqual([
      'own',
      'signature',
    ]);
  });

  test('joined, the parts give the text again', () => {
    const text = 'a\n> b\n\nc\n-- \nd';
    expect(
      bodyParts(text)
        .map((part) => part.text)
        .join('\n'),
    ).toBe(text);
  });

  test('text alone is own', () => {
    expect(bodyParts('Just this.')).toEqual([{ kind: 'own', text: 'Just this.' }]);
  });
});

test.each([
  ['Mon, 4 May 2026 10:00:00 +0200', '2026-05-04T08:00:00.000Z'],
  ['4 May 26 10:00 EST', '2026-05-04T15:00:00.000Z'],
  ['Mon, 04 May 2026 10:00:00 GMT (comment)', '2026-05-04T10:00:00.000Z'],
  ['Tue May  5 10:00:00 2026', '2026-05-05T10:00:00.000Z'],
  ['2026-05-04T10:00:00Z', '2026-05-04T10:00:00.000Z'],
  ['4 May 98 10:00:00 +0000', '1998-05-04T10:00:00.000Z'],
])('the date %j is %s', (text, expected) => {
  expect(new Date(readDate(text) ?? 0).toISOString()).toBe(expected);
});

test.each(['yesterday', '', '40 May 2026 10:00:00', '4 Foo 2026 10:00:00'])('%j is no date', (text) => {
  expect(readDate(text)).toBeNull();
});

test('message ids are read with and without brackets', () => {
  expect(messageIds('<a@x> <b@x>\t<c c@x>')).toEqual(['a@x', 'b@x', 'cc@x']);
  expect(messageIds('a@x b@x')).toEqual(['a@x', 'b@x']);
  expect(messageIds('in answer to your letter')).toEqual([]);
});

test('HTML becomes readable text, its quotes marked, hidden parts left out', () => {
  const html =
    '<style>p{}</style><p>Gr&uuml;&szlig;e &amp; Dank</p><div>Zeile<br>zwei</div><blockquote>alt</blockquote><script>x()</script><!-- no -->';
  expect(htmlToText(html)).toBe('Grüße & Dank\n\nZeile\nzwei\n> alt');
});
