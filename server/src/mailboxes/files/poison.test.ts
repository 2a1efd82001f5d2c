import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Answer, Crew, TestServer } from '../../testing/testServer';
import { importMail, mbox, setUpCrew, startTestServer } from '../../testing/testServer';

let server: TestServer;
let crew: Crew;
let run: Answer['json'];

const fine = (id: string): { id: string; from: string; to: string } => ({
  id,
  from: 'Ida <ida@harbour.example>',
  to: 'rep@quillmere.example',
});
const POISON = `From ida@harbour.example Mon May  4 10:00:00 2026\nFrom: Ida <ida@harbour.example>\nMessage-ID: <poison>\nSubject: Gauge\nContent-Type: multipart/mixed; boundary=b\n\n${'--b\n\nx\n'.repeat(600_000)}--b--\n\n`;

beforeAll(async () => {
  server = await startTestServer({ readerLimits: { deadline: 2_500 } });
  crew = await setUpCrew(server);
  run = await importMail(server, crew.tokens.rep, 'rep@quillmere.example', {
    'mail.mbox': mbox([fine('a1')]) + POISON + mbox([fine('a2')]),
  });
});
afterAll(() => server.remove());

const get = (target: Destination): Promise<Answer> => server.call(target, { token: crew.tokens.rep });

describe('a message whose reading exceeds the limits', () => {
  test('stops neither the import nor the messages around it', () => {
    expect(run).toMatchObject({ state: 'done', counts: { new: 3, unreadable: 0 } });
  });

  test('is kept unread for its owner, named with its reason, and complete', async () => {
    const { items } = (await get(routeTo('listImportItems', { id: run.id, problems: 'yes' }))).json;
    expect(items).toMatchObject([{ position: 2, problems: [{ code: 'not-read' }] }]);
    const detail = (await get(routeTo('getEmail', { id: items[0].emailId }))).json;
    expect(detail).toMatchObject({ outcome: 'unfiled', visibility: 'owner', problems: [{ code: 'not-read' }], filings: [] });
    expect(detail.docket[0].because).toEqual(['Reading the email exceeded the limits, so nothing is known of what it says.']);
    expect((await get(routeTo('getEmailSource', { id: items[0].emailId }))).text.length).toBeGreaterThan(400_000);
    expect((await server.call(routeTo('getEmail', { id: items[0].emailId }), { token: crew.tokens.other })).status).toBe(404);
  });

  test('is refused in words where it is to be shown', async () => {
    const { items } = (await get(routeTo('listImportItems', { id: run.id, problems: 'yes' }))).json;
    expect(await get(routeTo('getEmailHtml', { id: items[0].emailId }))).toMatchObject({
      status: 422,
      json: { error: { code: 'not-read' } },
    });
  });
});
