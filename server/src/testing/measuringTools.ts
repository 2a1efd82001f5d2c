import { beforeAll, beforeEach } from '@jest/globals';
import { as, good, setAddress } from './documentTools';
import { until } from './mailboxTools';
import { routeTo } from './routeTo';
import type { Answer } from './testServer';
import { owner } from './testServer';
import { crew, draft, IDA, mailboxId, outside, sendNow, stage } from './writingStage';

// Emails whose openings are counted, and who asks for what is in them: for the tests of measuring.

const NOTICE = 'We see whether this email was opened. Answer “no counting” and we stop.';
const ON = { isOn: true, notice: NOTICE, keepDays: 90, ownRanges: [], never: [] };
export const BROWSER = 'Mozilla/5.0 (X11; Linux x86_64; rv:128.0) Gecko/20100101 Firefox/128.0';

export const set = (measuring: object): Promise<Answer> =>
  stage.server.call(routeTo('putWorkspace'), { token: crew.tokens.admin, body: { measuring: { ...ON, ...measuring } } });
export const setMailbox = (measures: boolean, token = crew.tokens.rep): Promise<Answer> =>
  as(token, routeTo('putMailboxSettings', { id: mailboxId }), { measures });

beforeAll(async () => {
  const rights = { role: 'rep', teamIds: [] };
  good(
    await as(crew.tokens.admin, routeTo('putWorkspace'), { writingRights: { send: rights, share: rights, bulk: rights, measure: rights } }),
  );
  good(await setAddress(stage.server.url));
  good(await as(crew.tokens.rep, routeTo('putMailboxSettings', { id: mailboxId }), { share: 'rules' }));
});
beforeEach(async () => {
  good(await set({}));
  good(await setMailbox(true));
});
/** As if what was asked for until now had been asked for a while ago. */
export const later = (): Promise<unknown> => owner(stage.server.ownerUrl, `UPDATE visits SET at = at - interval '1 hour'`);

interface Sent {
  emailId: number;
  /** As it reached its recipient: HTML, decoded. */
  html: string;
  picture: string;
  links: string[];
}

export async function send(subject: string, html: string, more: object = {}): Promise<Sent> {
  const { emailId } = await sendNow(await draft({ to: [IDA], subject, html, measured: true, ...more }));
  await owner(stage.server.ownerUrl, `UPDATE measures SET sent_at = sent_at - interval '1 hour' WHERE email_id = $1`, [emailId]);
  const got = htmlOf(outside(subject)[0]?.source ?? '');
  return {
    emailId,
    html: got,
    picture: /src="([^"]*\/o\/[\w-]{43})"/.exec(got)?.[1] ?? '',
    links: [...got.matchAll(/href="([^"]*)"/g)].map(([, url]) => url ?? ''),
  };
}

/** The HTML of a message, whose parts are quoted-printable (RFC 2045, 6.7). */
export const htmlOf = (source: string): string => {
  const decoded = source
    .replace(/=\r?\n/g, '')
    .replace(/(?:=[0-9A-F]{2})+/g, (bytes) => Buffer.from(bytes.replace(/=/g, ''), 'hex').toString('utf8'));
  return /<!DOCTYPE html>.*<\/html>/s.exec(decoded)?.[0] ?? '';
};

export const ask = async (url: string, headers: Record<string, string> = {}, method = 'GET'): Promise<Response> => {
  const answer = await fetch(url, { method, redirect: 'manual', headers: { 'user-agent': BROWSER, ...headers } });
  await answer.arrayBuffer();
  return answer;
};
export const measureOf = async (emailId: number, token = crew.tokens.rep): Promise<Answer['json']> =>
  good(await as(token, routeTo('getEmail', { id: emailId }))).measure;
/** What is counted, once so many requests are noted. */
export const counted = (emailId: number, visits: number): Promise<Answer['json']> =>
  until(
    () => measureOf(emailId),
    ({ opened, links, notCounted }) =>
      [opened, ...links].reduce((sum, { times }) => sum + times, 0) + notCounted.prefetch + notCounted.scanner + notCounted.own === visits,
  );
