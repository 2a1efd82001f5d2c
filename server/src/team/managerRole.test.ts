import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
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

const asAdmin = (target: Destination, body?: unknown): Promise<Answer> => server.call(target, { token: crew.tokens.admin, body });

test('who had the role under its earlier name keeps account, token and invitation', async () => {
  const invited = await asAdmin(routeTo('invite'), { email: 'soon@quillmere.example', name: 'Soon', role: 'manager' });
  await owner(server.ownerUrl, 'ALTER TABLE users DROP CONSTRAINT users_role_known');
  await owner(server.ownerUrl, `UPDATE users SET role = 'lead' WHERE role = 'manager'`);
  await owner(server.ownerUrl, `UPDATE invitations SET role = 'lead' WHERE role = 'manager'`);
  await owner(server.ownerUrl, `ALTER TABLE users ADD CONSTRAINT users_role_known CHECK (role in ('admin', 'lead', 'rep', 'viewer'))`);
  const migration = readFileSync(join('server', 'migrations', '0055_role_manager.sql'), 'utf8');
  for (const statement of migration.split('--> statement-breakpoint')) await owner(server.ownerUrl, statement);

  const session = await server.call(routeTo('getSession'), { token: crew.tokens.manager });
  expect([session.status, session.json.user.role]).toEqual([200, 'manager']);
  const joined = await server.call(routeTo('acceptInvitation'), {
    body: { token: invited.json.token, name: 'Soon', password: PASSWORD },
  });
  expect([joined.status, joined.json.user.role]).toEqual([200, 'manager']);
});

test('requests may use the earlier name of the role, and answers do not', async () => {
  const added = await asAdmin(routeTo('addMember'), { email: 'mo@quillmere.example', name: 'Mo', role: 'lead', password: PASSWORD });
  expect([added.status, added.json.role]).toEqual([200, 'manager']);
  const changed = await asAdmin(routeTo('changeMember', { id: added.json.id }), { role: 'rep' });
  expect(changed.json.role).toBe('rep');
  expect((await asAdmin(routeTo('changeMember', { id: added.json.id }), { role: 'lead' })).json.role).toBe('manager');
  const invited = await asAdmin(routeTo('invite'), { email: 'li@quillmere.example', name: 'Li', role: 'lead' });
  expect(invited.json.invitation.role).toBe('manager');
});
