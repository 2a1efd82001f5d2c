/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { mailbox } from '@fulvet/contract';
import type { DraftState, Finding } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers, OpenPage } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';
import { rule, withRules, keepsDraft, rulesPut } from '../testing/draftInHand';

const choose = async ({ user }: OpenPage, part: string | RegExp, option: string | RegExp): Promise<void> => {
  await user.click(await screen.findByRole('button', { name: part }));
  await user.click(await screen.findByRole('option', { name: option }));
};

describe('the sentences of a step', () => {
  test('put what is changed into the draft, where it can be tried out, and nothing in force', async () => {
    const page = openPage('/take-in', keepsDraft(withRules()));
    await choose(page, /^What comes in/, /only mail with known people/);
    await screen.findByText('Draft: 1 change, not in force');
    expect(page.calls('putDraft').map((call) => call.body.takeIn.scope)).toEqual(['known']);
    expect(page.calls('putDraftLive')).toEqual([]);
    expect(await screen.findByText(/It is in the draft; nothing has taken effect/)).toBeTruthy();
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(page.calls('undo')[0]?.params).toEqual({ id: '1' }));
    await waitFor(() =>
      expect(screen.getByRole('button', { name: /^What comes in/ }).textContent).toContain('all mail with external people'),
    );
  });

  test('are plain words for those who do not administer', async () => {
    openPage('/take-in', { ...workspace('rep'), getDraft: new Refused(403, 'not-allowed', 'Administrators only.') });
    expect((await screen.findByText('all mail with external people')).tagName).toBe('STRONG');
    expect(screen.queryByRole('button', { name: /^What comes in/ })).toBeNull();
    expect(screen.queryByText('Rules, in order')).toBeNull();
  });

  test('say why where the server refuses, and stay as they stood', async () => {
    const refused = new Refused(409, 'changed-meanwhile', 'Someone else edited the draft. Look at it again.');
    const page = openPage('/match', { ...keepsDraft(withRules()), putDraft: refused });
    await choose(page, /^Deal/, 'never a deal');
    expect((await screen.findByRole('alert')).textContent).toContain('Someone else edited the draft');
    expect(screen.getByRole('button', { name: /^Deal: the deal that fits best/ })).toBeTruthy();
  });

  test('of deals show threshold and margin only where deals go by score', async () => {
    const page = openPage('/match', keepsDraft(withRules()));
    await screen.findByRole('button', { name: /Score that the best deal must reach: 0.60/ });
    await choose(page, /^Deal/, /^a deal when it is certain/);
    await waitFor(() => expect(screen.queryByRole('button', { name: /Score that the best deal/ })).toBeNull());
    await choose(page, /^How long before a deal was opened/, '180 days');
    await waitFor(() => expect(page.calls('putDraft').at(-1)?.body.match).toMatchObject({ deal: 'certain', leadDays: 180 }));
  });

  test('of creation lead from no one to contacts with their owner and account', async () => {
    const page = openPage('/create', keepsDraft(withRules()));
    await choose(page, /^What unknown people become/, 'a contact');
    await choose(page, /^When/, /after some emails/);
    await choose(page, '3 emails', '5 emails');
    await choose(page, /^Account/, 'without a new account');
    await choose(page, /^From emails with up to how many/, '100');
    await waitFor(() =>
      expect(page.calls('putDraft').at(-1)?.body.create).toMatchObject({
        people: 'contact',
        after: 'emails',
        emails: 5,
        accounts: false,
        mostPeople: 100,
      }),
    );
  });

  test('of sharing name who sees filed mail, and what', async () => {
    const page = openPage('/share', keepsDraft(withRules()));
    await choose(page, /^Who sees filed mail/, /everyone in the workspace/);
    await choose(page, /^What they see/, /only that it exists/);
    await choose(page, /^Whether owners may keep mail private/, /may not keep/);
    await waitFor(() =>
      expect(page.calls('putDraft').at(-1)?.body).toMatchObject({
        share: { level: 'everyone', existenceOnly: true },
        personal: { share: 'locked' },
      }),
    );
  });
});

describe('the rules of a step', () => {
  const press = rule('press', 'Press');
  const law = rule('law', 'Lawyers');
  const school = rule('school', 'School', { on: false });

  test('stand in order with what they took, and are moved by the keyboard', async () => {
    const page = openPage('/take-in', {
      ...keepsDraft(withRules(press, law, school)),
      useOfRules: { rules: [{ rule: 'law', took: 1200, lastAt: AT }] },
    });
    const second = await screen.findByRole('listitem', { name: /^Rule 2: Lawyers/ });
    await within(second).findByTitle('1,200 emails in 30 days');
    second.focus();
    await page.user.keyboard('{Alt>}{ArrowUp}{/Alt}');
    await waitFor(() => expect(rulesPut(page).map((item) => item.name)).toEqual(['Lawyers', 'Press', 'School']));
    await screen.findByText(/^Rule moved\./);
    // The first one cannot go further up.
    (await screen.findByRole('listitem', { name: /^Rule 1: Lawyers/ })).focus();
    await page.user.keyboard('{Alt>}{ArrowUp}{/Alt}');
    expect(page.calls('putDraft')).toHaveLength(1);
  });

  test('are switched on and off and removed, each with a way back', async () => {
    const page = openPage('/take-in', keepsDraft(withRules(press, school)));
    await page.user.click(await screen.findByRole('switch', { name: 'Rule 2 is on' }));
    await waitFor(() => expect(rulesPut(page).map((item) => item.on)).toEqual([true, true]));
    const first = await screen.findByRole('listitem', { name: /^Rule 1: Press/ });
    await page.user.click(within(first).getByRole('button', { name: 'Remove' }));
    await waitFor(() => expect(rulesPut(page).map((item) => item.name)).toEqual(['School']));
    await screen.findByText(/^Rule removed\./);
    await page.user.click(screen.getAllByRole('button', { name: 'Undo' })[0]!);
    await waitFor(() => expect(page.calls('undo')[0]?.params).toEqual({ id: '2' }));
    expect(await screen.findByRole('listitem', { name: /^Rule 1: Press/ })).toBeTruthy();
  });

  test('are corrected by one click where the check knows how', async () => {
    const corrected = withRules(press);
    const findings: Finding[] = [
      {
        code: 'covered',
        step: 'takeIn',
        rule: 'law',
        message: 'Lawyers never speaks: Press covers it.',
        emails: 0,
        repair: { label: 'Remove it', document: corrected },
      },
      { code: 'nothing', step: 'share', rule: 'x', message: 'Of another step.', emails: null, repair: null },
    ];
    const page = openPage('/take-in', { ...keepsDraft(withRules(press, law)), checkDraft: { findings } });
    const odd = await screen.findByRole('list', { name: 'Warnings' });
    expect(within(odd).getAllByRole('listitem')).toHaveLength(1);
    await page.user.click(within(odd).getByRole('button', { name: 'Remove it' }));
    await waitFor(() => expect(rulesPut(page).map((item) => item.name)).toEqual(['Press']));
  });
});

describe('the draft', () => {
  const draft: DraftState = {
    document: withRules(),
    baseVersion: 3,
    liveVersion: 3,
    revision: 4,
    differences: ['One.', 'Two.', 'Three.', 'Four.', 'Five.', 'Six.'],
    at: AT,
    by: 'Hedda Quillmere',
  };
  const mailboxes = ['a@quillmere.example', 'b@quillmere.example'].map((address, at) => like(mailbox, { id: at + 1, address }));
  const answers = (more: Answers = {}): Answers => ({
    ...workspace('admin'),
    getDraft: draft,
    listMailboxes: { mailboxes },
    ...more,
  });

  test('says in short what it changes, and who edited it last', async () => {
    openPage('/take-in', answers());
    const bar = await screen.findByRole('region', { name: 'The draft' });
    expect(within(bar).getByText('and 2 more')).toBeTruthy();
    expect(within(bar).getByText('last edited by Hedda Quillmere')).toBeTruthy();
  });

  test('goes live for everyone with a note; what will happen stands on the button', async () => {
    const page = openPage('/take-in', answers({ putDraftLive: { version: 4, document: draft.document, summary: '', at: AT, by: null } }));
    await page.user.click(await screen.findByRole('button', { name: 'Put live …' }));
    const dialog = await screen.findByRole('dialog');
    expect(within(dialog).getByText('This draft has not been tried out on past mail yet.')).toBeTruthy();
    await page.user.type(within(dialog).getByRole('textbox'), 'Recruiters write daily.');
    await page.user.click(within(dialog).getByRole('button', { name: 'Put live for everyone, for new mail' }));
    await screen.findByText('Version 4 is in force for everyone, for new mail.');
    expect(page.calls('putDraftLive').map((call) => call.body)).toEqual([{ revision: 4, note: 'Recruiters write daily.' }]);
    expect(page.calls('decide')).toEqual([]);
  });

  test('goes live for a pilot over its past mail, whose number stands on the button', async () => {
    const page = openPage(
      '/take-in',
      answers({ startPilot: { version: 4 } as never, countPast: { emails: 1234 }, decide: { id: 1 } as never }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Put live …' }));
    const dialog = await screen.findByRole('dialog');
    await page.user.click(within(dialog).getByRole('radio', { name: /First a pilot/ }));
    const start = within(dialog).getByRole<HTMLButtonElement>('button', { name: /^Start the pilot for 0 mailboxes/ });
    expect(start.disabled).toBe(true);
    await page.user.click((await within(dialog).findAllByRole('checkbox'))[0]!);
    await page.user.click(within(dialog).getByRole('radio', { name: 'Past mail, too' }));
    await within(dialog).findByRole('button', { name: 'Start the pilot for 1 mailbox, and decide 1,234 past emails again' });
  });

  test('is thrown away only when that was confirmed', async () => {
    const empty = { ...draft, revision: 0, differences: [], undo: 1 };
    const page = openPage('/take-in', answers({ dropDraft: empty }));
    await page.user.click(await screen.findByRole('button', { name: 'Discard …' }));
    await page.user.click(await screen.findByRole('button', { name: 'Keep draft' }));
    expect(page.calls('dropDraft')).toEqual([]);
    await page.user.click(screen.getByRole('button', { name: 'Discard …' }));
    page.answer({ getDraft: empty });
    await page.user.click(await screen.findByRole('button', { name: 'Discard draft' }));
    await waitFor(() => expect(screen.queryByRole('region', { name: 'The draft' })).toBeNull());
  });
});
