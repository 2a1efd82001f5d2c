import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { DealRecord } from '../records/directory';
import { Directory } from '../records/directory';
import { candidatesByNumber, candidatesInText, codeWords, codeWordsOfText, currentSubject, dealsWithCodes, nameOfFile } from './dealCode';
import { PLAIN_DEAL } from './plainFacts';

const coded = (...codes: string[]): DealRecord[] =>
  codes.map((code, at) => ({ ...PLAIN_DEAL, id: at + 1, name: `Deal ${code}`, code, people: [] }));
const inSubject = (subject: string, ...codes: string[]): (string | null)[] =>
  dealsWithCodes(codeWords(currentSubject(subject)), new Directory({ people: [], accounts: [], deals: coded(...codes) })).map(
    (item) => item.deal.code,
  );
const inText = (text: string, ...codes: string[]): (string | null)[] =>
  candidatesInText(codeWordsOfText(text), coded(...codes)).map((item) => item.deal.code);
const byNumber = (text: string, ...codes: string[]): (string | null)[] =>
  candidatesByNumber([text, ...codeWordsOfText(text)], coded(...codes)).map((item) => item.deal.code);

describe('a code in a subject', () => {
  test.each([
    'QH-2041',
    'Re: [QH-2041] gauge',
    'qh-2041, once more',
    'QH 2041',
    'QH2041',
    'QH_2041',
    'QH–2041',
    'QH‑2041 (non-breaking)',
    'QH−2041',
    'QH—2041',
    'QH - 2041',
    'QH #2041',
    'QH: 2041',
    'QH-2041-B',
    'QH-2041 rev 2',
    'QH-2041_rev2',
    'QH-2041/B: drawings',
    'Drawings for QH\u00A02041.',
    'Angebot QH-2041',
    '(QH-2041)',
  ])('is found in %j', (subject) => expect(inSubject(subject, 'QH-2041', 'QH-204', 'QH-20')).toEqual(['QH-2041']));

  test.each([
    'QH-20417',
    'QH-2041-7',
    'QH-2041.7',
    'Gauges (was: QH-2041)',
    'Gauges [war: QH-2041]',
    'Tel. 20 41',
    'AQH-2041',
    'Room 2041',
    'Order 2041',
  ])('is not read from %j', (subject) => expect(inSubject(subject, 'QH-2041')).toEqual([]));

  test('of three parts, and the longer of two that begin alike', () => {
    expect(inSubject('GH 2041-26: screens', 'GH-2041-26', 'GH-2041')).toEqual(['GH-2041-26']);
    expect(inSubject('GH-2041: screens', 'GH-2041-26', 'GH-2041')).toEqual(['GH-2041']);
    expect(inSubject('20411 and 20412', '20411', '20412')).toEqual(['20411', '20412']);
  });

  test('of any letters and number, in any supported form, and no other', () => {
    const letters = fc.stringMatching(/^[A-Z]{1,4}$/);
    const number = fc.integer({ min: 100, max: 99_999 });
    const between = fc.constantFrom('-', ' ', '', '–', '‑', '−', '_', '/', '.', ' - ', ' #', ': ');
    const after = fc.constantFrom('', '-B', ' rev 2', '/C', ' Rev. D', ', please', ': drawings', ')', ']');
    const before = fc.constantFrom('', 'Re: ', '[', '(', 'AW: Offer ', 'Angebot: ', 'our ');
    fc.assert(
      fc.property(letters, number, between, after, before, fc.integer({ min: 1, max: 9 }), (word, digits, joint, tail, head, more) => {
        const code = `${word}-${digits}`;
        if (code.length < 5) return;
        const subject = `${head}${word}${joint}${digits}${tail}`;
        expect(inSubject(subject, code)).toEqual([code]);
        expect(inSubject(subject, `${word}-${digits + more}`)).toEqual([]);
        expect(inSubject(subject, `${word}X-${digits}`)).toEqual([]);
      }),
    );
  });
});

describe('a code in what the sender wrote', () => {
  test.each([
    'About QH-2041, call +49 40 123456 by 2026-05-04.',
    'this is qh 2041',
    'QH–2041 rev. C as agreed',
    'for QH2041 and nothing else',
  ])('is found in %j', (text) => expect(inText(text, 'QH-2041')).toEqual(['QH-2041']));

  test.each([
    ['a quote', 'Yes.\n\nOn 4 May, Ida Brandt wrote:\n> as for QH-2041\n'],
    ['a signature', 'Yes.\n\n-- \nIda Brandt\nRef QH-2041\n'],
    ['the end under a closing phrase', 'Please look.\n\nBest regards\nIda Brandt\nQH-2041 Street'],
    ['a longer number', 'The pump QH-20417 runs.'],
    ['a telephone number', 'Call 2041 2041 or +49 2041.'],
  ])('is not read from %s', (_, text) => expect(inText(text, 'QH-2041', '2041')).toEqual([]));

  test('and in the name of a file', () => {
    for (const name of ['QH-2041.pdf', 'Angebot_QH-2041_rev2.pdf', 'Drawing QH 2041.DWG', 'qh2041-final.docx'])
      expect(candidatesInText([nameOfFile(name)], coded('QH-2041')).map((item) => item.deal.code)).toEqual(['QH-2041']);
    expect(candidatesInText([nameOfFile('IMG_2041.jpg')], coded('QH-2041'))).toEqual([]);
  });
});

describe('a bare number behind a word for it', () => {
  test.each([
    'your offer 2041',
    'Angebot Nr. 2041',
    'devis n° 2041',
    'Quotation #2041',
    '#2041',
    'tilbud 2041',
    'Offer no. 2041',
    'Bestellung 2041',
    'order: 2041',
  ])('is the only candidate’s that has it: %j', (text) => {
    expect(byNumber(text, 'QH-2041', 'QH-2042')).toEqual(['QH-2041']);
    expect(byNumber(text, 'QH-2041', 'KV-2041')).toEqual([]);
  });

  test.each(['room 2041', 'Tel. 2041', '2041', '12.03.2041', 'offer 20415', 'offer 2041-7', 'we offer gauges for 2041'])(
    'is not read from %j',
    (text) => expect(byNumber(text, 'QH-2041')).toEqual([]),
  );
});

test('where nothing may be a code, nothing is looked for', () => {
  expect([codeWords('no digits'), codeWordsOfText('no digits here')]).toEqual([[], []]);
});
