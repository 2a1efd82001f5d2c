import { expect, test } from '@jest/globals';
import { routes } from '@fulvet/contract';
import { checkAnswer } from './checkAnswer';

const route = routes.listUndo;
const step = { id: 1, kind: 'edit', summary: 'Changed', at: '2026-05-04T10:00:00.000Z', by: 'Ada', undone: false };

test('an answer as promised passes', () => {
  expect(() => checkAnswer('listUndo', route, { steps: [step] })).not.toThrow();
});

test.each([
  ['a value that is missing', { steps: [{ ...step, by: undefined }] }, 'steps.0.by'],
  ['a value of another kind', { steps: [{ ...step, id: '1' }] }, 'steps.0.id'],
  ['a value beside the promise', { steps: [step, { ...step, payload: 'secret' }] }, 'steps.1.payload'],
  ['nothing at all', undefined, 'listUndo'],
])('%s is a bug that names its place', (_, answer, place) => {
  expect(() => checkAnswer('listUndo', route, answer)).toThrow(place);
});
