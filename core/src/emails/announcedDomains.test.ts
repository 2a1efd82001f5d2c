import { expect, test } from '@jest/globals';
import { announcedDomains } from './announcedDomains';

test.each([
  ['From 1 May we have been renamed to Oriel Marine. Please write to ida.brandt@oriel-marine.example.', ['oriel-marine.example']],
  ['Our new e-mail addresses end in @oriel-marine.example', ['oriel-marine.example']],
  ['Wir heißen jetzt Oriel Marine.\n\nSie erreichen uns unter www.oriel-marine.example', ['oriel-marine.example']],
  ['Unsere neuen E-Mail-Adressen: ida@oriel-marine.example', ['oriel-marine.example']],
  ['Notre nouvelle adresse est ida@oriel-marine.example.', ['oriel-marine.example']],
  ['Nuestra nueva dirección es ida@oriel-marine.example', ['oriel-marine.example']],
  ['Il nostro nuovo indirizzo: ida@oriel-marine.example', ['oriel-marine.example']],
  ['Ons nieuwe e-mailadres is ida@oriel-marine.example', ['oriel-marine.example']],
  // Another domain, with nothing that announces it; the sender's own; what is quoted.
  ['The drawings are at files.sharebox.example.', []],
  ['We have a new gauge. See harbour.example', []],
  ['Our new address is ida@mail.harbour.example', []],
  ['Thanks.\n\nOn 4 May Jo wrote:\n> Our new address is jo@elsewhere.example', []],
])('%j announces %j', (text, domains) => {
  expect(announcedDomains(text, 'harbour.example')).toEqual(domains);
});

test('long text that only looks like an announcement announces nothing', () => {
  expect(announcedDomains(`new name ${'a.'.repeat(200_000)}`, 'harbour.example')).toEqual([]);
  expect(announcedDomains(`${'new '.repeat(100_000)}`, 'harbour.example')).toEqual([]);
});
