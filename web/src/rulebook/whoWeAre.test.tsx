/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { draftState } from '@fulvet/contract';
import { cautiousRulebook } from '@fulvet/core';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const document = cautiousRulebook(['quillmere.example']);
document.us.formAddresses.push('website@quillmere.example');
const state = like(draftState, { document, revision: 3 });
const answers = (more: Answers = {}): Answers => ({ ...workspace(), getDraft: state, putDraft: { ...state, undo: 4 }, ...more });

const put = (page: ReturnType<typeof openPage>) => {
  const [call] = page.calls('putDraft');
  return (call?.body as typeof document | undefined)?.us;
};

describe('who we are', () => {
  test('shows our domains and forms; the last domain cannot be removed', async () => {
    openPage('/who-we-are', answers());
    const domains = await screen.findByRole('region', { name: 'Our domains' });
    expect(within(domains).getByText('quillmere.example')).toBeTruthy();
    expect(within(domains).getByRole<HTMLButtonElement>('button', { name: 'Remove quillmere.example' }).disabled).toBe(true);
    const shared = screen.getByRole('region', { name: 'Our addresses at other domains' });
    expect(within(shared).getByText('None yet.')).toBeTruthy();
  });

  test('several domains are added at once, each once', async () => {
    const page = openPage('/who-we-are', answers());
    const domains = await screen.findByRole('region', { name: 'Our domains' });
    await page.user.type(within(domains).getByRole('textbox'), 'Gauges.example, quillmere.example; gauges.example');
    await page.user.click(within(domains).getByRole('button', { name: 'Add a domain' }));
    await waitFor(() => expect(put(page)?.ownDomains).toEqual(['quillmere.example', 'gauges.example']));
  });

  test('a form is removed from the list', async () => {
    const page = openPage('/who-we-are', answers());
    await page.user.click(await screen.findByRole('button', { name: 'Remove website@quillmere.example' }));
    await waitFor(() => expect(put(page)?.formAddresses).toEqual([]));
  });

  test('what is no domain is said, stays in the field, and changes nothing', async () => {
    const page = openPage('/who-we-are', answers());
    const domains = await screen.findByRole('region', { name: 'Our domains' });
    const field = within(domains).getByRole<HTMLInputElement>('textbox');
    await page.user.type(field, 'gauges.example harbour{enter}');
    await screen.findByText('“harbour” is not a domain such as quillmere.example. Nothing was added.');
    expect(field.value).toBe('gauges.example harbour');
    expect(put(page)).toBeUndefined();
  });

  test('why a change was refused is said', async () => {
    const page = openPage('/who-we-are', answers({ putDraft: new Refused(409, 'changed-meanwhile', 'Someone else changed the draft.') }));
    const domains = await screen.findByRole('region', { name: 'Our domains' });
    await page.user.type(within(domains).getByRole('textbox'), 'gauges.example{enter}');
    await screen.findByText('Someone else changed the draft.');
  });
});
