/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { mailbox, pilot as pilotShape, routes, rulebookVersion } from '@fulvet/contract';
import type { Pilot } from '@fulvet/contract';
import { cautiousRulebook } from '@fulvet/core';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const NADIA = 'nadia@quillmere.example';
const figures = (emails: number, filed: number) => ({ emails, outcomes: { filed }, everyone: filed, created: 2 });
const pilot = (more: Partial<Pilot> = {}): Pilot =>
  like(pilotShape, {
    version: 4,
    mailboxes: [NADIA],
    summary: 'Recruiters are kept out.\nSurveys are left to their owners.',
    at: AT,
    from: new Date(Date.now() - 3 * 86_400_000).toISOString(),
    by: 'Hedda Quillmere',
    group: figures(40, 30),
    others: figures(1000, 500),
    behind: false,
    ...more,
  });
type Runs = (typeof routes)['listDecideRuns']['response']['_output']['runs'];
const run = (id: number, more: Partial<Runs[number]> = {}): Runs[number] =>
  ({
    ...like(routes.listDecideRuns.response.shape.runs.element),
    id,
    state: 'done',
    at: AT,
    by: 'Hedda Quillmere',
    ...more,
  }) as Runs[number];

describe('the pilot', () => {
  const answers = (item: Pilot | null, more: Answers = {}): Answers => ({ ...workspace(), getPilot: { pilot: item }, ...more });

  test('stands on every step, its figures beside those of other mail', async () => {
    openPage('/share', answers(pilot()));
    const panel = await screen.findByRole('region', { name: 'The pilot' });
    expect(within(panel).getByText('Pilot: version 4 is in force for 1 mailbox')).toBeTruthy();
    const beside = within(panel).getByRole('group', { name: 'The pilot beside other mail' });
    const said = (label: string): string | null | undefined => within(beside).getByText(label).nextElementSibling?.textContent;
    expect([said('emails'), said('filed')]).toEqual(['40 1,000', '75 % 50 %']);
  });

  test('that has decided nothing yet shows no figures', async () => {
    openPage('/share', answers(pilot({ group: figures(0, 0) })));
    await screen.findByText('It has not decided any email yet.');
    expect(screen.queryByRole('group', { name: 'The pilot beside other mail' })).toBeNull();
  });

  test('is put live for everyone, over past mail where that is ticked; its number stands on the button', async () => {
    const page = openPage(
      '/share',
      answers(pilot(), {
        countPast: { emails: 320 },
        putPilotLive: like(routes.putPilotLive.response, { document: {} }),
        decide: run(2) as never,
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Put live for everyone …' }));
    const dialog = await screen.findByRole('dialog');
    expect(
      within(dialog)
        .getAllByRole('listitem')
        .map((element) => element.textContent),
    ).toEqual(['Recruiters are kept out.', 'Surveys are left to their owners.']);
    expect(within(dialog).getByRole('button', { name: 'Put live for everyone, for new mail' })).toBeTruthy();
    await page.user.click(within(dialog).getByRole('checkbox'));
    await page.user.click(await within(dialog).findByRole('button', { name: 'Put live for everyone, and decide 320 past emails again' }));
    await screen.findByText('The pilot’s rules are in force for everyone.');
    expect(page.calls('decide')[0]?.body).toMatchObject({ mailboxes: [] });
  });

  test('is ended, and the mail of its mailboxes decided by what is in force for everyone', async () => {
    const page = openPage('/share', answers(pilot(), { countPast: { emails: 40 }, endPilot: {} as never, decide: run(2) as never }));
    await page.user.click(await screen.findByRole('button', { name: 'End the pilot …' }));
    page.answer({ getPilot: { pilot: null } });
    await page.user.click(await screen.findByRole('button', { name: 'End the pilot, and decide 40 past emails again' }));
    await waitFor(() => expect(screen.queryByRole('region', { name: 'The pilot' })).toBeNull());
    expect(page.calls('decide')[0]?.body).toMatchObject({ mailboxes: [NADIA] });
  });

  test('that fell behind can only be ended', async () => {
    openPage('/share', answers(pilot({ behind: true })));
    expect((await screen.findByRole<HTMLButtonElement>('button', { name: 'Put live for everyone …' })).disabled).toBe(true);
    expect(screen.getByText(/Another version was put in force for everyone since/)).toBeTruthy();
  });
});

describe('going over past mail', () => {
  const answers = (runs: Runs, more: Answers = {}): Answers => ({
    ...workspace(),
    listDecideRuns: { runs },
    listMailboxes: { mailboxes: [like(mailbox, { id: 1, address: NADIA })] },
    ...more,
  });

  test('says how many emails of the span before it begins', async () => {
    const page = openPage(
      '/match',
      answers([], { countPast: ({ body }) => ({ emails: body.days === 30 ? 120 : 3720 }), decide: run(2) as never }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Decide past mail again …' }));
    const dialog = await screen.findByRole('dialog');
    await within(dialog).findByRole('button', { name: 'Decide 3,720 emails again' });
    await page.choose(within(dialog).getByRole('combobox', { name: 'How far back' }), 'the last 30 days');
    await page.user.click(await within(dialog).findByRole('button', { name: 'Decide 120 emails again' }));
    await waitFor(() => expect(page.calls('decide')[0]?.body).toEqual({ days: 30, mailboxes: [], withoutMade: false }));
  });

  test('takes back, where that is asked for, what mail created and the rulebook would not; that stands on the button, and then among the runs', async () => {
    const page = openPage('/create', answers([], { countPast: { emails: 3720 }, decide: run(2) as never }));
    await page.user.click(await screen.findByRole('button', { name: 'Decide past mail again …' }));
    const dialog = await screen.findByRole('dialog');
    await page.user.click(within(dialog).getByRole('checkbox', { name: /Remove the records that these rules would not create/ }));
    page.answer({ listDecideRuns: { runs: [run(2, { changed: 26, takenBack: 18, undoable: true })] } });
    await page.user.click(await within(dialog).findByRole('button', { name: 'Decide 3,720 emails again, and take records back' }));
    await waitFor(() => expect(page.calls('decide')[0]?.body).toEqual({ days: null, mailboxes: [], withoutMade: true }));
    await screen.findByText(/was decided again, 26 emails changed, 18 records removed/);
  });

  test('shows how far it is, and tells what changed when it is done', async () => {
    const page = openPage('/match', answers([run(2, { state: 'running', done: 1200, total: 3720, phase: 'deciding' })]));
    await screen.findByText('1,200 of 3,720 decided; nothing is changed yet');
    page.answer({ listDecideRuns: { runs: [run(2, { changed: 17, undoable: true })] } });
    await screen.findByText('Past mail was decided again: 17 emails changed.');
    await screen.findByText(/was decided again, 17 emails changed/);
  });

  test('is cancelled, and says why where that fails', async () => {
    const page = openPage(
      '/match',
      answers([run(2, { state: 'running', done: 1, total: 9, phase: 'writing' })], {
        cancelDecideRun: new Refused(409, 'too-late', 'It is being put in place already. Undo it when it is done.'),
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Cancel' }));
    await screen.findByText('It is being put in place already. Undo it when it is done.');
  });

  test('is undone as one step; what stays is named', async () => {
    const undone = {
      restored: 17,
      again: 0,
      removed: 2,
      back: 18,
      away: [{ kind: 'lead', id: 9, name: 'Cold Call' }],
      kept: [{ kind: 'contact', id: 3, name: 'Una Hartwig', because: 'a deal names them' }],
    };
    const page = openPage(
      '/match',
      answers([run(2, { changed: 17, takenBack: 19, undoable: true, since: '2026-05-01T00:00:00.000Z', mailboxes: [NADIA] })], {
        undoDecideRun: undone as never,
      }),
    );
    await screen.findByText(/Past mail since 2026-05-01 of 1 mailbox was decided again/);
    await page.user.click(screen.getByRole('button', { name: 'Undo …' }));
    const dialog = await screen.findByRole('dialog');
    expect(dialog.textContent).toContain('19 records that it removed are restored.');
    await page.user.click(within(dialog).getByRole('checkbox'));
    await page.user.click(within(dialog).getByRole('button', { name: 'Undo, and restore 17 emails' }));
    await screen.findByText(
      /17 emails are as before; 2 records that the run created are gone. 18 records that it removed are restored. Not removed.*: Una Hartwig \(a deal names them\). Not restored.*: Cold Call\./,
    );
    expect(page.calls('undoDecideRun')[0]?.body).toEqual({ rulebook: false });
  });
});

describe('the versions', () => {
  const versions = [4, 3, 2].map((version) =>
    like(rulebookVersion, {
      version,
      summary: Array.from({ length: version * 2 }, (_, at) => `Change ${at + 1} of ${version}.`).join('\n'),
      at: AT,
      inForce: version === 4,
    }),
  );
  const rulebook = cautiousRulebook(['quillmere.example']);
  const answers = (more: Answers = {}): Answers => ({
    ...workspace(),
    listRulebooks: { versions },
    getRulebookVersion: ({ params, query }) =>
      ({
        ...versions.find((version) => String(version.version) === params.version)!,
        document: rulebook,
        against: query.against ? Number(query.against) : 2,
        differences: query.against === '2' ? [] : ['Deals go by score.'],
      }) as never,
    ...more,
  });

  test('say who, when and what; each is compared with any other', async () => {
    const page = openPage('/versions', answers());
    await screen.findByText('Version 4');
    expect(screen.getByText('in force')).toBeTruthy();
    expect(screen.getByText('and 2 more')).toBeTruthy();
    await page.user.click(screen.getAllByRole('button', { name: 'More …' })[1]!);
    await screen.findByText('Deals go by score.');
    await page.choose(screen.getByRole('combobox', { name: 'Compared with' }), 'version 2');
    await screen.findByText('The two versions are the same.');
    const file = screen.getByRole<HTMLAnchorElement>('link', { name: 'As a file' });
    expect(JSON.parse(decodeURIComponent(file.href.slice(file.href.indexOf(',') + 1)))).toEqual(rulebook);
  });

  test('are taken back into the draft', async () => {
    const page = openPage(
      '/versions',
      answers({ versionToDraft: like(routes.versionToDraft.response, { document: rulebook, revision: 1 }) }),
    );
    await page.user.click((await screen.findAllByRole('button', { name: 'More …' }))[2]!);
    await page.user.click(await screen.findByRole('button', { name: 'Copy it to the draft' }));
    await screen.findByText('Version 2 is in the draft; nothing has taken effect.');
    expect(page.calls('versionToDraft')[0]?.params).toEqual({ version: '2' });
  });

  test('come from a file, which has to be one', async () => {
    const page = openPage(
      '/versions',
      answers({ putDraft: new Refused(422, 'bad-rulebook', 'takeIn.scope: expected one of external, known, answers, byHand.') }),
    );
    const input = await screen.findByLabelText(/Load a file into the draft/);
    await page.user.upload(input, new File(['not json'], 'notes.json', { type: 'application/json' }));
    await screen.findByText(/notes.json is not JSON/);
    await page.user.upload(input, new File(['{"takeIn": {"scope": "all"}}'], 'rules.json', { type: 'application/json' }));
    await screen.findByText('takeIn.scope: expected one of external, known, answers, byHand.');
    expect(page.calls('putDraft')[0]?.body).toEqual({ takeIn: { scope: 'all' } });
  });
});
