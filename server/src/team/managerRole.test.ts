import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { owner, PASSWORD, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

const asAdmin = (method: string, path: string, body?: unknown): Promise<Answer> =>
  server.call(method, path, { token: crew.tokens.admin, body });

test('who had the role under its earlier name keeps account, token and invitation', async () => {
  const invited = await asAdmin('POST', '/invitations', { email: 'soon@quillmere.example', name: 'Soon', role: 'manager' });
  await owner(server.ownerUrl, 'ALTER TABLE users DROP CONSTRAINT users_role_known');
  await owner(server.ownerUrl, `UPDATE users SET role = 'lead' WHERE role = 'manager'`);
  await owner(server.ownerUrl, `UPDATE invitations SET role = 'lead' WHERE role = 'manager'`);
  await owner(server.ownerUrl, `ALTER TABLE users ADD CONSTRAINT users_role_known CHECK (role in ('admin', 'lead', 'rep', 'viewer'))`);
  const migration = readFileSync(join('server', 'migrations', '0055_role_manager.sql'), 'utf8');
  for (const statement of migration.split('--> statement-breakpoint')) await owner(server.ownerUrl, statement);

  const session = await server.call('GET', '/session', { token: crew.tokens.manager });
  expect([session.status, session.json.user.role]).toEqual([200, 'manager']);
  const joined = await server.call('POST', '/invitations/accept', {
    body: { token: invited.json.token, name: 'Soon', password: PASSWORD },
  });
  expect([joined.status, joined.json.user.role]).toEqual([200, 'manager']);
});

test('requests may use the earlier name of the role, and answers do not', async () => {
  const added = await asAdmin('POST', '/team', { email: 'mo@quillmere.example', name: 'Mo', role: 'lead', password: PASSWORD });
  expect([added.status, added.json.role]).toEqual([200, 'manager']);
  const changed = await asAdmin('PUT', `/team/${String(added.json.id)}`, { role: 'rep' });
  expect(changed.json.role).toBe('rep');
  expect((await asAdmin('PUT', `/team/${String(added.json.id)}`, { role: 'lead' })).json.role).toBe('manager');
  const invited = await asAdmin('POST', '/invitations', { email: 'li@quillmere.example', name: 'Li', role: 'lead' });
  expect(invited.json.invitation.role).toBe('manager');
});
