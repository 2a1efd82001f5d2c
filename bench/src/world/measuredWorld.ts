import type { Crew, TestServer } from '../../../server/src/testing/testServer';
import { owner, setUpCrew, startTestServer } from '../../../server/src/testing/testServer';
import { makeMillionWorld, MILLION } from './millionWorld';

/** Sizes of a hundredth, a tenth and all of the emails that are asked for (BENCH_EMAILS, else a million). */
export const SIZES: readonly number[] = ((most) => [most / 100, most / 10, most])(Number(process.env.BENCH_EMAILS ?? MILLION.emails));

/** Measures on a server over a world of so many emails, half of which everyone sees; nothing of it is left. */
export async function measuredWorld<T>(
  emails: number,
  measure: (server: TestServer, crew: Crew) => Promise<T>,
  options: Parameters<typeof startTestServer>[0] = {},
): Promise<T> {
  const server = await startTestServer(options);
  try {
    const crew = await setUpCrew(server);
    const share = emails / MILLION.emails;
    await makeMillionWorld(server.ownerUrl, { emails, accounts: MILLION.accounts * share, contacts: MILLION.contacts * share });
    const run = (statement: string): Promise<unknown> => owner(server.ownerUrl, statement);
    await run(`UPDATE emails SET visibility = 'everyone' WHERE conversation_id % 2 = 1`);
    await run(`UPDATE email_contents SET search = to_tsvector('simple', subject || ' ' || body)`);
    await run('VACUUM ANALYZE');
    return await measure(server, crew);
  } finally {
    await server.remove();
  }
}
