import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { expect, test } from '@jest/globals';
import { until } from '../testing/mailboxTools';
import { changeRulebook, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const US = 'rep@quillmere.example';

test('a record that sealed mail took along comes back with the account into which its own has gone', async () => {
  const server = await startTestServer();
  try {
    const { tokens } = await setUpCrew(server);
    const ask = (target: Destination, body?: unknown, token = tokens.rep) => server.call(target, { token, body });
    await changeRulebook(
      server,
      tokens.admin,
      (rulebook) => void Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true }),
    );
    await importMail(server, tokens.admin, US, {
      'rep.mbox': mbox([
        { id: 'nil', from: 'Nil Strand <nil@fish.example>', to: US, date: 'Mon, 4 May 2026 10:00:00 +0000' },
        { id: 'bo', from: 'Bo Lind <bo@fish.example>', to: US, date: 'Tue, 5 May 2026 10:00:00 +0000' },
      ]),
    });
    const nil = async (): Promise<unknown> =>
      (
        await owner(
          server.ownerUrl,
          `SELECT a.name AS account FROM contacts c LEFT JOIN accounts a ON a.id = c.account_id WHERE c.name = 'Nil Strand'`,
        )
      ).map((row) => row.account);
    expect(await nil()).toEqual(['Fish']);
    const [email] = await owner(server.ownerUrl, `SELECT id FROM emails WHERE message_id = 'nil'`);
    const seal = await ask(routeTo('repair'), { emails: [Number(email?.id)], seal: true });
    await until(nil, (found) => (found as unknown[]).length === 0);
    const holding = await ask(routeTo('createRecord', { kind: 'account' }), { values: { name: 'Fish Holding' } });
    const [fish] = await owner(server.ownerUrl, `SELECT id FROM accounts WHERE name = 'Fish'`);
    expect((await ask(routeTo('mergeRecords', { kind: 'account', id: holding.json.id }), { gone: Number(fish?.id) })).status).toBe(200);
    expect((await ask(routeTo('undoRepair', { id: seal.json.id }))).status).toBe(200);
    expect(await until(nil, (found) => (found as unknown[]).length > 0)).toEqual(['Fish Holding']);
  } finally {
    await server.remove();
  }
}, 60_000);
