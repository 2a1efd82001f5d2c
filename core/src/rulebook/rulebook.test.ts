import { describe, expect, test } from '@jest/globals';
import { compileRulebook } from './compile';
import { cautiousRulebook, rulebookSchema } from './schema';

describe('rulebookSchema', () => {
  test('takes the rulebook of a new installation, which shows nothing and creates nobody', () => {
    const parsed = rulebookSchema.parse(cautiousRulebook(['Quillmere.Example']));
    expect([parsed.us.ownDomains, parsed.share.level, parsed.create.people]).toEqual([['quillmere.example'], 'owner', 'nothing']);
  });

  test.each([
    ['an unknown setting', { colour: 'green' }],
    ['an unknown scope', { takeIn: { scope: 'all' } }],
    ['an own domain that is none', { us: { ownDomains: ['not a domain'] } }],
    [
      'an entry that is no address',
      { keepOut: { internal: true, machineMail: [], entries: [{ id: 'a', kind: 'address', value: 'harbour.example' }] } },
    ],
    ['a later format version', { formatVersion: 4 }],
  ])('refuses %s', (_, change) => {
    expect(rulebookSchema.safeParse({ ...cautiousRulebook(['quillmere.example']), ...change }).success).toBe(false);
  });
});

test('the list of providers is changed by the rulebook', () => {
  const rulebook = cautiousRulebook(['quillmere.example']);
  rulebook.us.providers = { added: ['post.example'], removed: ['freemail.example'] };
  const compiled = compileRulebook(rulebook, { teamAddresses: [], publicProviders: new Set(['freemail.example', 'other.example']) });
  expect(['post.example', 'freemail.example', 'other.example'].map((domain) => compiled.isPublicProvider(domain))).toEqual([
    true,
    false,
    true,
  ]);
});

test('tags tell people apart only where the rulebook says so', () => {
  const rulebook = cautiousRulebook(['quillmere.example']);
  const context = { teamAddresses: [], publicProviders: new Set<string>() };
  expect(compileRulebook(rulebook, context).personKey('ida+x@h.example')).toBe('ida@h.example');
  rulebook.us.tagsTellApart = true;
  expect(compileRulebook(rulebook, context).personKey('ida+x@h.example')).toBe('ida+x@h.example');
});
