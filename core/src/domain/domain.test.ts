import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { domainAndParents, domainToAscii, registrableDomain } from './domain';
import { DomainTrie, coversAny } from './domainTrie';

test('a domain in ASCII is lower case, IDNA, without final dot', () => {
  expect(domainToAscii('Höfn.Example.')).toBe('xn--hfn-sna.example');
  expect(domainToAscii('under_score.harbour.example')).toBe('under_score.harbour.example');
  expect(domainToAscii('not a domain')).toBe('');
});

test.each([
  ['mail.north.harbour.example', 'harbour.example'],
  ['port.co.uk', 'port.co.uk'],
  ['mail.port.co.uk', 'port.co.uk'],
  ['co.uk', null],
])('the registrable part of %s is %s', (domain, expected) => {
  expect(registrableDomain(domain)).toBe(expected);
});

test('a domain and those above it, down to two labels', () => {
  expect([...domainAndParents('a.b.c.example')]).toEqual(['a.b.c.example', 'b.c.example', 'c.example']);
});

describe('DomainTrie', () => {
  test('covers sub-domains unless the entry is exact, and no look-alike', () => {
    const trie = new DomainTrie<string>();
    trie.add('harbour.example', 'all');
    trie.add('press.example', 'only', true);
    expect(trie.find('harbour.example')).toBe('all');
    expect(trie.find('mail.harbour.example')).toBe('all');
    expect(trie.find('notharbour.example')).toBeUndefined();
    expect(trie.find('press.example')).toBe('only');
    expect(trie.find('mail.press.example')).toBeUndefined();
    expect(trie.find('example')).toBeUndefined();
  });

  test('the longest entry wins', () => {
    const trie = new DomainTrie<string>();
    trie.add('harbour.example', 'company');
    trie.add('lab.harbour.example', 'department');
    expect(trie.find('x.lab.harbour.example')).toBe('department');
    expect(trie.find('x.harbour.example')).toBe('company');
  });

  test('agrees with comparing endings, for any entries', () => {
    const domain = fc.array(fc.constantFrom('a', 'b', 'c'), { minLength: 1, maxLength: 4 }).map((labels) => labels.join('.'));
    fc.assert(
      fc.property(fc.array(domain, { maxLength: 6 }), domain, (entries, asked) => {
        const trie = new DomainTrie<string>();
        for (const entry of entries) trie.add(entry, entry);
        const plain = entries
          .filter((entry) => asked === entry || asked.endsWith(`.${entry}`))
          .sort((first, second) => second.length - first.length)[0];
        expect(trie.find(asked)).toBe(plain);
      }),
    );
  });

  test('few domains and many cover the same', () => {
    const domain = fc.array(fc.constantFrom('a', 'ab', 'b'), { minLength: 1, maxLength: 4 }).map((labels) => labels.join('.'));
    fc.assert(
      fc.property(fc.array(domain, { maxLength: 12 }), domain, (entries, asked) => {
        const plain = entries.some((entry) => asked === entry || asked.endsWith(`.${entry}`));
        expect(coversAny(entries)(asked)).toBe(plain);
        expect(coversAny([...entries, ''])(asked)).toBe(plain);
      }),
    );
  });
});
