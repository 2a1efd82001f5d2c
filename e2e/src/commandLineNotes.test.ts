import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../../server/src/testing/testServer';
import { importRecords, owner, setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { runFulvet } from './testing/runFulvet';
import type { Ran } from './testing/runFulvet';

let server: TestServer;
let crew: Crew;
const fulvet = (args: readonly string[]): Promise<Ran> => runFulvet(args, '', { FULVET_URL: server.url, FULVET_TOKEN: crew.tokens.rep });

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await importRecords(server, crew.tokens.admin, 'contact', 'name,emails\nIda,ida@harbour.example\n');
});
afterAll(() => server.remove());

describe('the command line writes down', () => {
  test('contact that is not mail is logged under records', async () => {
    const [contact] = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Ida'`);
    const about = ['--record', `contact:${String(contact?.id)}`];
    expect((await fulvet(['log', 'call', 'Talked', ...about, '--at', '2026-05-04T10:00', '--direction', 'sent'])).err).toContain(
      'Logged under Ida.',
    );
    const logged = await owner(server.ownerUrl, 'SELECT kind, direction, text, is_private FROM activities');
    expect(logged).toEqual([{ kind: 'call', direction: 'sent', text: 'Talked', is_private: false }]);
    expect(await fulvet(['log', 'call', 'Talked', '--record', 'ida'])).toMatchObject({
      code: 2,
      err: expect.stringContaining('such as deal:7'),
    });
    expect(await fulvet(['log', 'call', 'Talked', '--record', 'deal:999999'])).toMatchObject({
      code: 1,
      err: expect.stringContaining('no such deal'),
    });
  });

  test('tasks are written down, listed and finished', async () => {
    const [contact] = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Ida'`);
    const add = ['tasks', 'add', 'Send the tables'];
    expect(await fulvet([...add, '--record', `contact:${String(contact?.id)}`, '--due', '2030-05-04T10:00'])).toMatchObject({ code: 0 });
    const { out } = await fulvet(['tasks', 'list']);
    expect(out).toMatch(/^\d+\t2030-05-04T10:00\t[^\t]+\tSend the tables\n$/);
    const [number = ''] = out.split('\t');
    expect(await fulvet([...add, '--due', 'soon'])).toMatchObject({ code: 2, err: expect.stringContaining('such as 2026-12-01') });
    expect(await fulvet(['tasks', 'done', 'x'])).toMatchObject({ code: 2 });
    expect((await fulvet(['tasks', 'done', number])).err).toContain('1 task done.');
    expect((await fulvet(['tasks', 'list'])).out).toBe('');
    expect((await fulvet(['tasks', 'list', '--done'])).out).toContain('Send the tables');
  });
});
