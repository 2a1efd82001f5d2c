import { expect, test } from '@jest/globals';
import { Random } from '@fulvet/demo';
import { CASES } from './world/answerCases';
import { FIGURES, figuresOf } from './world/answerFigures';
import { AnswerWorld } from './world/answerWorld';

test.each([
  ['at once', 5],
  ['one by one', 6],
] as const)('in a world of mail of which it is known what is right, everything is: mailboxes read %s', async (order, seed) => {
  const world = new AnswerWorld(new Random(seed), Date.now());
  for (const [of, write] of Object.entries(CASES)) for (let at = 0; at < 2; at += 1) write(world, of);
  const figures = await figuresOf(world, order);
  const amiss = FIGURES.filter((one) => /wrong|missing|needless|not|lost/.test(one)).flatMap((name) =>
    figures.byCase(name).map((line) => `${name}: ${line}`),
  );
  expect(amiss).toEqual([]);
  expect(figures.count('filings right')).toBeGreaterThan(world.sent.length);
  expect(figures.count('questions right')).toBeGreaterThan(0);
});
