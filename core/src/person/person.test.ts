import { expect, test } from '@jest/globals';
import { companyNameFromDomain } from './companyName';
import { personName } from './personName';

test.each([
  ['Ida Brandt', 'x@h.example', 'Ida Brandt', 1],
  ['Brandt, Ida', 'x@h.example', 'Ida Brandt', 1],
  ['Ida Brandt (Harbour Oriel)', 'x@h.example', 'Ida Brandt', 1],
  ['Ida Brandt | Harbour Oriel', 'x@h.example', 'Ida Brandt', 1],
  ['IDA BRANDT', 'x@h.example', 'Ida Brandt', 1],
  ['JOÃO DA SILVA', 'x@h.example', 'João da Silva', 1],
  ['Brandt, Jr.', 'x@h.example', 'Brandt, Jr.', 1],
  ['李 小龙', 'x@h.example', '李 小龙', 1],
  ['ida@h.example', 'ida.brandt@h.example', 'Ida Brandt', 0.7],
  ['', 'ida.brandt@h.example', 'Ida Brandt', 0.7],
  ['', 'i.brandt@h.example', 'I. Brandt', 0.7],
  ['', 'ibrandt@h.example', 'ibrandt@h.example', 0],
  ['', 'info@h.example', 'info@h.example', 0],
])('%j of %s is named %j', (display, address, name, confidence) => {
  expect(personName(display, address)).toEqual({ name, confidence });
});

test.each([
  ['mail.kestrel-sound-harbour.example', 'Kestrel Sound Harbour'],
  ['bkw.example', 'BKW'],
  ['co.uk', null],
])('%s is the company %s', (domain, name) => {
  expect(companyNameFromDomain(domain)).toBe(name);
});
