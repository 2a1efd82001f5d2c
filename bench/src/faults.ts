import { routeTo } from '../../server/src/testing/routeTo';
import type { Destination } from '../../server/src/testing/routeTo';
import { readdirSync, statSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { openServices, verifySources } from '@fulvet/server';
import { canMakeDisks, FullDisk, withDatabaseAway } from '../../server/src/testing/faults';
import { EMPTY } from '../../server/src/testing/testDatabase';
import type { Answer, Crew, PlainEmail, TestServer } from '../../server/src/testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../../server/src/testing/testServer';

/** One fault: what goes wrong, and what came of it. */
interface Fault {
  name: string;
  run: (at: Target) => Promise<{ held: boolean; figure: string }>;
}

interface Target {
  server: TestServer;
  crew: Crew;
}

const REP = 'rep@quillmere.example';
const MOST_STOPPING_MS = 14_000;
const REFUSED = 'refused in words';

const mail = (name: string, count: number, size = 400): PlainEmail[] =>
  Array.from({ length: count }, (_, at) => ({
    id: `${name}${at}`,
    from: 'Ida <ida@harbour.example>',
    to: REP,
    subject: `Gauge ${name}${at}`,
    text: Array.from({ length: size / 10 }, (_unused, word) => `${word * 7919}x${at}`.padEnd(9)).join(' '),
  }));
const asRep = ({ server, crew }: Target, target: Destination): Promise<Answer> => server.call(target, { token: crew.tokens.rep });
const put = ({ server, crew }: Target, name: string, count: number): Promise<Answer['json']> =>
  importMail(server, crew.tokens.rep, REP, { 'a.mbox': mbox(mail(name, count)) });
const stored = async ({ server }: Target, name: string): Promise<number> =>
  Number((await owner(server.ownerUrl, `SELECT count(*)::int AS emails FROM emails WHERE message_id LIKE $1`, [`${name}%`]))[0]?.emails);

async function startOf(server: TestServer, more: { secret?: string; dataFolder?: string }): Promise<string> {
  return openServices({ ...EMPTY, ownerUrl: server.ownerUrl, dataFolder: server.dataFolder, ...more }).then(
    () => 'it started',
    (error: unknown) => (error instanceof Error ? error.message : String(error)),
  );
}

const FAULTS: readonly Fault[] = [
  {
    name: 'the database goes away under load, twenty times',
    run: async (at) => {
      const answers: number[] = [];
      for (let round = 0; round < 20; round += 1) {
        const load = Array.from({ length: 20 }, () => asRep(at, routeTo('listEmails')));
        await withDatabaseAway(at.server.ownerUrl, async () => {
          await Promise.allSettled(load);
          answers.push((await asRep(at, routeTo('listEmails'))).status);
        });
      }
      let after = await asRep(at, routeTo('listEmails'));
      for (let tries = 0; after.status === 503 && tries < 100; tries += 1) {
        await pause(100);
        after = await asRep(at, routeTo('listEmails'));
      }
      const { appPool } = at.server.services.database;
      const kept = appPool.totalCount - appPool.idleCount;
      return {
        held: answers.every((status) => status === 503) && after.status === 200 && kept === 0,
        figure: `answered ${[...new Set(answers)].join(', ')}, then ${after.status}; ${kept} connections left in use`,
      };
    },
  },
  {
    name: 'the thread of the work dies in the middle of an import',
    run: async (at) => {
      const done = put(at, 'middle', 400);
      await pause(300);
      await at.server.workThread?.kill();
      const run = await done;
      const count = await stored(at, 'middle');
      return { held: run.state === 'done' && count === 400, figure: `${run.state}, ${count} of 400 emails, each once` };
    },
  },
  {
    name: 'the server stops while the database is away',
    run: async ({ server }) => {
      const other = await server.again({ worksApart: false });
      const began = performance.now();
      await withDatabaseAway(server.ownerUrl, () =>
        Promise.race([other.stop().catch(() => undefined), pause(MOST_STOPPING_MS, undefined, { ref: false })]),
      );
      const took = performance.now() - began;
      return { held: took < MOST_STOPPING_MS, figure: `it took ${(took / 1000).toFixed(1)} s` };
    },
  },
  {
    name: 'the disk is full during an import',
    run: async () => {
      if (!canMakeDisks()) return { held: true, figure: 'not tried: this machine lets us make no disk' };
      const disk = new FullDisk();
      const server = await startTestServer({ takeUpMs: 200, sourceFolder: disk.blobs });
      const at = { server, crew: await setUpCrew(server) };
      const done = importMail(server, at.crew.tokens.rep, REP, { 'a.mbox': mbox(mail('full', 400, 20_000)) });
      let said = '';
      for (let tries = 0; said === '' && tries < 600; tries += 1) {
        await pause(100);
        const [row] = await owner(server.ownerUrl, `SELECT message FROM work WHERE message LIKE '%disk is full%'`);
        said = String(row?.message ?? '');
      }
      disk.makeRoom();
      const run = await done;
      const count = await stored(at, 'full');
      await server.remove();
      disk.remove();
      return {
        held: said !== '' && run.state === 'done' && count === 400,
        figure: `“${said.slice(0, 40)} …”, then ${run.state}, ${count} of 400`,
      };
    },
  },
  {
    name: 'files of the sources are cut short',
    run: async (at) => {
      await put(at, 'cut', 20);
      const folder = join(at.server.dataFolder, 'blobs');
      for (const name of readdirSync(folder)) truncateSync(join(folder, name), Math.floor(statSync(join(folder, name)).size * 0.9));
      const { database, blobs } = at.server.services;
      const found = await verifySources(database, blobs);
      const again = await put(at, 'later', 3);
      return {
        held: found.damaged.length > 0 && again.state === 'done',
        figure: `${found.damaged.length} of ${found.sources} named as damaged; the next import ${again.state}`,
      };
    },
  },
  {
    name: 'an older version is started on a newer database',
    run: async ({ server }) => {
      const later = Date.now() * 2;
      await owner(server.ownerUrl, `INSERT INTO drizzle.__drizzle_migrations (hash, created_at) VALUES ('later', $1)`, [later]);
      const said = await startOf(server, {});
      await owner(server.ownerUrl, 'DELETE FROM drizzle.__drizzle_migrations WHERE created_at = $1', [later]);
      return { held: /newer version/.test(said), figure: /newer version/.test(said) ? REFUSED : said };
    },
  },
  {
    name: 'another installation is started on the same PostgreSQL',
    run: async (at) => {
      const said = await startOf(at.server, { secret: 'another secret' });
      const { status } = await asRep(at, routeTo('listEmails'));
      const held = /Another installation/.test(said) && status === 200;
      return { held, figure: held ? `${REFUSED}; the first answers ${status}` : said };
    },
  },
];

/** Puts an installation of its own under faults, and prints for each whether it held. */
async function main(): Promise<void> {
  const server = await startTestServer({ worksApart: true, takeUpMs: 200 });
  try {
    const crew = await setUpCrew(server);
    process.stdout.write('\nfaults\n');
    for (const fault of FAULTS) {
      const { held, figure } = await fault.run({ server, crew }).catch((error: unknown) => ({ held: false, figure: String(error) }));
      process.stdout.write(`  ${held ? 'held  ' : 'BROKEN'}  ${fault.name.padEnd(56)} ${figure}\n`);
      if (!held) process.exitCode = 1;
    }
  } finally {
    await server.remove();
  }
}

await main();
