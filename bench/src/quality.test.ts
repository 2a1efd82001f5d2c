import type { Rulebook } from '@fulvet/core';
import { expect, test } from '@jest/globals';
import { Random } from '@fulvet/demo';
import { CASES } from './world/answerCases';
import type { Figures, ReadingOrder } from './world/answerFigures';
import { decisionsOf, FIGURES, figuresOf } from './world/answerFigures';
import type { Case } from './world/answerWorld';
import { AnswerWorld } from './world/answerWorld';
import { POLICIES } from './world/policyCases';

const NOW = Date.now();

function worldOf(cases: Record<string, Case>, seed: number): AnswerWorld {
  const world = new AnswerWorld(new Random(seed), NOW);
  for (const [of, write] of Object.entries(cases)) for (let at = 0; at < 2; at += 1) write(world, of);
  return world;
}

const amissIn = (figures: Figures): string[] =>
  FIGURES.filter((one) => /wrong|missing|needless|not|lost/.test(one)).flatMap((name) =>
    figures.byCase(name).map((line) => `${name}: ${line}`),
  );

test.each([
  ['at once', 5],
  ['one by one', 6],
] as const)('in a world of mail of which it is known what is right, everything is: mailboxes read %s', async (order, seed) => {
  const world = worldOf(CASES, seed);
  const figures = await figuresOf(world, order);
  expect(amissIn(figures)).toEqual([]);
  expect(figures.count('filings right')).toBeGreaterThan(world.sent.length);
  expect(figures.count('questions right')).toBeGreaterThan(0);
});

test('records that come in after the mail lead to the same as records that were there before', async () => {
  // Made of mail, a record would stand in the way of the file's: so nobody is created.
  const nobody = (rulebook: Rulebook): void => void (rulebook.create.people = 'nothing');
  const filed = async (order: ReadingOrder): Promise<string[]> =>
    [...(await decisionsOf(worldOf(CASES, 4), order, nobody))]
      .map(([id, { outcome, under, asks }]) => `${id}: ${outcome}, ${[...under].sort().join(' ')}, ${asks.join(' ')}`)
      .sort();
  const [before, after] = [await filed('at once'), await filed('before the records')];
  expect(after).toEqual(before);
  expect(before.filter((one) => one.includes('deal:')).length).toBeGreaterThan(50);
});

test.each(Object.entries(POLICIES))('under another rulebook everything is right, too: %s', async (_, { change, cases }) => {
  const world = worldOf(cases, 3);
  const figures = await figuresOf(world, 'one by one', change);
  expect(amissIn(figures)).toEqual([]);
  expect(['filings right', 'questions right'].some((one) => figures.count(one) > 0)).toBe(true);
});
