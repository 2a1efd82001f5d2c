import { routeTo } from './routeTo';
import type { Destination } from './routeTo';
import { afterAll, beforeAll, expect } from '@jest/globals';
import { startMailhost } from '@fulvet/mailhost';
import type { Mailhost } from '@fulvet/mailhost';
import type { Answer, Crew, TestServer } from './testServer';
import { PASSWORD, setUpCrew, startTestServer } from './testServer';

// An installation and an identity provider, for the tests of signing in.

type Who = keyof Crew['tokens'];
export let server: TestServer;
export let crew: Crew;
export let provider: Mailhost;
export const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
export const good = (answer: Answer): Answer['json'] => {
  expect([answer.status, answer.text.slice(0, 300)]).toEqual([200, expect.anything()]);
  return answer.json;
};
beforeAll(async () => {
  server = await startTestServer({ privateHosts: true, attemptLimits: { account: 200, ip: 10_000 } });
  crew = await setUpCrew(server);
  provider = await startMailhost();
  provider.store.addAccount('rep@quillmere.example', 'at the provider');
  provider.store.addAccount('stranger@elsewhere.example', 'at the provider');
}, 60_000);
afterAll(async () => {
  await provider.stop();
  await server.remove();
});
/** A browser that keeps its cookie and the session's secret. */
export class Visitor {
  cookie = '';
  csrf = '';

  async call(target: Destination, body?: unknown): Promise<Answer> {
    const answer = await server.call(target, {
      ...(body === undefined ? {} : { body }),
      headers: { cookie: this.cookie, 'x-fulvet-csrf': this.csrf, 'user-agent': 'Test browser' },
    });
    const set = answer.headers.get('set-cookie')?.split(';')[0];
    if (set) this.cookie = set;
    if (answer.json?.csrf) this.csrf = answer.json.csrf;
    return answer;
  }

  signIn(email: string, password = PASSWORD): Promise<Answer> {
    return this.call(routeTo('signIn'), { email, password });
  }
}
