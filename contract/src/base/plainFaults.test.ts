import { beforeAll, describe, expect, test } from '@jest/globals';
import { z } from 'zod';
import { routes } from '../routes';
import { sayFaultsPlainly } from './plainFaults';

beforeAll(() => sayFaultsPlainly());

const faultOf = (shape: z.ZodType, value: unknown): string | undefined => {
  const read = shape.safeParse(value);
  return read.success ? undefined : read.error.issues[0]?.message;
};

describe('what is wrong with a value', () => {
  test.each<[string, z.ZodType, unknown, string]>([
    ['left out', z.string(), undefined, 'is missing'],
    ['empty', z.string().min(1), '', 'is missing'],
    ['a short text', z.string().min(10), 'short', 'must have at least 10 characters'],
    ['a long text', z.string().max(3), 'long', 'must have at most 3 characters'],
    ['an empty list', z.array(z.string()).min(1), [], 'needs at least one entry'],
    ['a long list', z.array(z.number()).max(1), [1, 2], 'must have at most 1 entry'],
    ['a small number', z.number().min(1), 0, 'must be at least 1'],
    ['a number at an open bound', z.number().positive(), 0, 'must be more than 0'],
    ['another type', z.number(), 'x', 'must be a number'],
    ['part of a number', z.int(), 1.5, 'must be a whole number'],
    ['another choice', z.enum(['rep', 'viewer', 'admin']), 'boss', 'must be rep, viewer or admin'],
    ['no address', z.email(), 'ida', 'is no email address: it looks like name@company.example'],
    ['a field too many', z.strictObject({ name: z.string() }), { name: 'x', nmae: 'y' }, 'has fields that are not known here: nmae'],
    ['no form of several', z.union([z.string(), z.number()]), null, 'has none of the forms that are taken here'],
    ['with words of its own', z.string().min(1, { message: 'needs a name' }), '', 'needs a name'],
  ])('%s', (_, shape, value, words) => {
    expect(faultOf(shape, value)).toBe(words);
  });

  test('is never in words of the library, whatever is sent to any route', () => {
    const library = /^(?:Invalid|Too |Unrecognized|expected )/;
    const values = [
      undefined,
      null,
      0,
      -1,
      1.5,
      '',
      'x'.repeat(5000),
      [],
      {},
      { name: '', email: 'x', address: '', password: 'x', days: -3 },
    ];
    const said = Object.values(routes).flatMap((route) => {
      const { body } = route as { body?: unknown };
      if (!(body instanceof z.ZodType)) return [];
      return values.flatMap((value) => body.safeParse(value).error?.issues.map(({ message }) => message) ?? []);
    });
    expect(said.length).toBeGreaterThan(500);
    expect(said.filter((message) => library.test(message))).toEqual([]);
  });
});
