import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { TestServer } from '../../testing/testServer';
import { owner, startTestServer } from '../../testing/testServer';
import { sightSql } from './sightSql';
import { WAYS } from './ways';

let server: TestServer;

beforeAll(async () => {
  server = await startTestServer();
});
afterAll(() => server.remove());

test('the file that a start applies is what the ways say', () => {
  const file = join(import.meta.dirname, '../../../migrations/repeatable/sight.sql');
  expect(readFileSync(file, 'utf8')).toBe(sightSql(WAYS));
});

const POLICIES = `SELECT tablename, policyname, qual FROM pg_policies WHERE qual LIKE '%owner_ids%' OR qual LIKE '%granted_ids%' OR qual LIKE '%visibility%' ORDER BY 1, 2`;

test('no other policy, and no other function, says who sees an email', async () => {
  expect(await owner(server.ownerUrl, POLICIES)).toMatchObject([{ tablename: 'emails', policyname: 'known' }]);
  const functions = await owner(
    server.ownerUrl,
    `SELECT proname FROM pg_proc WHERE pronamespace = 'public'::regnamespace AND prosrc LIKE '%visibility%' ORDER BY 1`,
  );
  expect(functions.map((row) => row.proname)).toEqual([
    'fulvet_count_readable',
    'fulvet_domain_mail',
    'fulvet_emails_with_address',
    'fulvet_record_mail',
    'fulvet_search_emails',
    'fulvet_search_page',
    'fulvet_viewers',
  ]);
});

test('it can be applied over itself, and leaves what it left before', async () => {
  const state = async (): Promise<unknown> => [
    await owner(server.ownerUrl, 'SELECT tablename, policyname, qual FROM pg_policies ORDER BY 1, 2'),
    await owner(
      server.ownerUrl,
      `SELECT pg_get_viewdef('fulvet_readable'::regclass) AS text, obj_description('fulvet_readable'::regclass) AS mark`,
    ),
  ];
  const before = await state();
  await owner(server.ownerUrl, sightSql(WAYS));
  expect(await state()).toEqual(before);
});

test('a way more is in the policy, the view and the functions, and in nothing of them twice', () => {
  const text = sightSql([...WAYS, { name: 'teams', gives: 'level', holding: 'e.id = 460201', viewers: 'SELECT 460202 AS user_id' }]);
  const without = sightSql(WAYS);
  const times = (all: string, part: string): number => all.split(part).length - 1;
  // Known by the policy and by the mail of accounts, deals and domains; read in the view, by the functions that search (five times) and the mail of people.
  expect(times(text, '.id = 460201')).toBe(10);
  expect(times(text, 'NOT e.existence_only AND e.id = 460201')).toBe(7);
  expect(times(text, '460202')).toBe(1);
  expect(times(without, '460201') + times(without, '460202')).toBe(0);
});
