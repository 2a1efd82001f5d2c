import { expect, test } from '@jest/globals';
import { nameInSignature, readSignature } from './signature';

const mail = (signature: string): string => `Dear Nadia,\n\nthe gauge is on its way.\n\n-- \n${signature}\n`;

test.each([
  [
    'Ida Brandt\nHead of Surveying, Harbour Oriel\n+44 20 7946 0018',
    'harbour-oriel.example',
    'Head of Surveying',
    ['+44 20 7946 0018'],
    'Harbour Oriel',
  ],
  [
    'Ida Brandt | Chief Engineer\nHarbour Oriel\nTel: +49 (0)30 901820',
    'harbour-oriel.example',
    'Chief Engineer',
    ['+49 30 901820'],
    'Harbour Oriel',
  ],
  ['Brandt, Ida\nEinkauf\nTel. 030 901820\nFax 030 901821', 'hafen.de', 'Einkauf', ['+49 30 901820'], ''],
  // National form without a country is no certain number.
  ['Ida Brandt\nSurveyor\n030 901820', 'harbour.example', 'Surveyor', [], ''],
  // A code that no numbering plan has, as in test worlds, is kept as written.
  ['Ida Brandt\nSurveyor\n+99 20 1000-200', 'harbour.example', 'Surveyor', ['+99 20 1000 200'], ''],
  // An address line or a link is no title.
  ['Ida Brandt\n12 Harbour Road\nwww.harbour.example', 'harbour.example', '', [], ''],
  ['Ida Brandt\nida@harbour.example', 'harbour.example', '', [], ''],
])('reads %j', (signature, domain, title, phones, company) => {
  expect(readSignature(mail(signature), 'Ida Brandt', domain)).toEqual({ title, phones, company });
});

test.each([
  ['someone else’s signature', mail('Jo Lund\nSurveyor\n+44 20 7946 0018')],
  ['a quoted signature', 'Thanks.\n\nOn 4 May Ida Brandt wrote:\n> -- \n> Ida Brandt\n> Surveyor\n> +44 20 7946 0018\n'],
  ['no signature', 'Ida Brandt\nSurveyor'],
])('takes nothing from %s', (_, text) => {
  expect(readSignature(text, 'Ida Brandt', 'harbour.example')).toEqual({ title: '', phones: [], company: '' });
});

test.each([
  ['Ida Brandt\nSurveyor', 'ida.brandt@harbour.example', 'Ida Brandt'],
  ['IDA BRANDT | Surveyor', 'ibrandt@harbour.example', 'Ida Brandt'],
  ['Ida M. Brandt, Surveyor', 'brandt@harbour.example', 'Ida M. Brandt'],
  ['Zoë Åkesson\nHarbour Oriel', 'z.akesson@harbour.example', 'Zoë Åkesson'],
  ['Łukasz Bjørnskår', 'lukasz.bjornskar@harbour.example', 'Łukasz Bjørnskår'],
  ['Ida Tamm-Vesk', 'itammvesk@harbour.example', 'Ida Tamm-Vesk'],
  ['Ida van der Quaal', 'vanderquaal@harbour.example', 'Ida van der Quaal'],
  ['Ida Brandt', 'ida+gauges@harbour.example', ''],
  // Someone else, the company, and a greeting are no name of the sender.
  ['Jo Lund\nSurveyor', 'ida.brandt@harbour.example', ''],
  ['Harbour Oriel\nIda Brandt', 'ida.brandt@harbour.example', 'Ida Brandt'],
  ['Best regards', 'ida.brandt@harbour.example', ''],
  ['Sales', 'sales@harbour.example', ''],
])('finds the name in %j for %s', (signature, address, name) => {
  expect(nameInSignature(mail(signature), address)).toBe(name);
});
