import { describe, expect, test } from '@jest/globals';
import { docketSentences } from '../decision/docketSentences';
import { NO_MEMORY } from '../facts/types';
import { reachOf, visibilityKey, visibilityKeyWords } from '../decision/visibility';
import { decided, NOW, OUR, rule } from '../testing/ruleWorld';
import type { Action } from './rule';
import type { Rulebook } from './schema';

describe('what the owner of a mailbox says', () => {
  test('lets in less than the rulebook, never more', () => {
    const verdict = (ownTakeIn: 'rules' | 'known' | 'byHand', from?: string, scope: Rulebook['takeIn']['scope'] = 'external') => {
      const entry = decided({ ownTakeIn, ...(from ? { from } : {}) }, (rulebook) => void (rulebook.takeIn.scope = scope)).docket[1];
      return [entry?.verdict, entry?.rule];
    };
    expect(verdict('rules', 'new@else.example')).toEqual(['taken in', 'take-in.scope']);
    expect(verdict('known', 'new@else.example')).toEqual(['left to its owner', 'take-in.mailbox']);
    expect(verdict('known')).toEqual(['taken in', 'take-in.scope']);
    expect(verdict('byHand')).toEqual(['left to its owner', 'take-in.mailbox']);
    expect(verdict('known', undefined, 'byHand')).toEqual(['left to its owner', 'take-in.scope']);
    const [, entry] = docketSentences(decided({ ownTakeIn: 'byHand' }, () => undefined).docket);
    expect(entry?.because.at(-1)).toBe('The owner of the mailbox takes in mail by hand only.');
  });
});

describe('teams, levels of sharing, how much contact', () => {
  test('a rule for a team is silent on other mail', () => {
    const rules = (rulebook: Rulebook): void =>
      void (rulebook.keepOut.rules = [rule('keepOut', { all: [] }, { do: 'keepOut' }, { appliesTo: { teams: ['Coast'] } })]);
    expect([decided({ teams: ['coast'] }, rules).outcome, decided({ teams: ['rivers'] }, rules).outcome]).toEqual(['kept out', 'filed']);
    const asked = (rulebook: Rulebook): void =>
      void (rulebook.keepOut.rules = [rule('keepOut', { fact: 'team', in: ['Coast'] }, { do: 'keepOut' })]);
    expect([decided({ teams: ['coast'] }, asked).outcome, decided({ teams: ['rivers'] }, asked).outcome]).toEqual(['kept out', 'filed']);
  });

  test('Share: with those who own its records, with teams, with everyone; what it says, or only that it exists', () => {
    const seen = (then: Action<'share'>) => {
      const { visibility, sharedTeams, existenceOnly, docket } = decided({}, (rulebook) => {
        rulebook.share.rules = [rule('share', { all: [] }, then)];
      });
      return [visibilityKey({ visibility, sharedTeams, existenceOnly }), docketSentences(docket).at(-1)?.because.at(-1)];
    };
    expect(seen({ do: 'record', existenceOnly: false })).toEqual(['record', 'By that rule it is seen by those who own its records.']);
    expect(seen({ do: 'teams', teams: ['Rivers', 'coast'], existenceOnly: true })).toEqual([
      'teams: coast, rivers, exists',
      'By that rule it is seen by the team coast and rivers, that it exists only.',
    ]);
    expect(['owner', 'record, exists', 'record', 'teams: a', 'everyone'].map(reachOf)).toEqual([0, 0.1, 1, 2, 3]);
    expect(visibilityKeyWords('teams: coast, exists')).toBe('the team coast, that it exists only');
  });

  test('Create: after so many emails with someone; owned by the account’s owner or a member', () => {
    const made = (after: object, at: number[]) => {
      const { creations } = decided(
        { from: 'new@harbour.example', users: [] },
        (rulebook) => void (rulebook.create.rules = [rule('create', { all: [] }, { do: 'contact', ...after } as Action<'create'>)]),
        [],
        NO_MEMORY,
        new Map([['new@harbour.example', at]]),
      );
      return creations.map((creation) => creation.owner);
    };
    const three = { after: 'emails', emails: 3, owner: 'tomas@quillmere.example' };
    expect(made(three, [NOW - 2, NOW])).toEqual([]);
    expect(made(three, [NOW - 2, NOW - 1, NOW])).toEqual(['tomas@quillmere.example']);
    expect(made(three, [NOW - 2, NOW, NOW + 1])).toEqual([]);
    expect(made({ after: 'firstEmail', owner: 'account' }, [])).toEqual([OUR]);
    expect(made({ after: 'firstEmail' }, [])).toEqual([null]);
  });
});
