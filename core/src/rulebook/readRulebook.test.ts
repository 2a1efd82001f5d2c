import { describe, expect, test } from '@jest/globals';
import { readRulebook } from './readRulebook';
import { cautiousRulebook, keepOutEntrySchema } from './schema';
import { rule } from '../testing/ruleWorld';

describe('a rulebook of an older version', () => {
  test('is raised to the newest, and decides as before', () => {
    const { keepOut, takeIn, match, create, share, ...rest } = cautiousRulebook(['quillmere.example']);
    const without = (part: object) =>
      Object.fromEntries(
        Object.entries(part).filter(([name]) => !['rules', 'threshold', 'margin', 'leadDays', 'mostPeople'].includes(name)),
      );
    const old = {
      ...rest,
      formatVersion: 1,
      keepOut: without(keepOut),
      takeIn: without(takeIn),
      match: without(match),
      create: without(create),
      share: without(share),
    };
    expect(readRulebook(old).data).toEqual(cautiousRulebook(['quillmere.example']));
  });

  test('says the effects of its rules and entries in the words of today', () => {
    const rulebook = cautiousRulebook(['quillmere.example']);
    rulebook.keepOut.entries = [keepOutEntrySchema.parse({ id: 'e', kind: 'domain', value: 'press.example', effect: 'ignore' })];
    rulebook.keepOut.rules = [rule('keepOut', { all: [] }, { do: 'ignore' }), rule('keepOut', { all: [] }, { do: 'letThrough' })];
    rulebook.takeIn.rules = [rule('takeIn', { all: [] }, { do: 'takeIn' }), rule('takeIn', { all: [] }, { do: 'leaveToOwner' })];
    const old = JSON.parse(
      JSON.stringify({ ...rulebook, formatVersion: 2 })
        .replaceAll('"ignore"', '"disregard"')
        .replaceAll('"do":"takeIn"', '"do":"track"')
        .replaceAll('"leaveToOwner"', '"leaveLoose"'),
    ) as unknown;
    expect(JSON.stringify(old)).toContain('leaveLoose');
    expect(readRulebook(old).data).toEqual(rulebook);
    expect(readRulebook({ formatVersion: 2, takeIn: [], keepOut: null }).success).toBe(false);
  });
});
