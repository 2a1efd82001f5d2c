import { describe, expect, test } from '@jest/globals';
import { codeWords, codeWordsOfText } from './dealCode';

describe('words that may be a reference code', () => {
  test('in a subject: four characters or more, one of them a digit', () => {
    expect(codeWords('Re: [qh-2041] gauge, 20410 and A1 for PN16/32')).toEqual(['QH-2041', '20410', 'PN16/32']);
  });

  test('whose letters and number are written apart', () => {
    expect(codeWords('Order QH 2041, then qh #2042: 12 of PN 16 by 4 May')).toEqual(['2041', '2042', 'QH 2041', 'QH 2042']);
    expect(codeWords('Meeting in 20 days')).toEqual([]);
  });

  test('in a text: with a letter, and not in what is quoted', () => {
    const text = 'About QH-2041, call +49 40 123456 by 2026-05-04.\n\nOn 4 May, Ida Brandt wrote:\n> as for QH-2042\n';
    expect(codeWordsOfText(text)).toEqual(['QH-2041']);
    expect(codeWordsOfText('no digits here')).toEqual([]);
  });
});
