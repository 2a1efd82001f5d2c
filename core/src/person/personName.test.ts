import { describe, expect, test } from '@jest/globals';
import { personName } from './personName';

const GIVEN = ['Ida', 'Jürgen', 'Anne-Marie', 'José Luis', 'Zoë', 'Jan', 'Łukasz'];
const FAMILY = ['Brandt', 'Øztürk', 'Bexley-Oh', 'van der Berg', "O'Neil", 'de la Cruz', 'Tamm-Vesk'];

/** How address books and mail programs write a name. */
const FORMS: Record<string, (given: string, family: string) => string> = {
  'first last': (given, family) => `${given} ${family}`,
  'last, first': (given, family) => `${family}, ${given}`,
  'LAST, first': (given, family) => `${family.toUpperCase()}, ${given}`,
  'LAST first': (given, family) => `${family.toUpperCase()} ${given}`,
  'first LAST': (given, family) => `${given} ${family.toUpperCase()}`,
  capitals: (given, family) => `${given} ${family}`.toUpperCase(),
  'small letters': (given, family) => `${given} ${family}`.toLowerCase(),
  'a company in brackets': (given, family) => `${given} ${family} (Harbour Oriel)`,
  'a place in square brackets': (given, family) => `${family}, ${given} [HAM]`,
  'a company behind a bar': (given, family) => `${given} ${family} | Harbour Oriel`,
  'a company behind a dash': (given, family) => `${given} ${family} - Harbour Oriel`,
  'places behind slashes': (given, family) => `${given} ${family}/Hamburg/Oriel`,
  quotation: (given, family) => `'${given} ${family}'`,
  'via a list': (given, family) => `${given} ${family} via Sales`,
  blanks: (given, family) => `  ${given}   ${family} `,
  'the address behind it': (given, family) => `${given} ${family} <someone@harbour.example>`,
  'a form of address': (given, family) => `Frau ${given} ${family}`,
  'another form of address': (given, family) => `Mr. ${given} ${family}`,
  'a degree': (given, family) => `${given} ${family}, PhD`,
};

describe('a person’s name', () => {
  test.each(Object.keys(FORMS))('is read from %s', (form) => {
    const made = GIVEN.flatMap((given) =>
      FAMILY.map((family) => ({ want: `${given} ${family}`, written: FORMS[form]?.(given, family) ?? '' })),
    );
    const wrong = made.filter(({ want, written }) => personName(written, 'x71@harbour.example').name !== want);
    expect(wrong.length / made.length).toBeLessThanOrEqual(0.03);
    expect(wrong.filter(({ want }) => want === 'Ida Brandt')).toEqual([]);
  });

  test.each([
    ['Ida Brandt, Harbour Oriel', 'ida.brandt@harbour.example', 'Ida Brandt'],
    ['Brandt Lund, Ida', 'ida.brandt@harbour.example', 'Ida Brandt Lund'],
    ['Brandt Ida', 'ida.brandt@harbour.example', 'Ida Brandt'],
    ['Brandt Ida', 'info@harbour.example', 'Brandt Ida'],
    ['Ida.Brandt', 'ib@harbour.example', 'Ida Brandt'],
    ['ida_brandt', 'ib@harbour.example', 'Ida Brandt'],
    ['Dr. Ida Brandt', 'ib@harbour.example', 'Dr. Ida Brandt'],
    ['KPMG Oslo', 'x@kpmg.example', 'KPMG Oslo'],
    ['Martin Luther King, Jr.', 'mlk@x.example', 'Martin Luther King, Jr.'],
    ['Mo Farah', 'mo@x.example', 'Mo Farah'],
  ])('“%s” at %s is %s', (written, address, name) => expect(personName(written, address).name).toBe(name));
});
