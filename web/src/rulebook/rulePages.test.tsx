/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { mailbox } from '@fulvet/contract';
import type { DraftState, Finding, RuleCount } from '@fulvet/contract';
import { cautiousRulebook } from '@fulvet/core';
import type { Rulebook } from '@fulvet/core';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { NO_RULE_CHANGES, emailRow, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers, OpenPage } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const rule = (id: string, name: string, more: object = {}) => ({
  id,
  name,
  note: '',
  on: true,
  appliesTo: { mailboxes: [], users: [] },
  when: { all: [{ fact: 'participant', which: 'any', test: { is: 'domain', value: `${id}.example`, exactly: false } }] },
  then: { do: 'leaveToOwner' },
  ...more,
});

function withRules(...rules: object[]): Rulebook {
  const rulebook = cautiousRulebook(['quillmere.example']);
  return { ...rulebook, takeIn: { ...rulebook.takeIn, rules: rules as never } };
}

/** A server that keeps the draft as it is put. */
function keepsDraft(rulebook: Rulebook): Answers {
  let state: DraftState = { document: rulebook, baseVersion: 3, liveVersion: 3, revision: 0, differences: [], at: null, by: null };
  const before: unknown[] = [rulebook];
  return {
    ...workspace('admin', rulebook),
    getDraft: () => state,
    putDraft: ({ body, query }) => {
      expect(Number(query.revision)).toBe(state.revision);
      state = {
        ...state,
        document: body,
        revision: state.revision + 1,
        differences: ['Something differs.'],
        by: 'Hedda Quillmere',
        at: AT,
      };
      before.push(body);
      return { ...state, undo: state.revision };
    },
    undo: ({ params }) => {
      state = { ...state, document: before[Number(params.id) - 1], revision: state.revision + 1 };
      return { changed: 1, kept: [] };
    },
    countRule: () => counted(12, 40),
    tryRule: NO_RULE_CHANGES,
  };
}

const counted = (took: number, of: number, more: Partial<RuleCount> = {}): RuleCount => ({
  took,
  of,
  first: took,
  read: of,
  total: of,
  examples: [],
  ...more,
});
const rulesPut = (page: OpenPage): { id: string; name: string; on: boolean; when: object; then: object }[] =>
  page.calls('putDraft').at(-1)?.body.takeIn.rules;
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

  test('are mended by one click where the check knows how', async () => {
    const mended = withRules(press);
    const findings: Finding[] = [
      {
        code: 'covered',
        step: 'takeIn',
        rule: 'law',
        message: 'Lawyers never speaks: Press covers it.',
        emails: 0,
        repair: { label: 'Remove it', document: mended },
      },
      { code: 'nothing', step: 'share', rule: 'x', message: 'Of another step.', emails: null, repair: null },
    ];
    const page = openPage('/take-in', { ...keepsDraft(withRules(press, law)), checkDraft: { findings } });
    const odd = await screen.findByRole('list', { name: 'What is odd' });
    expect(within(odd).getAllByRole('listitem')).toHaveLength(1);
    await page.user.click(within(odd).getByRole('button', { name: 'Remove it' }));
    await waitFor(() => expect(rulesPut(page).map((item) => item.name)).toEqual(['Press']));
  });
});

describe('the editor of a rule', () => {
  const addCondition = async (page: ReturnType<typeof openPage>, name: RegExp): Promise<void> => {
    await page.user.click(await screen.findByRole('button', { name: 'Add a condition' }));
    await page.user.click(screen.getByRole('option', { name }));
  };

  test('writes a new rule by mouse and keyboard, while what it takes of past mail follows', async () => {
    const page = openPage('/take-in', {
      ...keepsDraft(withRules()),
      countRule: ({ body }) =>
        JSON.stringify(body.rule).includes('invoice')
          ? counted(7, 40, { first: 5, examples: [emailRow(9, 'Invoice 12')] })
          : counted(30, 40),
      tryRule: {
        tried: 7,
        changed: 3,
        moves: [
          { before: 'filed', after: 'unfiled', emails: 2 },
          { before: 'filed', after: 'filed', emails: 1 },
        ],
        newlySeen: 0,
        noLongerSeen: 2,
        created: 1,
        examples: [{ email: emailRow(9, 'Invoice 12'), before: 'filed', after: 'unfiled', seen: 'no longer' }],
      },
    });
    await page.user.click(await screen.findByRole('button', { name: 'Add a rule' }));
    await screen.findByText(/Add a condition\. Which past emails the rule applies to/);
    expect(page.calls('countRule')).toEqual([]);
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Add to the draft' }).disabled).toBe(true);
    await page.user.click(screen.getByRole('button', { name: 'Add a condition' }));
    await page.user.keyboard('{ArrowDown}');
    await page.user.click(screen.getByRole('option', { name: /the subject/ }));
    const words = await screen.findByRole('textbox', { name: /words|text|subject/i });
    await page.user.clear(words);
    await page.user.type(words, 'invoice');
    await screen.findByText('7 past emails');
    expect(screen.getByText(/2 of them are decided by an earlier rule/)).toBeTruthy();
    await screen.findByText(/of these 7 emails; 2 emails would be seen by fewer, 1 record would be created/);
    const moves = within(screen.getByRole('list', { name: 'Outcomes that would change' })).getAllByRole('listitem');
    expect(moves.map((item) => item.textContent)).toEqual(['2 filed unfiled', '1 filed under other records, or seen by others']);
    expect(screen.getByText('Invoice 12')).toBeTruthy();
    await page.user.type(screen.getByRole('textbox', { name: 'Name' }), 'Invoices');
    await page.user.type(screen.getByRole('textbox', { name: 'Why it exists' }), 'They are for the books.');
    await page.user.click(screen.getByRole('button', { name: 'Add to the draft' }));
    await waitFor(() => expect(rulesPut(page)).toHaveLength(1));
    expect(rulesPut(page)[0]).toMatchObject({
      name: 'Invoices',
      note: 'They are for the books.',
      when: {
        all: [{ fact: 'subject', test: { contains: ['invoice'] } }],
      },
    });
  });

  test('says on how much of past mail its number rests, and goes on counting', async () => {
    let asked = 0;
    const page = openPage('/take-in', {
      ...keepsDraft(withRules(rule('press', 'Press'))),
      countRule: ({ body }) => {
        expect(body.partly).toBe(true);
        asked += 1;
        return asked === 1 ? counted(3, 1500, { read: 1500, total: 1_000_000 }) : counted(4200, 1_000_000);
      },
    });
    await page.user.click(await screen.findByRole('button', { name: /at press.example/ }));
    await screen.findByText(/So far, the newest 1,500 of 1,000,000 emails have been read/);
    await screen.findByText('4,200 past emails', undefined, { timeout: 4000 });
    expect(screen.queryByText(/So far/)).toBeNull();
  });

  test('is closed by Escape and changes nothing', async () => {
    const page = openPage('/take-in', keepsDraft(withRules(rule('press', 'Press'))));
    (await screen.findByRole('listitem', { name: /^Rule 1/ })).focus();
    await page.user.keyboard('{Enter}');
    await page.user.type(await screen.findByRole('textbox', { name: 'Name' }), ' and more');
    await page.user.keyboard('{Escape}');
    await screen.findByRole('listitem', { name: /^Rule 1: Press\b/ });
    expect(page.calls('putDraft')).toEqual([]);
  });

  test('keeps what was written where the server does not take it, and names the place', async () => {
    const page = openPage('/take-in', {
      ...keepsDraft(withRules()),
      putDraft: new Refused(422, 'bad-rulebook', 'takeIn.rules.0.when: a rule needs a condition.'),
    });
    await page.user.click(await screen.findByRole('button', { name: 'Add a rule' }));
    await addCondition(page, /the subject/);
    await page.user.type(await screen.findByRole('textbox', { name: 'Name' }), 'Kept');
    await page.user.click(screen.getByRole('button', { name: 'Add to the draft' }));
    await screen.findByText('takeIn.rules.0.when: a rule needs a condition.');
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Name' }).value).toBe('Kept');
  });

  test('cannot be kept while what it says cannot be counted', async () => {
    const page = openPage('/take-in', {
      ...keepsDraft(withRules()),
      countRule: new Refused(422, 'bad-rulebook', 'The pattern cannot be read: a bracket is not closed.'),
    });
    await page.user.click(await screen.findByRole('button', { name: 'Add a rule' }));
    await addCondition(page, /the subject/);
    await screen.findByText('The pattern cannot be read: a bracket is not closed.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Add to the draft' }).disabled).toBe(true);
  });

  test('is prefilled from the address bar, as “make a rule of this” does', async () => {
    const page = openPage('/take-in?rule=talent.example', keepsDraft(withRules()));
    await screen.findByText('12 past emails');
    expect(page.calls('countRule').at(-1)?.body.rule.when).toEqual({
      all: [{ fact: 'participant', which: 'any', test: { is: 'domain', value: 'talent.example', exactly: false } }],
    });
    await page.user.click(screen.getByRole('button', { name: 'Add to the draft' }));
    await waitFor(() => expect(page.address()).toBe('/take-in'));
  });

  test('nests conditions and takes them away', async () => {
    const page = openPage('/take-in', keepsDraft(withRules(rule('press', 'Press'))));
    (await screen.findByRole('listitem', { name: /^Rule 1/ })).focus();
    await page.user.keyboard('{Enter}');
    await page.user.click(await screen.findByRole('button', { name: 'Add a condition' }));
    await page.user.click(screen.getByRole('option', { name: /a group of conditions/ }));
    await waitFor(() => expect(screen.getAllByRole('button', { name: /^How many of them must hold/ })).toHaveLength(2));
    await page.user.click(screen.getAllByRole('button', { name: 'Remove this condition' })[0]!);
    await page.user.click(screen.getByRole('button', { name: 'Keep in the draft' }));
    await waitFor(() =>
      expect(rulesPut(page)[0]?.when).toEqual({ all: [{ any: [{ fact: 'participant', which: 'any', test: { is: 'unknown' } }] }] }),
    );
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
