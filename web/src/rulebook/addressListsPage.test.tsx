/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { addressListEntry, addressList } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const press = like(addressList, { id: 'press', name: 'Press and law firms', entries: 2, took: 14, usedBy: ['Press'] });
const providers = like(addressList, { id: 'public-providers', name: 'Public mail providers', shipped: true, entries: 4600 });
const entry = (id: number, value: string, more: object = {}) => like(addressListEntry, { id, kind: 'domain', value, at: AT, ...more });
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  listAddressLists: { lists: [press, providers] },
  listAddressListEntries: {
    entries: [
      entry(1, 'gazette.example', { took: 3 }),
      entry(2, 'north.gazette.example', { coveredBy: 'gazette.example', until: '2026-12-31' }),
    ],
    total: 2,
  },
  ...more,
});

describe('address lists', () => {
  test('show their entries with what they took, what covers them, and until when they count', async () => {
    const page = openPage('/address-lists', answers());
    await screen.findByText('gazette.example');
    expect(screen.getByText(/covered by gazette.example already/)).toBeTruthy();
    expect(screen.getByRole('button', { name: /counts: .*2026/ })).toBeTruthy();
    expect(screen.getByText('used by Press')).toBeTruthy();
    expect(page.calls('listAddressListEntries')[0]?.params).toEqual({ list: 'press' });
  });

  test('take what is pasted in any form, and leave what could not be read to be corrected', async () => {
    const page = openPage(
      '/address-lists',
      answers({ pasteAddressListEntries: { added: 2, known: 1, unread: ['not a domain'], undo: 7 } }),
    );
    const box = await screen.findByRole<HTMLTextAreaElement>('textbox', { name: 'Domains and addresses to add' });
    await page.user.type(box, 'press.example, Clerk <clerk@law.example>, not a domain');
    await page.user.type(screen.getByRole('textbox', { name: 'Note on them' }), 'Papers');
    await page.user.click(screen.getByRole('button', { name: 'Add to the list' }));
    await screen.findByText(/2 entries added, 1 there already/);
    expect(box.value).toBe('not a domain');
    expect(page.calls('pasteAddressListEntries')[0]?.body).toEqual({
      text: 'press.example, Clerk <clerk@law.example>, not a domain',
      note: 'Papers',
      until: null,
    });
  });

  test('give an entry back that was taken off', async () => {
    const page = openPage('/address-lists', answers({ removeAddressListEntry: { undo: 8 }, undo: { changed: 1, kept: [] } }));
    await page.user.click(await screen.findByRole('button', { name: 'Remove gazette.example from the list' }));
    await screen.findByText('gazette.example was removed from the list.');
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(page.calls('undo')[0]?.params).toEqual({ id: '8' }));
  });

  test('are edited in place: note, reach and last day', async () => {
    const page = openPage('/address-lists', answers({ changeAddressListEntry: { undo: 9 } }));
    const note = await screen.findByRole('textbox', { name: 'Note on gazette.example' });
    await page.user.type(note, 'daily paper{Enter}');
    await waitFor(() => expect(page.calls('changeAddressListEntry').at(-1)?.body).toEqual({ note: 'daily paper' }));
    await page.user.click(screen.getAllByRole('button', { name: 'with its sub-domains' })[0]!);
    await waitFor(() => expect(page.calls('changeAddressListEntry').at(-1)?.body).toEqual({ exactly: true }));
    const lastDay = await screen.findByRole('button', { name: /^Last day on which north.gazette.example counts: .*2026/ });
    await page.user.click(lastDay);
    await page.user.click(await screen.findByRole('button', { name: /December 30/ }));
    await waitFor(() => expect(page.calls('changeAddressListEntry').at(-1)?.body).toEqual({ until: '2026-12-30' }));
    await page.user.click(lastDay);
    await page.user.click(await screen.findByRole('button', { name: 'Clear date' }));
    await waitFor(() => expect(page.calls('changeAddressListEntry').at(-1)?.body).toEqual({ until: null }));
    expect(page.calls('changeAddressListEntry').at(-1)?.params).toEqual({ list: 'press', id: '2' });
  });

  test('are found in by a part of the name, of however many there are', async () => {
    const page = openPage(
      '/address-lists?list=public-providers',
      answers({ listAddressListEntries: { entries: [entry(9, 'freemail.example')], total: 4600 } }),
    );
    await screen.findByText(/The first 1 of 4,600/);
    expect(screen.queryByRole('button', { name: 'Remove the list' })).toBeNull();
    await page.user.type(screen.getByRole('textbox', { name: /^Find/ }), 'free');
    await waitFor(() =>
      expect(page.calls('listAddressListEntries').at(-1)).toMatchObject({ params: { list: 'public-providers' }, query: { text: 'free' } }),
    );
  });

  test('are not removed while a rule refers to them, and say which', async () => {
    const inUse = new Refused(409, 'in-use', 'The rule Press refers to it. Change the rule first.');
    const page = openPage('/address-lists', answers({ deleteAddressList: inUse }));
    await page.user.click(await screen.findByRole('button', { name: 'Remove the list' }));
    await screen.findByText('The rule Press refers to it. Change the rule first.');
  });

  test('are begun by a name', async () => {
    const page = openPage(
      '/address-lists',
      answers({ createAddressList: { ...press, id: 'schools', name: 'Schools', entries: 0, usedBy: [] } }),
    );
    const form = (await screen.findByRole('button', { name: 'Create the list' })).closest('form')!;
    await page.user.type(within(form).getByRole('textbox', { name: 'Name of a new list' }), 'Schools{Enter}');
    await waitFor(() => expect(page.address()).toBe('/address-lists?list=schools'));
  });
});
