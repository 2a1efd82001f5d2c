/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { auditEntry, personHeld } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';
import { POLICY } from '../testing/policy';

const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  getWorkspace: POLICY,
  putWorkspace: ({ body }) => ({ ...POLICY, ...body, undo: null }),
  getRetention: { rules: [{ kind: 'unfiled', days: null, lastRunAt: null, wouldGo: 0, oldest: null }] },
  ...more,
});
const part = (name: string) => screen.findByRole('region', { name });

describe('what holds for the workspace', () => {
  test('whose records are seen is chosen in its sentence', async () => {
    const page = openPage('/workspace', answers());
    const policy = within(await part('Policy'));
    await page.user.click(policy.getByRole('button', { name: /Which records members see/ }));
    await page.user.click(await screen.findByRole('option', { name: /^those of their teams/ }));
    await screen.findByText('Saved. It applies from now on.');
    expect(page.calls('putWorkspace')[0]?.body).toEqual({ recordReach: 'team' });
  });

  test('who sends emails is chosen by role and team', async () => {
    const page = openPage('/workspace', { ...answers(), listTeams: { teams: [{ id: 4, name: 'Harbours', members: [] }] } });
    const rights = within(await part('Writing email'));
    await page.user.click(rights.getByRole('button', { name: /Who sends emails/ }));
    await page.user.click(await screen.findByRole('option', { name: /^managers and administrators/ }));
    await screen.findByText(/to emails that are due, too/);
    const managers = { role: 'manager', teamIds: [] };
    const others = { share: managers, bulk: managers, measure: managers };
    expect(page.calls('putWorkspace')[0]?.body).toEqual({ writingRights: { send: managers, ...others } });
    await page.user.click(rights.getAllByText('Only in certain teams')[0] as HTMLElement);
    await page.user.click(rights.getAllByRole('checkbox', { name: 'Harbours' })[0] as HTMLElement);
    await waitFor(() =>
      expect(page.calls('putWorkspace')[1]?.body).toEqual({ writingRights: { send: { role: 'rep', teamIds: [4] }, ...others } }),
    );
  });

  test('what is sent by itself is held by one button; holidays are lines, each with its day', async () => {
    const page = openPage('/workspace', answers());
    const sending = within(await part('Sending by itself'));
    await page.user.click(sending.getByRole('button', { name: 'Hold everything' }));
    await screen.findByText(/Nothing is sent by itself from now on/);
    expect(page.calls('putWorkspace')[0]?.body).toEqual({ automatic: { ...POLICY.automatic, isHeld: true } });
    const holidays = sending.getByRole('textbox', { name: /^Holidays/ });
    await page.user.type(holidays, 'Christmas');
    await screen.findByText('“Christmas” does not begin with a day such as 2026-12-25.');
    expect((sending.getByRole('button', { name: 'Save' }) as HTMLButtonElement).disabled).toBe(true);
    await page.user.clear(holidays);
    await page.user.type(holidays, '2026-12-25 Christmas Day');
    await page.user.click(sending.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(page.calls('putWorkspace')).toHaveLength(2));
    expect(page.calls('putWorkspace')[1]?.body).toMatchObject({ automatic: { holidays: [{ day: '2026-12-25', name: 'Christmas Day' }] } });
  });

  test('openings are counted only once recipients get a notice; people who are never counted are lines', async () => {
    const page = openPage('/workspace', answers({ putWorkspace: { ...POLICY, undo: null } }));
    const counting = within(await part('Counting openings'));
    counting.getByText('No openings are counted.');
    const on = counting.getByRole('button', { name: 'Switch on' }) as HTMLButtonElement;
    expect(on.disabled).toBe(true);
    await page.user.type(counting.getByRole('textbox', { name: /^Notice to recipients/ }), 'We see whether this was opened.');
    await page.user.type(counting.getByRole('textbox', { name: /^Never counted/ }), 'orla@skerry.example\n\n tern.example');
    await page.user.click(on);
    await screen.findByText(/where the owner of the mailbox and the writer want it/);
    expect(page.calls('putWorkspace')[0]?.body).toEqual({
      measuring: {
        isOn: true,
        notice: 'We see whether this was opened.',
        keepDays: 90,
        never: ['orla@skerry.example', 'tern.example'],
        ownRanges: [],
      },
    });
    await page.user.clear(counting.getByRole('textbox', { name: /^Days that counts are kept/ }));
    await counting.findByText('Enter a number from 1 to 730.');
    expect(on.disabled).toBe(true);
  });

  test('links begin with an address that leads here; one that does not can be kept unchecked', async () => {
    const page = openPage('/workspace', {
      ...answers(),
      setLinkAddress: ({ body }) =>
        (body as { unchecked?: boolean }).unchecked
          ? { address: String((body as { address: string }).address), answers: false }
          : new Refused(422, 'does-not-answer', 'It does not answer. The address was not kept.', { address: 'does not lead here' }),
    });
    const links = within(await part('Links to documents'));
    const address = links.getByRole('textbox', { name: 'Address' });
    await page.user.clear(address);
    await page.user.type(address, 'https://mail.quillmere.example');
    expect(links.queryByRole('button', { name: 'Keep it unchecked' })).toBeNull();
    await page.user.click(links.getByRole('button', { name: 'Check and keep' }));
    expect((await links.findByRole('alert')).textContent).toContain('The address was not kept.');
    await page.user.click(links.getByRole('button', { name: 'Keep it unchecked' }));
    await screen.findByText(/Open a link from outside before you rely on it/);
    expect(page.calls('setLinkAddress').at(-1)?.body).toMatchObject({ address: 'https://mail.quillmere.example', unchecked: true });
  });

  test('its name is changed, and not to nothing', async () => {
    const page = openPage('/workspace', answers());
    const policy = within(await part('Policy'));
    const name = policy.getByLabelText('Name of the workspace');
    const rename = policy.getByRole('button', { name: 'Rename' });
    expect(rename).toHaveProperty('disabled', true);
    await page.user.clear(name);
    await page.user.click(rename);
    expect((await policy.findByRole('alert')).textContent).toBe('This is missing.');
    expect(page.calls('putWorkspace')).toEqual([]);
    await page.user.type(name, 'Quillmere Sales');
    await page.user.click(rename);
    await waitFor(() => expect(page.calls('putWorkspace')[0]?.body).toEqual({ name: 'Quillmere Sales' }));
  });

  test('an identity provider is asked for all it needs; what is wrong is told at its field', async () => {
    const wrong = new Refused(422, 'invalid', 'Not saved.', { 'identityProvider.issuer': 'No one answers there.' });
    const page = openPage('/workspace', answers({ putWorkspace: wrong }));
    const form = within(await part('Identity provider'));
    await page.user.type(form.getByLabelText('Issuer'), 'https://id.quillmere.example');
    await page.user.type(form.getByLabelText('Client id'), 'fulvet');
    await page.user.type(form.getByLabelText('Client secret'), 'secret');
    await page.user.type(form.getByLabelText('What the button is called'), 'Quillmere account');
    await page.user.click(form.getByRole('button', { name: 'Save' }));
    await form.findByText('No one answers there.');
    expect(page.calls('putWorkspace')[0]?.body).toEqual({
      identityProvider: { issuer: 'https://id.quillmere.example', clientId: 'fulvet', label: 'Quillmere account', clientSecret: 'secret' },
    });
  });

  test('a known provider keeps its secret, and is given up', async () => {
    const identityProvider = { issuer: 'https://id.quillmere.example', clientId: 'fulvet', label: 'Quillmere account' };
    const page = openPage('/workspace', answers({ getWorkspace: { ...POLICY, identityProvider } }));
    const form = within(await part('Identity provider'));
    await page.user.click(form.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(page.calls('putWorkspace')[0]?.body).toEqual({ identityProvider }));
    await page.user.click(form.getByRole('button', { name: 'Sign in by password only' }));
    await screen.findByText('Members sign in by password.');
    expect(page.calls('putWorkspace')[1]?.body).toEqual({ identityProvider: null });
  });
});

describe('how long mail is kept', () => {
  test('what would go is told before it is saved', async () => {
    const page = openPage(
      '/workspace',
      answers({
        previewRetention: { wouldGo: 12, oldest: AT },
        putRetention: { kind: 'unfiled', days: 90, lastRunAt: null, wouldGo: 12, oldest: AT },
      }),
    );
    const retention = within(await part('How long mail is kept'));
    const days = await retention.findByLabelText('Days that unfiled mail is kept');
    await page.user.type(days, '9x0');
    expect((days as HTMLInputElement).value).toBe('90');
    await retention.findByText(/12 emails would be deleted, the oldest of/);
    expect(page.calls('previewRetention').at(-1)?.query).toEqual({ kind: 'unfiled', days: '90' });
    await page.user.click(retention.getByRole('button', { name: 'Save' }));
    await screen.findByText('Unfiled mail: kept for 90 days.');
    expect(page.calls('putRetention')[0]?.body).toEqual({ kind: 'unfiled', days: 90 });
  });

  test('what is due goes at a word that says how much', async () => {
    const due = { kind: 'unfiled' as const, days: 90, lastRunAt: AT, wouldGo: 12, oldest: AT };
    const page = openPage('/workspace', answers({ getRetention: { rules: [due] }, runRetention: { gone: 12 } }));
    await page.user.click(await screen.findByRole('button', { name: 'Delete 12 emails now' }));
    await screen.findByText('Done. What was older has been deleted, with its sources.');
  });
});

describe('a person who asks', () => {
  const held = like(personHeld, {
    addresses: ['ida@harbour.example'],
    names: ['Ida Brandt'],
    further: ['ida@post.example'],
    records: [{ kind: 'contact', id: 4, name: 'Ida Brandt' }],
    emailsAlone: 3,
    emailsShared: 1,
  });

  test('is found by address; further ones are looked for, too', async () => {
    const page = openPage('/workspace', answers({ findPerson: held }));
    const person = within(await part('Personal data requests'));
    await page.user.type(person.getByLabelText('Their addresses'), 'Ida@Harbour.example; ida@harbour.example{Enter}');
    await person.findByText(/3 emails with no other external/);
    await page.user.click(person.getByRole('button', { name: 'look for that, too' }));
    await waitFor(() =>
      expect(page.calls('findPerson').map((call) => call.body)).toEqual([
        { addresses: ['ida@harbour.example'] },
        { addresses: ['ida@harbour.example', 'ida@post.example'] },
      ]),
    );
  });

  test('is forgotten only when the address is written again; the certificate stays', async () => {
    const erasure = { id: 3, at: AT, by: 'Hedda Quillmere', reference: 'R-17', counts: {}, certificate: 'Certificate text' };
    const page = openPage('/workspace', answers({ findPerson: held, erasePerson: erasure }));
    const person = within(await part('Personal data requests'));
    await page.user.type(person.getByLabelText('Their addresses'), 'ida@harbour.example{Enter}');
    const forget = await person.findByRole('button', { name: 'Erase this person permanently' });
    expect(forget).toHaveProperty('disabled', true);
    await page.user.type(person.getByLabelText(/Your reference/), 'R-17');
    await page.choose(person.getByLabelText('Emails with no other external participant'), 'are kept, without the person');
    await page.user.type(person.getByLabelText(/Write ida@harbour.example again/), 'Ida@harbour.example');
    page.answer({ listErasures: { erasures: [erasure] } });
    await page.user.click(forget);
    await screen.findByText('Erased. Certificate 3 is below.');
    await person.findByText('Certificate text');
    expect(page.calls('erasePerson')[0]?.body).toEqual({
      addresses: ['ida@harbour.example'],
      way: 'anonymise',
      reference: 'R-17',
      confirm: 'Ida@harbour.example',
    });
  });
});

describe('the log', () => {
  const entry = (hash: string, about: string) =>
    like(auditEntry, { hash, about, at: AT, actor: 'Hedda Quillmere', kind: 'rules', emailId: null });

  test('is filtered by what, by whom and by words, in the address bar', async () => {
    const page = openPage(
      '/log',
      answers({ listAudit: { entries: [entry('a', 'put version 4 live')], next: null, kinds: ['rules', 'share'] } }),
    );
    await screen.findByText('put version 4 live');
    await page.choose(screen.getByLabelText('What'), 'rules');
    await page.user.type(screen.getByLabelText('Words in the log'), 'live{Enter}');
    await waitFor(() => expect(page.address()).toBe('/log?kind=rules&text=live'));
    await waitFor(() => expect(page.calls('listAudit').at(-1)?.query).toMatchObject({ kind: 'rules', text: 'live' }));
    expect(screen.getByRole('link', { name: /Export/ }).getAttribute('href')).toBe('/api/v1/export/audit?kind=rules&text=live');
  });

  test('is proven, and says what does not fit', async () => {
    const page = openPage('/log', answers({ checkAudit: { intact: true, entries: 41, chains: [], broken: [] } }));
    await page.user.click(await screen.findByRole('button', { name: 'Check that nothing was changed' }));
    await screen.findByText(/All 41 entries are as they were written/);
    page.answer({ checkAudit: { intact: false, entries: 41, chains: [], broken: ['Entry 7 was changed.'] } });
    await page.user.click(screen.getByRole('button', { name: 'Check that nothing was changed' }));
    await screen.findByText(/not as it was written. Entry 7 was changed/);
  });

  test('earlier entries come on request; members see theirs and prove nothing', async () => {
    const page = openPage('/log', {
      ...answers(),
      ...workspace('rep'),
      listAudit: ({ query }) =>
        query.after
          ? { entries: [entry('b', 'earlier')], next: null, kinds: [] }
          : { entries: [entry('a', 'latest')], next: '1.2', kinds: [] },
    });
    await screen.findByText('latest');
    expect(screen.queryByRole('button', { name: /Prove/ })).toBeNull();
    await page.user.click(screen.getByRole('button', { name: 'Earlier entries' }));
    await screen.findByText('earlier');
    expect(screen.queryByRole('button', { name: 'Earlier entries' })).toBeNull();
  });
});
