/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { allowAgainPreview, keepOutPreview } from '@fulvet/contract';
import { cautiousRulebook, keepOutEntrySchema } from '@fulvet/core';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const rulebook = cautiousRulebook(['quillmere.example']);
rulebook.keepOut.entries = [keepOutEntrySchema.parse({ id: 'e1', kind: 'domain', value: 'talent.example', note: 'Recruiter' })];
const preview = like(allowAgainPreview, { value: 'talent.example', concerned: 4000, tried: 2000, wouldReturn: 12, wouldBeFiled: 3 });
const answers = (more: Answers = {}): Answers => ({ ...workspace('admin', rulebook), previewAllowAgain: preview, ...more });

describe('allowing a domain again', () => {
  test('says first what it would bring back, and over how much mail that was counted', async () => {
    const page = openPage('/keep-out', answers({ removeKeepOut: { changed: 12, version: 4 } }));
    await page.user.click(await screen.findByRole('button', { name: 'Allow again … (talent.example)' }));
    const dialog = within(await screen.findByRole('dialog', { name: 'Allow again' }));
    const said = dialog.getByRole('status');
    await waitFor(() => expect(said.textContent).toContain('4,000 emails with talent.example'));
    expect(said.textContent).toContain('Counted over the newest 2,000');
    expect(said.textContent).toContain('12 emails would no longer be kept out; 3 emails would be filed');
    await page.user.click(dialog.getByRole('button', { name: 'Allow talent.example again' }));
    await screen.findByText('talent.example is allowed again. 12 emails changed.');
    expect(page.calls('removeKeepOut')[0]?.params).toEqual({ entry: 'e1' });
    expect(screen.queryByRole('dialog')).toBeNull();
  });

  test('changes nothing where it is cancelled or refused', async () => {
    const page = openPage('/keep-out', answers({ removeKeepOut: new Refused(404, 'not-found', 'This entry is gone already.') }));
    const allow = await screen.findByRole('button', { name: 'Allow again … (talent.example)' });
    await page.user.click(allow);
    await page.user.click(within(await screen.findByRole('dialog')).getByRole('button', { name: 'Cancel' }));
    expect(page.calls('removeKeepOut')).toEqual([]);
    await page.user.click(allow);
    const dialog = within(await screen.findByRole('dialog'));
    const button = dialog.getByRole<HTMLButtonElement>('button', { name: 'Allow talent.example again' });
    await waitFor(() => expect(button.disabled).toBe(false));
    await page.user.click(button);
    await dialog.findByText('This entry is gone already.');
  });
});

test('a domain is kept out as it was copied: out of a link, or with a name before it', async () => {
  const page = openPage('/keep-out', answers({ previewKeepOut: like(keepOutPreview) }));
  for (const [written, value] of [
    ['https://www.gazette.example/about?x=1', 'www.gazette.example'],
    ['Ines <ines@press.example>', 'ines@press.example'],
    ['@Press.Example', 'press.example'],
  ] as const) {
    const field = await screen.findByRole<HTMLInputElement>('textbox', { name: 'Domain or address to keep out' });
    const button = screen.getByRole<HTMLButtonElement>('button', { name: 'Keep out …' });
    expect([field.value, button.disabled]).toEqual(['', true]);
    await page.user.type(field, written);
    await page.user.click(button);
    const dialog = within(await screen.findByRole('dialog'));
    expect(dialog.getAllByText(value, { exact: false }).length).toBeGreaterThan(0);
    await page.user.click(dialog.getByRole('button', { name: 'Cancel' }));
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  }
});
