import { describe, expect, test } from '@jest/globals';
import { randomFrom } from '../testing/random';
import type { Visit, VisitRequest } from './visits';
import { countedVisits, linksToMeasure, measuredHtml, visitClass } from './visits';

const BROWSERS = [
  'Mozilla/5.0 (X11; Linux x86_64; rv:128.0) Gecko/20100101 Firefox/128.0',
  'Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/126.0.0.0 Safari/537.36',
  'Mozilla/5.0 (iPhone; CPU iPhone OS 17_5 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Mobile/15E148',
];
const asked = (more: Partial<VisitRequest> = {}): VisitRequest => ({
  method: 'GET',
  userAgent: BROWSERS[0] ?? '',
  purpose: '',
  isOwn: false,
  secondsSinceSent: 3600,
  ...more,
});

describe('who makes a request', () => {
  test('is likely a person where a browser asks a while after the email was sent', () => {
    for (const userAgent of BROWSERS) expect(visitClass(asked({ userAgent }))).toBe('person');
    expect(visitClass(asked({ secondsSinceSent: 10 }))).toBe('person');
  });

  test.each([
    ['own', { isOwn: true }],
    ['own', { isOwn: true, userAgent: 'curl/8.5.0', secondsSinceSent: null }],
    ['prefetch', { purpose: 'prefetch;anonymous-client-ip' }],
    ['prefetch', { purpose: 'preview' }],
    ['prefetch', { userAgent: 'Mozilla/5.0' }],
    ['prefetch', { userAgent: 'Mozilla/5.0 (Windows NT 5.1; rv:11.0) Gecko Firefox/11.0 (via SomeImageProxy)' }],
    ['scanner', { method: 'HEAD' }],
    ['scanner', { userAgent: '' }],
    ['scanner', { userAgent: '   ' }],
    ['scanner', { userAgent: 'curl/8.5.0' }],
    ['scanner', { userAgent: 'python-requests/2.32' }],
    ['scanner', { userAgent: 'Mozilla/5.0 (compatible; LinkSafetyBot/2.1; +https://scan.tern.example)' }],
    ['scanner', { userAgent: 'Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) HeadlessChrome/126.0 Safari/537.36' }],
    ['scanner', { secondsSinceSent: 9.9 }],
    ['scanner', { secondsSinceSent: null }],
  ] as const)('is %s: %j', (expected, more) => {
    expect(visitClass(asked(more))).toBe(expected);
  });
});

const SECOND = 1000;
const visit = (more: Partial<Visit>): Visit => ({ kind: 'clicked', link: 1, at: 0, class: 'person', ...more });

describe('what counts of the visits', () => {
  test('are those of persons, by link, with the first and the last', () => {
    const { links, notCounted } = countedVisits([
      visit({ at: 90 * SECOND }),
      visit({ kind: 'opened', link: 0, at: 30 * SECOND }),
      visit({ kind: 'opened', link: 0, at: 5, class: 'prefetch' }),
      visit({ link: 2, at: 95 * SECOND }),
      visit({ link: 2, at: 200 * SECOND }),
      visit({ at: 300 * SECOND, class: 'own' }),
    ]);
    expect([...links]).toEqual([
      [0, { times: 1, first: 30 * SECOND, last: 30 * SECOND }],
      [1, { times: 1, first: 90 * SECOND, last: 90 * SECOND }],
      [2, { times: 2, first: 95 * SECOND, last: 200 * SECOND }],
    ]);
    expect(notCounted).toEqual({ prefetch: 1, scanner: 0, own: 1 });
  });

  test('are none of a program that looks behind all links, although it says that it is a browser', () => {
    const scan = [
      visit({ kind: 'opened', link: 0 }),
      visit({ link: 1, at: 300 }),
      visit({ link: 2, at: 700 }),
      visit({ link: 3, at: 2600 }),
    ];
    expect(countedVisits(scan)).toEqual({ links: new Map(), notCounted: { prefetch: 0, scanner: 4, own: 0 } });
    expect([...countedVisits([...scan, visit({ link: 2, at: 60 * SECOND })]).links.keys()]).toEqual([2]);
  });

  test('are none of a program that asks for the same again and again', () => {
    const six = [0, 9, 18, 27, 36, 45].map((second) => visit({ at: second * SECOND }));
    expect(countedVisits(six).notCounted.scanner).toBe(6);
    expect(countedVisits(six.slice(1)).links.get(1)?.times).toBe(5);
  });

  test('never become more by what a program or a colleague adds, in any order of arrival', () => {
    for (let seed = 1; seed <= 300; seed += 1) {
      const random = randomFrom(seed);
      const below = (limit: number): number => Math.floor(random() * limit);
      const persons = Array.from({ length: below(6) }, (_, at) => visit({ link: below(4), at: at * 40 * SECOND + below(9 * SECOND) }));
      const others = Array.from({ length: below(30) }, () =>
        visit({ link: below(4), at: below(400 * SECOND), class: (['prefetch', 'scanner', 'own'] as const)[below(3)] ?? 'own' }),
      );
      const sum = (visits: Visit[]): number => [...countedVisits(visits).links.values()].reduce((all, { times }) => all + times, 0);
      const mixed = [...persons, ...others].sort(() => random() - 0.5);
      expect(sum(persons)).toBe(persons.length);
      expect(sum(mixed)).toBeLessThanOrEqual(persons.length);
      const { links, notCounted } = countedVisits(mixed);
      const counted = [...links.values()].reduce((all, { times }) => all + times, 0);
      expect(counted + notCounted.prefetch + notCounted.scanner + notCounted.own).toBe(mixed.length);
    }
  });
});

describe('a text that is measured', () => {
  const html =
    '<p>See <a href="https://a.example/?x=1&amp;y=2">here</a>, <a href="mailto:x@y.example">write</a> or <a href="http://b.example/">there</a></p>';

  test('leads by way of other addresses, and to letters and calls as before', () => {
    expect(linksToMeasure(html + html)).toEqual(['https://a.example/?x=1&amp;y=2', 'http://b.example/']);
    const there = measuredHtml(html, (url) => (url.startsWith('http:') ? null : 'https://f.example/c/T'));
    expect(there).toBe(html.replace('https://a.example/?x=1&amp;y=2', 'https://f.example/c/T'));
  });
});
