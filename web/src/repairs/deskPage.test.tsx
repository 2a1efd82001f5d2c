/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import type { Desk, DeskCase } from '@fulvet/contract';
import { deskCase, emailDetail, repairResult, teamMember } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { HEDDA, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const candidate = (id: number, name: string) => ({
  id,
  name,
  detail: 'Quoted',
  score: 0.5 + id / 100,
  why: ['1 of its 2 people takes part'],
});
const question = (key: string, more: Partial<DeskCase> = {}): DeskCase =>
  like(deskCase, {
    key,
    about: 'deal',
    kind: 'deal',
    candidates: [candidate(21, 'Tide gauges'), candidate(22, 'Survey buoys')],
    emails: [7, 6],
    count: 2,
    conversations: 1,
    subject: `Subject of ${key}`,
    from: { role: 'from', address: 'ida@harbour.example', name: 'Ida Brandt', ours: false },
    ...more,
  });

function desk(...cases: DeskCase[]): Desk {
  return { cases, left: cases.length, emails: cases.reduce((sum, testCase) => sum + testCase.count, 0), arriving: [] };
}

const done = like(repairResult, { id: 5, summary: 'Filed a conversation under the deal Tide gauges', changed: 2 });

function answers(cases: DeskCase[], more: Answers = {}): Answers {
  return {
    ...workspace('rep'),
    getDesk: desk(...cases),
    getEmail: ({ params }) => like(emailDetail, { id: Number(params.id), at: AT }),
    repair: done,
    ...more,
  };
}

/** A server on whose desk a question stays until it is answered. */
function settling(cases: DeskCase[], more: Answers = {}): Answers {
  const open = new Map(cases.map((testCase) => [testCase.emails[0], testCase]));
  return answers(cases, {
    getDesk: () => desk(...open.values()),
    repair: ({ body }) => {
      open.delete(body.emails[0]);
      return done;
    },
    ...more,
  });
}

describe('the sorting desk', () => {
  test('says when nothing waits', async () => {
    openPage('/desk', answers([]));
    await screen.findByText('Nothing waits');
    expect(screen.getByText('0 questions left, about 0 emails')).toBeTruthy();
  });

  test('asks one question at a time, with the candidates and why; a number key answers and the next stands there', async () => {
    const page = openPage(
      '/desk',
      settling([question('one'), question('two', { emails: [9], count: 1, about: 'account', domain: 'group.example' })]),
    );
    await screen.findByRole('heading', { name: 'Which of these 2 deals?' });
    expect(screen.getByText('One answer for these 2 emails of one conversation.')).toBeTruthy();
    expect(screen.getAllByText('1 of its 2 people takes part')).toHaveLength(2);
    expect(screen.getByText('fits 71 %')).toBeTruthy();
    await page.user.keyboard('2');
    await screen.findByRole('heading', { name: 'Which account of group.example?' });
    expect(page.calls('repair').map((call) => call.body)).toEqual([
      { emails: [7, 6], reach: 'conversation', file: [{ kind: 'deal', id: 22 }] },
    ]);
    await screen.findByText('Filed a conversation under the deal Tide gauges.');
    await screen.findByText('1 question left, about 1 email');
  });

  test('takes an answer back by the notice', async () => {
    const page = openPage('/desk', settling([question('one')], { undoRepair: { changed: 2, kept: [] } }));
    await page.user.click(await screen.findByRole('button', { name: /Tide gauges/ }));
    await page.user.click(await screen.findByRole('button', { name: 'Undo' }));
    await screen.findByText('Undone; 2 emails are as before.');
    expect(page.calls('undoRepair').map((call) => call.params)).toEqual([{ id: '5' }]);
  });

  test.each<[string, string, object]>([
    ['no deal', '0', { takeOff: [{ kind: 'deal', id: null }] }],
    ['as it stands', 'l', { settle: true }],
  ])('takes %s for an answer', async (_, key, says) => {
    const page = openPage('/desk', settling([question('one')]));
    await screen.findByRole('heading', { name: 'Which of these 2 deals?' });
    await page.user.keyboard(key);
    await waitFor(() =>
      expect(page.calls('repair').map((call) => call.body)).toEqual([{ emails: [7, 6], reach: 'conversation', ...says }]),
    );
  });

  test('skips a question, which comes again after the others', async () => {
    const page = openPage(
      '/desk',
      answers([question('one'), question('two', { emails: [9], about: 'hold', domain: 'Ask about tenders' })]),
    );
    await screen.findByRole('heading', { name: 'Which of these 2 deals?' });
    await page.user.keyboard('k');
    await screen.findByRole('heading', { name: 'A rule asks: Ask about tenders' });
    await page.user.keyboard('k');
    await screen.findByRole('heading', { name: 'Which of these 2 deals?' });
    expect(page.calls('repair')).toEqual([]);
  });

  test('brings a question back whose answer failed, and says why', async () => {
    const page = openPage(
      '/desk',
      answers([question('one')], { repair: new Refused(403, 'not-yours', 'Only who may read an email puts it right.') }),
    );
    await page.user.click(await screen.findByRole('button', { name: /Tide gauges/ }));
    await screen.findByText('Only who may read an email puts it right.');
    await screen.findByRole('heading', { name: 'Which of these 2 deals?' });
  });

  test('gives an address to a person whom it belongs to, and knows no “none” for it', async () => {
    const who = question('who', {
      about: 'person',
      kind: 'contact',
      domain: 'lea@freemail.example',
      candidates: [{ ...candidate(3, 'Lea Ost'), score: null }],
    });
    const page = openPage('/desk', settling([who]));
    await screen.findByRole('heading', { name: 'Is lea@freemail.example another address of Lea Ost?' });
    await page.user.keyboard('0');
    expect(page.calls('repair')).toEqual([]);
    await page.user.keyboard('1');
    await waitFor(() =>
      expect(page.calls('repair')[0]?.body.secondAddresses).toEqual([{ kind: 'contact', id: 3, address: 'lea@freemail.example' }]),
    );
  });

  test('writes a rule into the draft where an administrator answers always so', async () => {
    const page = openPage('/desk', {
      ...settling([question('one')]),
      ...{ getSession: workspace('admin').getSession },
      putDraft: ({ body }) => ({
        document: body,
        baseVersion: 3,
        liveVersion: 3,
        revision: 1,
        differences: ['A rule.'],
        at: AT,
        by: null,
        undo: 1,
      }),
    } as Answers);
    await page.user.click(await screen.findByRole('checkbox', { name: /Add a rule that answers the same/ }));
    await page.user.keyboard('1');
    await screen.findByText(/Added to the draft: mail with ida@harbour.example goes under Tide gauges/);
    expect(page.calls('putDraft')[0]?.body.match.rules).toMatchObject([
      { when: { test: { is: 'address', value: 'ida@harbour.example' } }, then: { do: 'fileUnder', kind: 'deal', id: 21 } },
    ]);
  });

  test('is passed to a colleague, but to no one who only looks', async () => {
    const members = [HEDDA.id, 2, 3].map((id, at) =>
      like(teamMember, { id, name: ['Hedda Quillmere', 'Nadia Okonjira', 'Astrid Pellworm'][at]!, role: at === 2 ? 'viewer' : 'rep' }),
    );
    const page = openPage('/desk', answers([question('one')], { listTeam: { members }, passCase: { passed: 2 } }));
    await page.user.click(await screen.findByRole('button', { name: 'Pass to …' }));
    expect(screen.getAllByRole('option').map((element) => element.textContent)).toEqual([expect.stringContaining('Nadia Okonjira')]);
    await page.user.click(screen.getByRole('option', { name: /Nadia/ }));
    await screen.findByText('Passed to Nadia Okonjira.');
    expect(page.calls('passCase')[0]?.body).toEqual({ emails: [7, 6], to: 2 });
  });

  test('shows the email beside the question, and what of it the reader may not read', async () => {
    openPage('/desk', answers([question('one')], { getEmail: like(emailDetail, { id: 7, at: AT, content: null }) }));
    const email = await screen.findByText(/You may not read it/);
    expect(email).toBeTruthy();
    expect(within(screen.getByRole('region', { name: 'The question' })).getByText('Which of these 2 deals?')).toBeTruthy();
  });

  test('leaves the keys alone while a dialog is open or someone types', async () => {
    const page = openPage('/desk', answers([question('one')], { likelyRecords: { records: [] } }));
    await screen.findByRole('heading', { name: 'Which of these 2 deals?' });
    await page.user.keyboard('f');
    const dialog = await screen.findByRole('dialog');
    await page.user.type(within(dialog).getByRole('combobox'), '1 harbour');
    expect(page.calls('repair')).toEqual([]);
    await waitFor(() => expect(page.calls('likelyRecords').at(-1)?.query.text).toBe('1 harbour'));
  });
});
