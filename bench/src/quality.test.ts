import { expect, test } from '@jest/globals';
import { Random } from '@fulvet/demo';
import { CASES } from './world/answerCases';
import type { Figures } from './world/answerFigures';
import { FIGURES, figuresOf } from './world/answerFigures';
import type { Case } from './world/answerWorld';
import { AnswerWorld } from './world/answerWorld';
import { POLICIES } from './world/policyCases';

function worldOf(cases: Record<string, Case>, seed: number): AnswerWorld {
  const world = new AnswerWorld(new Random(seed), Date.now());
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

test.each(Object.entries(POLICIES))('under another rulebook everything is right, too: %s', async (_, { change, cases }) => {
  const world = worldOf(cases, 3);
  const figures = await figuresOf(world, 'one by one', change);
  expect(amissIn(figures)).toEqual([]);
  expect(['filings right', 'questions right'].some((one) => figures.count(one) > 0)).toBe(true);
});
