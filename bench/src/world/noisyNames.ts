import type { Rulebook } from '@fulvet/core';
import type { Random } from '../../../demo/src/random';

/** When a rulebook creates an unknown person. */
export const PEOPLE_POLICIES = {
  'we wrote': (rulebook: Rulebook): void => void Object.assign(rulebook.create, { people: 'contact', after: 'weWrote', accounts: true }),
  'first email': (rulebook: Rulebook): void =>
    void Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true }),
  'they answered': (rulebook: Rulebook): void =>
    void Object.assign(rulebook.create, { people: 'lead', after: 'theyAnswered', accounts: false }),
} as const;

export type PeoplePolicy = keyof typeof PEOPLE_POLICIES;

/** How mail programs and gateways write a name, all of them the same person's. */
export const NAME_FORMS: readonly ((given: string, family: string, company: string, random: Random) => string)[] = [
  (given, family) => `${given} ${family}`,
  (given, family) => `${given} ${family}`,
  (given, family) => `${family}, ${given}`,
  (given, family) => `${given} ${family}`.toUpperCase(),
  (given, family) => `${given} ${family}`.toLowerCase(),
  (given, family, company) => `${given} ${family} (${company})`,
  (given, family, company) => `${given} ${family} | ${company}`,
  (given, family) => `'${given} ${family}'`,
  (given, family) => `${family.toUpperCase()} ${given}`,
  (given, family) => `Dr. ${given} ${family}`,
  (given, family) => inWords(`${given} ${family}`, 'Q'),
  (given, family) => inWords(`${given} ${family}`, 'B'),
  // Encoded twice, as some gateways do.
  (given, family) => `=?utf-8?B?${Buffer.from(inWords(`${given} ${family}`, 'Q')).toString('base64')}?=`,
];

/** Encoded words (RFC 2047), as some gateways cut them: anywhere, within a character too. */
function inWords(text: string, how: 'B' | 'Q'): string {
  const bytes = Buffer.from(text);
  const cut = Math.floor(bytes.length / 2);
  return [bytes.subarray(0, cut), bytes.subarray(cut)]
    .map((part) => {
      const coded =
        how === 'B' ? part.toString('base64') : [...part].map((byte) => `=${byte.toString(16).toUpperCase().padStart(2, '0')}`).join('');
      return `=?utf-8?${how}?${coded}?=`;
    })
    .join(' ');
}

export const MARKED_GIVEN = ['Zoë', 'Åsa', 'Jörg', 'Łukasz', 'Þóra', 'Inés', 'Čeněk', 'Gülay', 'Søren', 'Maël'];

export const MARKED_FAMILY = [
  'Kühlwein',
  'Bjørnskår',
  'Özdemar',
  'Čapkov',
  'Nuñella',
  'Lefèvrier',
  'Sjöqvara',
  'Żurawin',
  'O’Merran',
  'van der Quaal',
];

/** Local parts that no person has. */
export const MACHINE_LOCALS = [
  'unsubscribe-7f3a9c',
  'bounce+71f2=rep',
  'reply+ab93kd02lf',
  'confirm.8821aa',
  'no-reply',
  'invoices',
  'info',
  'sales',
  'noreply-42',
  'notifications',
];

export const SUBJECTS = [
  'Introduction',
  'Ihre Anfrage',
  'Visit on Tuesday',
  'Site survey',
  'Demande de rendez-vous',
  'Samples',
  'Termin',
  'Measurements',
];
