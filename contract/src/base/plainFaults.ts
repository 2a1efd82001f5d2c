import { z } from 'zod';

type Fault = Parameters<NonNullable<NonNullable<Parameters<typeof z.config>[0]>['customError']>>[0];

const COUNTED: Readonly<Record<string, [single: string, several: string]>> = {
  string: ['character', 'characters'],
  array: ['entry', 'entries'],
  set: ['entry', 'entries'],
  map: ['entry', 'entries'],
};
const KINDS: Readonly<Record<string, string>> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object',
  record: 'an object',
  null: 'null',
  date: 'a date',
};
const FORMATS: Readonly<Record<string, string>> = {
  email: 'is no email address: it looks like name@company.example',
  url: 'is no web address: it begins with https://',
  datetime: 'is no time: it looks like 2026-05-04T09:30:00Z',
  date: 'is no date: it looks like 2026-05-04',
  uuid: 'is no UUID',
};

/** What is wrong with a value, in words that follow its name: "must have at least 10 characters". Null leaves it to the shape. */
function inWords(fault: Fault): string | undefined {
  switch (fault.code) {
    case 'invalid_type':
      return fault.input === undefined ? 'is missing' : `must be ${KINDS[fault.expected] ?? `of the type ${fault.expected}`}`;
    case 'too_small':
      return bound('at least', Number(fault.minimum), fault);
    case 'too_big':
      return bound('at most', Number(fault.maximum), fault);
    case 'invalid_format':
      return FORMATS[fault.format] ?? 'cannot be read';
    case 'invalid_value':
      return `must be ${oneOf(fault.values.map(String))}`;
    case 'unrecognized_keys':
      return `has fields that are not known here: ${fault.keys.join(', ')}`;
    case 'not_multiple_of':
      return `must be a multiple of ${fault.divisor}`;
    case 'invalid_union':
      return 'has none of the forms that are taken here';
    default:
      return undefined;
  }
}

function bound(
  words: 'at least' | 'at most',
  limit: number,
  { origin, inclusive }: { origin: string; inclusive?: boolean | undefined },
): string {
  const counted = COUNTED[origin];
  if (counted) {
    if (words === 'at least' && limit === 1) return origin === 'string' ? 'is missing' : 'needs at least one entry';
    return `must have ${words} ${limit} ${counted[limit === 1 ? 0 : 1]}`;
  }
  if (inclusive === false) return `must be ${words === 'at least' ? 'more' : 'less'} than ${limit}`;
  return `must be ${words} ${limit}`;
}

const oneOf = (values: readonly string[]): string =>
  values.length < 2 ? (values[0] ?? '') : `${values.slice(0, -1).join(', ')} or ${values.at(-1) ?? ''}`;

/** From now on every shape says what is wrong in plain words, where it has no words of its own. */
export function sayFaultsPlainly(): void {
  z.config({ customError: inWords });
}
