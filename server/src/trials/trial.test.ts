import { routeTo } from '../testing/routeTo';
import { beforeAll, describe, expect, test } from '@jest/globals';
import type { Answer } from '../testing/testServer';
import { decideAll, decisions, finished, owner } from '../testing/testServer';
import { server, crew, call, rule, fromDomain, edit } from '../testing/rulebookStage';

const tried = async (body: object = {}): Promise<Answer['json']> => {
  const { json } = await call(routeTo('startTrial'), body);
  return finished(server, crew.tokens.admin, routeTo('getTrial', { id: json.id }));
};

// The draft keeps a list of domains out and leaves invoices to their owners.
beforeAll(async () => {
  const { json: list } = await call(routeTo('createAddressList'), { name: 'Press' });
  await call(routeTo('pasteAddressListEntries', { list: list.id }), { text: 'news.example' });
  await edit((rulebook) => {
    const inPress = { fact: 'participant', which: 'any', test: { is: 'inList', list: list.id } };
    rulebook.keepOut.rules.push(rule('press', inPress, { do: 'ignore' }) as never);
    const invoices = { fact: 'subject', test: { contains: ['invoice'] } };
    rulebook.takeIn.rules.push(rule('no-invoices', invoices, { do: 'leaveToOwner' }) as never);
  });
});

describe('counting a rule', () => {
  test('says how many past emails it takes, how many no earlier rule takes, and shows the newest', async () => {
    const when = { fact: 'subject', test: { contains: ['invoice', 'hello'] } };
    const { json } = await call(routeTo('countRule'), { step: 'takeIn', rule: rule('counted', when, { do: 'leaveToOwner' }) });
    expect([json.took, json.first, json.of]).toEqual([30, 20, 36]);
    expect(json.examples).toHaveLength(8);
  });

  test('at Create, asks about unknown people', async () => {
    const when = { fact: 'participant', which: 'this', test: { is: 'domain', value: 'company1.example' } };
    const { json } = await call(routeTo('countRule'), { step: 'create', rule: rule('counted', when, { do: 'lead' }) });
    expect(json.took).toBe(5);
  });
});

describe('trying a rule', () => {
  const tryRule = async (step: string, tried: unknown): Promise<Answer> => call(routeTo('tryRule'), { step, rule: tried });

  test('says from which outcome to which the emails would go that it is about, and shows the newest', async () => {
    const { json } = await tryRule('keepOut', rule('kept', fromDomain('company1.example'), { do: 'keepOut' }));
    expect(json).toMatchObject({ tried: 5, changed: 5, created: 0, newlySeen: 0, noLongerSeen: 0 });
    expect(json.moves).toEqual([{ before: 'unfiled', after: 'kept out', emails: 5 }]);
    expect(json.examples.map((item: { email: { externalDomains: string[] } }) => item.email.externalDomains)).toEqual(
      Array.from({ length: 5 }, () => ['company1.example']),
    );
  });

  test('counts who would be created, and who would no longer see an email', async () => {
    const created = (await tryRule('create', rule('made', fromDomain('company1.example', 'this'), { do: 'contact', after: 'firstEmail' })))
      .json;
    expect(created).toMatchObject({ tried: 5, changed: 4, created: 5, newlySeen: 4 });
    // The invoice among them is left to its owner; an account comes with the people.
    expect(created.moves).toEqual([{ before: 'unfiled', after: 'filed', emails: 4 }]);
    const hidden = (await tryRule('share', rule('private', fromDomain('harbour.example'), { do: 'owner' }))).json;
    expect(hidden.noLongerSeen).toBeGreaterThan(0);
    expect(hidden).toMatchObject({ changed: hidden.noLongerSeen, moves: [{ before: 'filed', after: 'filed', emails: hidden.changed }] });
  });

  test('that is in the draft already is compared with itself as it was', async () => {
    const { json } = await call(routeTo('getDraft'));
    const known = json.document.takeIn.rules.find((item: { id: string }) => item.id === 'no-invoices');
    expect((await tryRule('takeIn', known)).json).toMatchObject({ tried: 10, changed: 0, moves: [], examples: [] });
    const narrowed = { ...known, when: { fact: 'subject', test: { contains: ['no such words'] } } };
    expect((await tryRule('takeIn', narrowed)).json).toMatchObject({ tried: 10, changed: 0 });
  });

  test('about no past email is tried on none, and one that cannot be read is refused', async () => {
    expect((await tryRule('takeIn', rule('none', fromDomain('nowhere.example'), { do: 'leaveToOwner' }))).json).toMatchObject({
      tried: 0,
      changed: 0,
    });
    const refused = await tryRule('takeIn', rule('bad', { fact: 'subject', test: { pattern: '(a' } }, { do: 'leaveToOwner' }));
    expect([refused.status, refused.json.error.code]).toEqual([422, 'bad-rulebook']);
  });
});

describe('a trial', () => {
  const everything = async (): Promise<unknown> => {
    const tables = await owner(
      server.ownerUrl,
      `SELECT relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = 'public' AND relkind = 'r' AND relname NOT LIKE 'trial%' AND relname <> 'session' ORDER BY 1`,
    );
    const dump: Record<string, unknown> = {};
    for (const { relname } of tables)
      dump[String(relname)] = (
        await owner(
          server.ownerUrl,
          `SELECT md5(coalesce(string_agg(to_jsonb(t)::text, '|' ORDER BY to_jsonb(t)::text), '')) AS sum, count(*) AS rows FROM "${String(relname)}" t`,
        )
      )[0];
    // When a token was used last is no business of a trial’s.
    delete dump.access_tokens;
    // That it was done is told beside it.
    delete dump.work;
    return dump;
  };

  test('changes nothing', async () => {
    const before = await everything();
    expect((await tried({ name: 'First' })).state).toBe('done');
    expect(await everything()).toEqual(before);
  });

  test('says from which outcome to which, at which step, and who would no longer be seen', async () => {
    const [trial] = (await call(routeTo('listTrials'))).json.trials;
    const { summary } = trial;
    expect(summary.emails).toBe(36);
    expect(summary.matrix.filed).toEqual({ filed: 4 });
    expect(summary.matrix.unfiled).toEqual({ unfiled: 30, 'kept out': 1 });
    expect(summary.steps.takeIn['left to its owner']).toBe(10);
    const rows = (await call(routeTo('listTrialRows', { id: trial.id, before: 'unfiled', after: 'kept out' }))).json;
    expect([rows.total, rows.rows[0].step]).toEqual([1, 'keepOut']);
    const mine = (await call(routeTo('getTrialDocket', { id: trial.id, email: rows.rows[0].email.id }))).status;
    // The administrator may not read this email, so the decision that names people is not shown.
    expect(mine).toBe(404);
    const csv = (await call(routeTo('exportTrial', { id: trial.id }))).text.trim().split('\n');
    expect(csv).toHaveLength(1 + summary.changed);
    const lines = (await call(routeTo('exportTrial', { id: trial.id, format: 'jsonl' }))).text.trim().split('\n');
    expect(lines.map((line) => JSON.parse(line).outcomeAfter)).toEqual(['kept out']);
  });

  test('over a chosen span and set of mailboxes', async () => {
    expect((await tried({ mailboxes: ['nobody@quillmere.example'] })).summary.emails).toBe(0);
    expect((await tried({ days: 1 })).summary.emails).toBe(0);
  });

  test('what it says is what then happens: put live and gone over past mail, every email is decided as the trial said', async () => {
    await edit((rulebook) => {
      Object.assign(rulebook.create, { people: 'lead', after: 'firstEmail' });
      rulebook.create.rules.push(
        rule('fish', { fact: 'participant', which: 'this', test: { is: 'domain', value: 'company2.example' } }, { do: 'nothing' }) as never,
      );
      rulebook.share.rules.push(rule('private', fromDomain('company3.example'), { do: 'owner' }) as never);
    });
    const trial = await tried({ name: 'Leads' });
    expect(trial.summary.created.map((item: { kind: string }) => item.kind)).toContain('lead');
    const told = (await call(routeTo('listTrialRows', { id: trial.id, limit: 500 }))).json.rows as {
      email: { id: number };
      outcomeAfter: string;
      visibilityAfter: string;
    }[];
    const { revision } = (await call(routeTo('getDraft'))).json;
    const live = await call(routeTo('putDraftLive'), { revision, note: 'Leads from the first email on' });
    expect(live.json.summary).toContain('Leads from the first email on');
    expect((await call(routeTo('getDraft'))).json.revision).toBe(0);
    const before = await decisions(server, crew.tokens.admin);
    const idOf = new Map(
      (await owner(server.ownerUrl, 'SELECT id, message_id FROM emails')).map((row) => [Number(row.id), String(row.message_id)]),
    );
    await decideAll(server, crew.tokens.admin);
    const after = await decisions(server, crew.tokens.admin);
    const under = ({ filings }: { filings: { kind: string; name: string }[] }): string =>
      filings
        .map(({ kind, name }) => `${kind} ${name}`)
        .sort()
        .join();
    const differs = Object.keys(after).filter(
      (id) =>
        before[id].outcome !== after[id].outcome ||
        before[id].visibility !== after[id].visibility ||
        under(before[id]) !== under(after[id]),
    );
    expect(told.map((item) => idOf.get(item.email.id) ?? '').sort()).toEqual(differs.sort());
    for (const item of told) {
      const now = after[idOf.get(item.email.id) ?? ''];
      expect([now.outcome, now.visibility]).toEqual([item.outcomeAfter, item.visibilityAfter]);
    }
    const rest = await tried({ name: 'Nothing left' });
    expect(rest.summary.changed).toBe(0);
  });

  test('can be cancelled and removed', async () => {
    const { json } = await call(routeTo('startTrial'), {});
    await call(routeTo('cancelTrial', { id: json.id }));
    const ended = await finished(server, crew.tokens.admin, routeTo('getTrial', { id: json.id }));
    expect(['cancelled', 'done']).toContain(ended.state);
    expect((await call(routeTo('deleteTrial', { id: json.id }))).status).toBe(200);
    expect((await call(routeTo('getTrial', { id: json.id }))).status).toBe(404);
  });
});

describe('what rules took', () => {
  test('is counted by rule', async () => {
    await decideAll(server, crew.tokens.admin);
    const { rules } = (await call(routeTo('useOfRules'))).json;
    // The demo’s emails are older than 30 days: nothing counts here, and the answer says so rather than guess.
    expect(rules.every((item: { took: number }) => item.took > 0)).toBe(true);
  });
});
