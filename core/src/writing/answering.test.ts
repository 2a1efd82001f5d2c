import { describe, expect, test } from '@jest/globals';
import type { Answered } from './answering';
import { beginningOf, ownTextOf } from './answering';

const ida = { name: 'Ida Brandt', address: 'ida@harbour.example' };
const finn = { name: '', address: 'finn@harbour.example' };
const rep = { name: 'Rep', address: 'rep@quillmere.example' };
const kim = { name: 'Kim', address: 'kim@quillmere.example' };
const email: Answered = {
  messageId: 'b@harbour.example',
  references: ['a@harbour.example'],
  subject: 'AW: Gauge',
  at: Date.UTC(2026, 4, 4, 10),
  text: 'When?\n\nIda',
  from: ida,
  replyTo: [],
  to: [rep],
  cc: [finn, kim],
};
const isOwn = (address: string): boolean => address === rep.address;

describe('an answer', () => {
  test('goes to the writer, with the whole conversation named', () => {
    expect(beginningOf('answer', email, isOwn)).toEqual({
      to: [ida],
      cc: [],
      subject: 'Re: Gauge',
      inReplyTo: 'b@harbour.example',
      references: ['a@harbour.example', 'b@harbour.example'],
      quote: { heading: 'On 4 May 2026, Ida Brandt wrote:', text: 'When?\n\nIda' },
    });
  });

  test('goes where the writer asked for it', () => {
    const desk = { name: 'Desk', address: 'desk@harbour.example' };
    expect(beginningOf('answer', { ...email, replyTo: [desk] }, isOwn).to).toEqual([desk]);
  });

  test('to all leaves out oneself, and names no one twice', () => {
    const { to, cc } = beginningOf('answer all', { ...email, to: [rep, finn], cc: [finn, kim, ida, rep] }, isOwn);
    expect([to, cc]).toEqual([[ida, finn], [kim]]);
  });

  test('to one’s own email goes to its recipients again', () => {
    const own = { ...email, from: rep, to: [ida], cc: [finn] };
    expect(beginningOf('answer', own, isOwn).to).toEqual([ida]);
    expect(beginningOf('answer all', own, isOwn)).toMatchObject({ to: [ida], cc: [finn] });
  });

  test('to an email among one’s own addresses alone goes there', () => {
    expect(beginningOf('answer', { ...email, from: rep, to: [rep], cc: [] }, isOwn).to).toEqual([rep]);
  });

  test('to an email without a Message-ID refers to nothing, and a long list of references keeps its first and last', () => {
    expect(beginningOf('answer', { ...email, messageId: null }, isOwn)).toMatchObject({ inReplyTo: null, references: [] });
    const references = Array.from({ length: 80 }, (_, at) => `r${at}@x.example`);
    const long = beginningOf('answer', { ...email, references }, isOwn).references;
    expect([long.length, long[0], long.at(-2), long.at(-1)]).toEqual([30, 'r0@x.example', 'r79@x.example', 'b@harbour.example']);
  });
});

test('a forwarded email has no recipients yet, answers nothing, and quotes all', () => {
  expect(beginningOf('forward', email, isOwn)).toMatchObject({
    to: [],
    cc: [],
    subject: 'Fwd: Gauge',
    inReplyTo: null,
    quote: { heading: 'Forwarded email of Ida Brandt, 4 May 2026:' },
  });
});

test('one’s own text is without what it quotes', () => {
  expect(ownTextOf('Tomorrow.\n\nOn 4 May 2026, Ida Brandt wrote:\n\n> When? It is attached.')).toBe('Tomorrow.');
});
