/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import type { EmailDetail, EmailRow } from '@fulvet/contract';
import { docketEntry, emailDetail, repairResult, routes } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { NO_RULE_CHANGES, emailRow, HEDDA, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const filing = { kind: 'account' as const, id: 3, name: 'Harbour Oriel', rule: 'match.person', created: false };
const rows: EmailRow[] = [
  emailRow(31, 'Delivery of the gauges', { filings: [filing] }),
  emailRow(32, 'Clause 9'),
  emailRow(33, 'Talented people', { outcome: 'kept out', content: null, externalDomains: ['talent.example'] }),
];
const ida = { role: 'from' as const, address: 'ida@harbour.example', name: 'Ida Brandt', ours: false };
const detail = (id: number, more: Partial<EmailDetail> = {}): EmailDetail =>
  like(emailDetail, {
    id,
    at: AT,
    outcome: 'filed',
    direction: 'received',
    owned: true,
    conversationId: 31,
    rulebookVersion: 3,
    filings: [filing],
    externalDomains: ['harbour.example'],
    sightings: [{ mailbox: HEDDA.email, owner: HEDDA.name, folder: 'INBOX' }],
    content: {
      subject: 'Delivery of the gauges',
      participants: [ida],
      parts: [{ kind: 'own', text: 'We can start in May.' }],
      hasHtml: false,
      attachments: [],
      meetings: [],
    },
    docket: [
      like(docketEntry, { step: 'keepOut', title: 'Keep out', verdict: 'Passed' }),
      like(docketEntry, {
        step: 'match',
        title: 'Match',
        verdict: 'Matched',
        ruleText: 'the only open deal',
        because: ['ida@harbour.example is the contact Ida Brandt.'],
      }),
    ],
    ...more,
  });

const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  listEmails: { emails: rows, next: null, total: rows.length, isMore: false },
  getEmail: ({ params }) => detail(Number(params.id)),
  ...more,
});

describe('the register', () => {
  test('keeps its filters in the address bar, and takes them from there', async () => {
    const page = openPage('/all-mail?outcome=filed', answers());
    await screen.findByText('3 emails');
    expect(page.calls('listEmails')[0]?.query).toMatchObject({ outcome: 'filed' });
    await page.choose(screen.getByRole('combobox', { name: 'Direction' }), 'sent');
    await waitFor(() => expect(page.calls('listEmails').at(-1)?.query).toMatchObject({ outcome: 'filed', direction: 'sent' }));
    expect(page.address()).toBe('/all-mail?outcome=filed&direction=sent');
    await page.user.click(screen.getByRole('button', { name: 'Clear filters' }));
    await waitFor(() => expect(page.address()).toBe('/all-mail'));
  });

  test('takes words when they have been typed', async () => {
    const page = openPage('/all-mail', answers());
    await screen.findByText('3 emails');
    await page.user.type(screen.getByRole('textbox', { name: 'Words' }), 'gauges{Enter}');
    await waitFor(() => expect(page.calls('listEmails').at(-1)?.query).toMatchObject({ text: 'gauges' }));
  });

  test('says what to do where nothing is found, and why where it failed', async () => {
    openPage('/all-mail?text=xyz', answers({ listEmails: { emails: [], next: null, total: 0, isMore: false } }));
    await screen.findByText('Remove a filter to see more.');
    openPage('/all-mail', answers({ listEmails: { emails: [], next: null, total: 0, isMore: false } }));
    await screen.findByText('No mail yet');
    openPage('/all-mail?text=y', answers({ listEmails: new Refused(422, 'bad-request', 'text: is longer than 200 characters.') }));
    await screen.findByText('text: is longer than 200 characters.');
  });

  test('is walked through by keyboard; the docket of an email opens beside it and follows', async () => {
    const page = openPage('/all-mail', answers());
    const list = await screen.findByRole('grid', { name: 'Emails' });
    list.focus();
    await page.user.keyboard('{Enter}');
    await screen.findByRole('complementary', { name: 'Decision' });
    await waitFor(() => expect(page.address()).toBe('/all-mail?decision=31'));
    list.focus();
    await page.user.keyboard('{ArrowDown}');
    await waitFor(() => expect(page.address()).toBe('/all-mail?decision=32'));
    await page.user.keyboard('{Escape}');
    await waitFor(() => expect(page.address()).toBe('/all-mail'));
  });

  test('opens the last email that is left where filters leave fewer than there were', async () => {
    const found = rows.slice(0, 1);
    const page = openPage(
      '/all-mail',
      answers({
        listEmails: ({ query }) =>
          query.text
            ? { emails: found, next: null, total: 1, isMore: false }
            : { emails: rows, next: null, total: rows.length, isMore: false },
      }),
    );
    (await screen.findByRole('grid', { name: 'Emails' })).focus();
    await page.user.keyboard('{End}');
    await page.user.type(screen.getByRole('textbox', { name: 'Words' }), 'gauges{Enter}');
    await screen.findByText('1 email');
    screen.getByRole('grid', { name: 'Emails' }).focus();
    await page.user.keyboard('{Enter}');
    await waitFor(() => expect(page.address()).toBe(`/all-mail?text=gauges&decision=${found[0]?.id}`));
  });

  test('leads from an email to the history of its record by a key', async () => {
    const page = openPage('/all-mail', answers());
    (await screen.findByRole('grid', { name: 'Emails' })).focus();
    await page.user.keyboard('h');
    await waitFor(() => expect(page.address()).toBe('/records/account/3'));
  });

  test('puts several emails right at once', async () => {
    const page = openPage('/all-mail', answers({ repair: like(repairResult, { summary: 'Sealed 2 emails' }) }));
    (await screen.findByRole('grid', { name: 'Emails' })).focus();
    await page.user.keyboard('{Shift>}{ArrowDown}{/Shift}');
    const bar = await screen.findByRole('toolbar', { name: 'With the chosen emails' });
    expect(within(bar).getByText('2 emails chosen')).toBeTruthy();
    await page.user.click(within(bar).getByRole('button', { name: 'Seal … S' }));
    await page.user.click(within(await screen.findByRole('dialog')).getByRole('button', { name: /^Seal/ }));
    await screen.findByText('Sealed 2 emails.');
    expect(page.calls('repair')[0]?.body).toMatchObject({ emails: [31, 32], seal: true });
  });

  test('lets a viewer choose and repair nothing', async () => {
    const page = openPage('/all-mail', { ...answers(), getSession: workspace('viewer').getSession } as Answers);
    (await screen.findByRole('grid', { name: 'Emails' })).focus();
    await page.user.keyboard(' ');
    await page.user.keyboard('o');
    expect(screen.queryByRole('toolbar', { name: 'With the chosen emails' })).toBeNull();
    expect(screen.queryByRole('dialog')).toBeNull();
  });
});

describe('the docket', () => {
  test('says step by step what was decided, by which rule, and on what evidence', async () => {
    openPage('/all-mail?decision=31', answers());
    const docket = await screen.findByRole('complementary', { name: 'Decision' });
    const steps = await within(docket).findByRole('list', { name: 'The five steps' });
    expect(within(steps).getByText('By “the only open deal”')).toBeTruthy();
    expect(within(steps).getByText('ida@harbour.example is the contact Ida Brandt.')).toBeTruthy();
    expect(within(docket).getByText('We can start in May.')).toBeTruthy();
    expect(within(docket).getByText(/Rulebook version 3/)).toBeTruthy();
  });

  test('of kept-out mail tells that nothing of it is kept', async () => {
    openPage(
      '/all-mail?decision=33',
      answers({ getEmail: detail(33, { outcome: 'kept out', content: null, filings: [], externalDomains: ['talent.example'] }) }),
    );
    const docket = await screen.findByRole('complementary', { name: 'Decision' });
    await within(docket).findByText('Kept out: its text is not stored');
    expect(within(docket).queryByRole('button', { name: 'Ask to read it' })).toBeNull();
    expect(within(docket).getByRole('button', { name: /^Keep out talent.example/ })).toBeTruthy();
  });

  test('of a colleague’s mail lets one ask for it', async () => {
    openPage('/all-mail?decision=31', answers({ getEmail: detail(31, { content: null, owned: false, outcome: 'unfiled', filings: [] }) }));
    const docket = await screen.findByRole('complementary', { name: 'Decision' });
    await within(docket).findByText(/Its text is only for Hedda Quillmere to share/);
    expect(within(docket).getByRole('button', { name: 'Ask to read it' })).toBeTruthy();
  });

  test('begins a rule at a step about whom the email is with', async () => {
    const page = openPage(
      '/all-mail?decision=31',
      answers({ tryRule: NO_RULE_CHANGES, countRule: { took: 1, first: 1, of: 2, read: 2, total: 2, examples: [] } }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Create a rule …' }));
    await page.user.click(await screen.findByRole('option', { name: /Take in/ }));
    await waitFor(() => expect(page.address()).toMatch(/^\/take-in\?rule=harbour.example/));
    await screen.findByRole('form', { name: 'New rule' });
  });

  test('shows an administrator what keeping its domain out would take, before anything is done', async () => {
    const page = openPage(
      '/all-mail?decision=31',
      answers({
        previewKeepOut: like(routes.previewKeepOut.response, {
          concerned: 40,
          wouldLeave: 38,
          warning: 'It is the domain of Harbour Oriel.',
        }),
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: /^Keep out harbour.example/ }));
    const dialog = await screen.findByRole('dialog');
    await within(dialog).findByText(/It is the domain of Harbour Oriel/);
    expect(page.calls('keepOut')).toEqual([]);
  });

  test('of an email that is gone says so', async () => {
    openPage('/all-mail?decision=99', answers({ getEmail: new Refused(404, 'not-found', 'There is no email 99.') }));
    await screen.findByText('There is no email 99.');
  });
});
