import { describe, expect, test } from '@jest/globals';
import { as, good, setAddress } from '../../testing/documentTools';
import { set, setMailbox } from '../../testing/measuringTools';
import { routeTo } from '../../testing/routeTo';
import type { Answer } from '../../testing/testServer';
import { owner } from '../../testing/testServer';
import { crew, draft, IDA, outside, rep, sendNow, sentFolder, stage } from '../../testing/writingStage';

describe('who decides it', () => {
  const reason = async (more: object): Promise<string | null> => {
    const { id } = await draft({ to: [IDA], measured: true, ...more });
    return good(await rep(routeTo('previewOutgoing', { id }))).measuring?.why ?? null;
  };
  const isFree = async (subject: string, more: object = {}): Promise<boolean> => {
    await sendNow(await draft({ to: [IDA], subject, html: '<p><a href="https://a.example/">a</a></p>', measured: true, ...more }));
    const copies = sentFolder().filter(({ raw }) => raw.includes(`Subject: ${subject}`));
    return !`${outside(subject)[0]?.source}${copies.map(({ raw }) => raw.toString()).join('')}`.includes(stage.server.url);
  };

  test('is the workspace, with a notice, by name, undone like any setting', async () => {
    expect((await set({ notice: ' ' })).json.error.fields).toEqual({ 'measuring.notice': 'is missing' });
    expect((await set({ never: ['not an address'] })).status).toBe(422);
    expect((await set({ ownRanges: ['192.0.2.0/99'] })).status).toBe(422);
    const off = good(await set({ isOn: false }));
    const on = good(await set({}));
    expect(on.measuring.decided.name).toBe('Ada Admin');
    expect(await reason({})).toBe('');
    good(await as(crew.tokens.admin, routeTo('undo', { id: on.undo })));
    expect(await reason({})).toBeNull();
    expect(await isFree('Off')).toBe(true);
    good(await as(crew.tokens.admin, routeTo('undo', { id: off.undo })));
    expect(await reason({})).toBe('');
  });

  test('is the address of links, too, without which nothing is counted', async () => {
    good(await set({ isOn: false }));
    good(await setAddress(null));
    expect((await set({})).json.error.code).toBe('no-link-address');
    good(await setAddress(stage.server.url));
  });

  test('is the owner of the mailbox', async () => {
    good(await setMailbox(false, crew.tokens.admin));
    expect((await setMailbox(true, crew.tokens.admin)).json.error.code).toBe('owners-choice');
    expect(await reason({})).toContain('Its owner can change that');
    expect(await isFree('Mailbox off')).toBe(true);
  });

  test('is whoever writes, whose last choice stands for the next email', async () => {
    await draft({ measured: false });
    expect(good(await rep(routeTo('startOutgoing'), { body: {} })).measured).toBe(false);
    expect(await isFree('Not this one', { measured: false })).toBe(true);
    await draft({ measured: true });
    expect(good(await rep(routeTo('startOutgoing'), { body: {} })).measured).toBe(true);
  });

  test('are people who are never counted, colleagues, and more than one recipient', async () => {
    const two = { cc: [{ name: 'Finn', address: 'finn@harbour.example' }] };
    expect(await reason(two)).toContain('exactly one person');
    expect(await isFree('Two people', two)).toBe(true);
    expect(await reason({ to: [{ name: '', address: 'kim@quillmere.example' }] })).toContain('colleagues');
    for (const never of ['ida@harbour.example', 'Harbour.example']) {
      good(await set({ never: [never] }));
      expect(await reason({})).toContain('never counted');
      expect(await isFree(`Never ${never}`)).toBe(true);
      expect(await reason({ to: [{ name: '', address: 'ida@notharbour.example' }] })).toBe('');
    }
    good(await set({}));
    await owner(stage.server.ownerUrl, `INSERT INTO unsubscribes (address) VALUES ('ida@harbour.example')`);
    expect(await reason({})).toContain('never counted');
    await owner(stage.server.ownerUrl, 'DELETE FROM unsubscribes');
  });

  test('is the right by role and team', async () => {
    const rights = (measure: string): Promise<Answer> =>
      as(crew.tokens.admin, routeTo('putWorkspace'), {
        writingRights: Object.fromEntries(
          ['send', 'share', 'bulk', 'measure'].map((right) => [right, { role: right === 'measure' ? measure : 'rep', teamIds: [] }]),
        ),
      });
    good(await rights('manager'));
    expect(await reason({})).toBe('Your workspace does not let you count openings.');
    expect(await isFree('No right')).toBe(true);
    good(await rights('rep'));
  });
});
