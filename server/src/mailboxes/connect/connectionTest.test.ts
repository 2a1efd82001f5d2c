import { expect, test } from '@jest/globals';
import { readEmail } from '@fulvet/core';
import { connectionTestId, isConnectionTest } from './connectionTest';

const MINE = 'ada@quillmere.example';
const facts = async (headers: string) =>
  await readEmail(new TextEncoder().encode(`${headers}\r\nSubject: x\r\n\r\nx`), { arrivedAt: Date.now() });

test('the test of a mailbox is known, and nothing else passes for one', async () => {
  const id = connectionTestId(MINE);
  const isTest = async (headers: string): Promise<boolean> => isConnectionTest(await facts(headers), MINE);
  expect(await isTest(`Message-ID: ${id}\r\nFrom: ${MINE}\r\nTo: ${MINE}`)).toBe(true);
  expect(await isTest(`Message-ID: ${id}\r\nFrom: ida@harbour.example\r\nTo: ${MINE}`)).toBe(false);
  expect(await isTest(`Message-ID: ${id}\r\nFrom: ${MINE}\r\nTo: ${MINE}\r\nCc: ida@harbour.example`)).toBe(false);
  expect(await isTest(`Message-ID: <check-1@quillmere.example>\r\nFrom: ${MINE}\r\nTo: ${MINE}`)).toBe(false);
});
