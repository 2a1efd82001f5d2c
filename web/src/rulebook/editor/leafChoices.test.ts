import {
  ACTIONS,
  actionWords,
  compileRulebook,
  cautiousRulebook,
  conditionSchema,
  NO_RECORD_YET,
  participantTest,
  recordTest,
  RULE_STEPS,
} from '@fulvet/core';
import { describe, expect, test } from '@jest/globals';
import { newRule, ruleFromAddress } from './ruleFromAddress';
import { ACTION_CHOICES, FACTS, GROUPS, groupOf, RECORD_FIELDS, TESTS, WHICH } from './leafChoices';

/** The literals that tell the members of a discriminated union apart. */
const literalsOf = (union: { options: readonly { shape: Record<string, unknown> }[] }, key: string): string[] =>
  union.options.flatMap((option) => {
    const { values, options = [] } = option.shape[key] as { values?: Set<string>; options?: string[] };
    return values ? [...values] : options;
  });

describe('what the editor offers', () => {
  test('is every test of a participant and of a record that a rulebook may hold', () => {
    expect(TESTS.map((item) => item.value).sort()).toEqual(literalsOf(participantTest as never, 'is').sort());
    expect(RECORD_FIELDS.map((recordField) => recordField.value).sort()).toEqual(literalsOf(recordTest as never, 'field').sort());
  });

  test.each(RULE_STEPS)('is every action of %s, each complete as it is begun', (step) => {
    const schema = ACTIONS[step];
    expect(ACTION_CHOICES[step].map((item) => item.value).sort()).toEqual(literalsOf(schema as never, 'do').sort());
    for (const { value, start } of ACTION_CHOICES[step]) {
      // Teams are chosen by name after that.
      if (value !== 'teams') expect(schema.parse(start)).toEqual(start);
    }
  });

  test('are conditions that are complete as they are begun, each once, and of every kind', () => {
    for (const { start } of FACTS) expect(conditionSchema.safeParse(start)).toMatchObject({ success: true });
    expect(new Set(FACTS.map((fact) => fact.value)).size).toBe(FACTS.length);
    for (const { value, start } of FACTS) expect(start.fact).toBe(value);
    const known = [
      'participant',
      'direction',
      'mailClass',
      'subject',
      'body',
      'attachment',
      'conversation',
      'filedUnder',
      'record',
      'recipients',
      'size',
      'folder',
      'mailbox',
      'team',
      'user',
      'sensitivity',
      'senderCheck',
    ];
    expect(FACTS.map((fact) => fact.value).sort()).toEqual(known.sort());
  });

  test('are groups and whom a test is about, in words', () => {
    expect(GROUPS.map(({ value }) => groupOf(value, []))).toEqual([{ all: [] }, { any: [] }, { none: [] }]);
    for (const { value } of WHICH)
      expect(conditionSchema.safeParse({ fact: 'participant', which: value, test: { is: 'unknown' } })).toMatchObject({ success: true });
  });
});

describe('a rule that is begun', () => {
  test('from an address or a domain asks for just that', () => {
    expect(ruleFromAddress('keepOut', 'ida@harbour.example')).toMatchObject({
      on: true,
      when: { all: [{ fact: 'participant', which: 'any', test: { is: 'address', value: 'ida@harbour.example' } }] },
      then: { do: 'ignore' },
    });
    expect(ruleFromAddress('create', 'harbour.example').when).toEqual({
      all: [{ fact: 'participant', which: 'this', test: { is: 'domain', value: 'harbour.example', exactly: false } }],
    });
    expect(newRule('share').id).not.toBe(newRule('share').id);
    expect(newRule('share').when).toEqual({ all: [] });
  });

  test('to file under a record names none before one is chosen', () => {
    const start = ACTION_CHOICES.match.find((item) => item.value === 'fileUnder')?.start;
    expect(start).toMatchObject({ id: NO_RECORD_YET });
    if (start === undefined) throw new Error('It is not offered.');
    expect(actionWords(start)).toBe('file it under a record that is not chosen yet');
    const rulebook = cautiousRulebook(['quillmere.example']);
    rulebook.match.rules = [{ ...ruleFromAddress('match', 'harbour.example'), then: start } as never];
    const compiled = compileRulebook(rulebook, { teamAddresses: [], publicProviders: new Set() });
    expect(compiled.fixedRecords).toEqual([{ kind: 'account', id: NO_RECORD_YET }]);
  });
});
