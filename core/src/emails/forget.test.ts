import { describe, expect, test } from '@jest/globals';
import type { Participant } from './emailFacts';
import { redactor, withoutPeople } from './forget';

const person = (role: Participant['role'], address: string, name: string): Participant => ({
  role,
  address,
  name,
  domain: address.slice(address.indexOf('@') + 1),
});
const parts = {
  subject: 'Re: Ida  Brandt and the gauge',
  text: 'Hello,\nIDA BRANDT <ida@harbour.example> wrote to tide.person@quillmere.example. Idabrand stays.',
  participants: [
    person('from', 'ida@harbour.example', 'Ida Brandt'),
    person('to', 'kim@reef.example', 'Kim (for Ida Brandt)'),
    person('cc', 'ida@harbour.example', 'Brandt, I.'),
  ],
};

describe('a person who is forgotten', () => {
  test('goes from participants, subject, text and the names of others; the others stay', () => {
    const left = withoutPeople(parts, (address) => address === 'ida@harbour.example');
    expect(left.found).toBe(true);
    expect(JSON.stringify(left)).not.toMatch(/ida@harbour|ida\s+brandt/i);
    expect(left.participants.map((participant) => `${participant.role} ${participant.address} ${participant.name}`)).toEqual([
      'from erased-1@erased.invalid ',
      'to kim@reef.example Kim (for [erased])',
      'cc erased-1@erased.invalid ',
    ]);
    expect(left.text).toContain('Idabrand stays');
    expect(left.subject).toBe('Re: [erased] and the gauge');
  });

  test('who is not there changes nothing', () => {
    expect(withoutPeople(parts, () => false)).toEqual({ ...parts, found: false });
  });

  test('several people keep their own numbers', () => {
    const left = withoutPeople(parts, (address) => !address.includes('quillmere'));
    expect(left.participants.map((participant) => participant.address)).toEqual([
      'erased-1@erased.invalid',
      'erased-2@erased.invalid',
      'erased-1@erased.invalid',
    ]);
  });

  test('is found by traces that an email alone does not tell', () => {
    const left = withoutPeople({ ...parts, participants: [] }, () => false, { addresses: ['ida@harbour.example'], names: ['Ida Brandt'] });
    expect(left.text).toContain('[erased] <[erased]> wrote');
  });

  test.each(['', 'Al', 'Brandt', 'a b'])('the name “%s” is no trace by itself', (name) => {
    expect(redactor({ addresses: [], names: [name] })('Brandt said a b to Al')).toBe('Brandt said a b to Al');
  });

  test.each(['o-b@zander-dredging.example', "o'b/c@x.example", 'a{2}$^@x.example', 'ünï@x.example'])(
    '%s is found as it is written',
    (address) => {
      expect(redactor({ addresses: [address], names: [] })(`From ${address.toUpperCase()}, to o`)).toBe('From [erased], to o');
    },
  );

  test('signs in names are no pattern', () => {
    expect(
      redactor({ addresses: ['a.b+c@x.example'], names: ['Ida (Sales) [Old*]'] })('a.b+c@x.example axb+c@x.example Ida (Sales) [Old*]'),
    ).toBe('[erased] axb+c@x.example [erased]');
  });
});
