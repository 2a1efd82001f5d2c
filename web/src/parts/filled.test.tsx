/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, render } from '@testing-library/react';
import { filled } from './filled';

afterEach(cleanup);

const shownAs = (node: ReturnType<typeof filled>): string => render(<p>{node}</p>).container.innerHTML;

test('each place of a text gets its element, in the order of the text', () => {
  expect(shownAs(filled('Of {all}, {changed} would change', { changed: <strong>3</strong>, all: '12 emails' }))).toBe(
    '<p>Of 12 emails, <strong>3</strong> would change</p>',
  );
});

test('a place may come twice, be empty, or be all of the text', () => {
  expect(shownAs(filled('{name} and {name}', { name: 'Ida' }))).toBe('<p>Ida and Ida</p>');
  expect(shownAs(filled('filed{more}.', { more: false }))).toBe('<p>filed.</p>');
  expect(shownAs(filled('{all}', { all: <b>x</b> }))).toBe('<p><b>x</b></p>');
});

test('what fills a place is text, never markup or another place', () => {
  expect(shownAs(filled('By {name}', { name: '<img src=x> {name}' }))).toBe('<p>By &lt;img src=x&gt; {name}</p>');
});
