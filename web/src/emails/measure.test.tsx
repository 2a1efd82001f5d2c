/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import type { EmailMeasure } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { render } from '@testing-library/react';
import { Measure } from './Measure';

const never = { times: 0, first: null, last: null };
const textOf = (measure: Partial<EmailMeasure>): string => {
  const { container } = render(
    <Measure
      measure={{ address: 'ida@harbour.example', opened: never, links: [], notCounted: { prefetch: 0, scanner: 0, own: 0 }, ...measure }}
    />,
  );
  return container.textContent ?? '';
};

describe('what was counted of an email', () => {
  test('is not known where no person is likely to have opened it, whatever else asked for it', () => {
    const text = textOf({ notCounted: { prefetch: 20, scanner: 3, own: 1 } });
    expect(text).toContain('Not known whether it was opened.');
    expect(text).toContain('Not counted: 20 by programs that load pictures, 3 by programs that check emails, 1 by colleagues.');
    expect(text).not.toContain('robably');
  });

  test('is likely, with how often and when last, for the email and each link', () => {
    const at = '2026-05-04T10:00:00Z';
    const text = textOf({
      opened: { times: 2, first: at, last: at },
      links: [
        { kind: 'link', name: 'https://tide.example/', times: 1, first: at, last: at },
        { kind: 'document', name: 'Price list', ...never },
      ],
    });
    expect(text).toMatch(/Probably opened 2 times, last .+\./);
    expect(text).toMatch(/https:\/\/tide\.example\/: probably followed .+\./);
    expect(text).toContain('Price list: not known whether opened.');
    expect(text).toContain('Programs can look like persons');
    expect(text).not.toContain('Not counted');
  });
});
