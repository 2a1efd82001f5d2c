import { expect, test } from '@jest/globals';
import { Memo } from './memo';

test('works each thing out once, and begins anew when it holds as many as it may', () => {
  const asked: string[] = [];
  const memo = new Memo((key) => {
    asked.push(key);
    return key.length;
  }, 2);
  expect(['a', 'bb', 'a', 'bb'].map((key) => memo.get(key))).toEqual([1, 2, 1, 2]);
  expect(asked).toEqual(['a', 'bb']);
  expect(['ccc', 'a'].map((key) => memo.get(key))).toEqual([3, 1]);
  expect(asked).toEqual(['a', 'bb', 'ccc', 'a']);
});
