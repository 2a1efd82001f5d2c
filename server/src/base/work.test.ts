import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { owner, setUpCrew, startTestServer } from '../testing/testServer';
import { until } from '../testing/mailboxTools';
import type { Change } from './live/changes';
import { addWork, cancelWork, Cancelled, doWork, putBackWork, unfinishedWork, workAbout, WorkWaits } from './work';
import type { Task, WorkTexts, Work } from './work';

let server: TestServer;
let crew: Crew;
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
}, 60_000);
afterAll(() => server.remove());

const TEXTS: WorkTexts = { cancelled: 'Cancelled.', interrupted: 'Ended twice.', failed: (error) => `Failed: ${String(error)}` };

/** A run over past mail that no queue knows of. @returns the ids of the work and of the run */
async function newRun(): Promise<{ id: number; run: number }> {
  const id = await addWork(server.services.database.worker, 'past run');
  const [row] = await owner(server.ownerUrl, `INSERT INTO decide_runs (work_id, user_id) VALUES ($1, $2) RETURNING id`, [
    id,
    crew.ids.admin,
  ]);
  return { id, run: Number(row?.id) };
}

const doing = (id: number, run: Task['run'], atWork = new Set<number>()): Promise<void> =>
  doWork(server.services.database, atWork, id, { texts: TEXTS, run });

async function stateOf(id: number): Promise<unknown> {
  const [row] = await owner(server.ownerUrl, `SELECT state, message, finished_at IS NOT NULL AS ended FROM work WHERE id = $1`, [id]);
  return row;
}

describe('work in the background', () => {
  test('says how far it is, and is done once', async () => {
    const { id, run } = await newRun();
    let times = 0;
    const doIt = async (work: Work): Promise<void> => {
      times += 1;
      await work.goOn(3, 9, 'writing');
      expect((await server.call(routeTo('getDecideRun', { id: run }), { token: crew.tokens.admin })).json).toMatchObject({
        state: 'running',
        phase: 'writing',
        done: 3,
        total: 9,
      });
      await work.finish(undefined, 9);
    };
    await doing(id, doIt);
    await doing(id, doIt);
    expect(times).toBe(1);
    expect(await stateOf(id)).toEqual({ state: 'done', message: '', ended: true });
  });

  test('is told of to administrators, and of an import to who began it, when it begins, goes on and ends', async () => {
    const { worker } = server.services.database;
    const heard: Change[] = [];
    const deaf = server.services.changes.hear((change) => change.kind === 'progress' && heard.push(change));
    const past = await newRun();
    const imported = await addWork(worker, 'import');
    await owner(
      server.ownerUrl,
      `WITH box AS (INSERT INTO mailboxes (address, owner_id) VALUES ('told@quillmere.example', $2) RETURNING id) INSERT INTO imports (work_id, user_id, mailbox_id) SELECT $1, $2, id FROM box`,
      [imported, crew.ids.rep],
    );
    for (const id of [past.id, imported])
      await doing(id, async (work) => {
        for (let done = 0; done < 50; done += 1) await work.goOn(done, 50);
        await work.finish();
      });
    await until(
      () => Promise.resolve(heard.filter((change) => change.kind === 'progress' && change.of === 'import').length),
      (times) => times >= 3,
    );
    deaf();
    const to = (of: string) => heard.flatMap((change) => (change.kind === 'progress' && change.of === of ? [change.to] : []));
    expect(to('past run')).toContainEqual([crew.ids.admin]);
    expect(new Set(to('past run').flat())).toEqual(new Set([crew.ids.admin]));
    expect(new Set(to('import').flat())).toEqual(new Set([crew.ids.admin, crew.ids.rep]));
    // Fifty steps in no time are told of once, beside the beginning and the end.
    expect(to('past run').length).toBeLessThan(10);
  });

  test('is done by one process at a time', async () => {
    const { id } = await newRun();
    let inside = 0;
    await doing(id, async (work) => {
      inside += 1;
      await doing(id, async () => void (inside += 1));
      await work.finish();
    });
    expect(inside).toBe(1);
  });

  test('asked to end, ends at its next look; before it has begun, at once', async () => {
    const { worker } = server.services.database;
    const begun = await newRun();
    await doing(begun.id, async (work) => {
      expect(await cancelWork(worker, begun.id, { states: ['queued'], message: 'Not begun.' })).toBe(false);
      await expect(work.goOn(1, 2)).rejects.toThrow(Cancelled);
      throw new Cancelled();
    });
    expect(await stateOf(begun.id)).toEqual({ state: 'cancelled', message: 'Cancelled.', ended: true });
    const { id } = await newRun();
    expect(await cancelWork(worker, id, { states: ['open'], message: 'Not begun.' })).toBe(false);
    expect(await cancelWork(worker, id, { states: ['queued'], message: 'Not begun.' })).toBe(true);
    await doing(id, () => Promise.reject(new Error('it was taken up')));
    expect(await stateOf(id)).toEqual({ state: 'cancelled', message: 'Not begun.', ended: true });
  });

  test('that fails says why, and the fault is not swallowed', async () => {
    const { id } = await newRun();
    const atWork = new Set<number>();
    await expect(
      doing(
        id,
        () => {
          expect(atWork.has(id)).toBe(true);
          return Promise.reject(new Error('no such deal'));
        },
        atWork,
      ),
    ).rejects.toThrow('no such deal');
    expect(await stateOf(id)).toEqual({ state: 'failed', message: 'Failed: Error: no such deal', ended: true });
    expect(atWork.size).toBe(0);
  });

  test('that waits is found to be taken up again', async () => {
    const { worker } = server.services.database;
    const { id, run } = await newRun();
    expect((await unfinishedWork(worker, { waiting: true })).map((item) => item.id)).not.toContain(id);
    await expect(doing(id, () => Promise.reject(new WorkWaits('Waits for room.')))).rejects.toThrow(WorkWaits);
    expect(await stateOf(id)).toEqual({ state: 'queued', message: 'Waits for room.', ended: false });
    expect(await unfinishedWork(worker, { waiting: true })).toContainEqual({ id, kind: 'past run', about: run });
    await doing(id, (work) => work.finish());
    expect(await unfinishedWork(worker, { waiting: true })).toEqual([]);
  });

  test('at which processes ended twice is given up; one that stops in order puts it back', async () => {
    const { id } = await newRun();
    const left = (): Promise<unknown> => owner(server.ownerUrl, `UPDATE work SET state = 'running' WHERE id = $1`, [id]);
    for (let stop = 0; stop < 3; stop += 1) {
      await left();
      await putBackWork(server.services.database.worker, [id]);
      expect(await stateOf(id)).toMatchObject({ state: 'queued' });
    }
    await left();
    await expect(doing(id, () => Promise.reject(new WorkWaits('once')))).rejects.toThrow('once');
    await left();
    await doing(id, () => Promise.reject(new Error('it was taken up')));
    expect(await stateOf(id)).toEqual({ state: 'failed', message: 'Ended twice.', ended: true });
  });

  test('that fails, is cancelled or is given up is cleared up before that is told; work that waits is not', async () => {
    const { database } = server.services;
    const stateWhenCleared = async (run: Task['run'], interruptions = 0): Promise<unknown[]> => {
      const { id } = await newRun();
      await owner(
        server.ownerUrl,
        `UPDATE work SET interruptions = $2, state = CASE WHEN $2 > 0 THEN 'running' ELSE state END WHERE id = $1`,
        [id, interruptions],
      );
      const states: unknown[] = [];
      const clearUp = async (): Promise<void> => void states.push(await stateOf(id));
      await doWork(database, new Set(), id, { texts: TEXTS, run, clearUp }).catch(() => undefined);
      return states;
    };
    const once = [{ state: 'running', message: '', ended: false }];
    expect(await stateWhenCleared(() => Promise.reject(new Error('no such deal')))).toEqual(once);
    expect(await stateWhenCleared(() => Promise.reject(new Cancelled()))).toEqual(once);
    expect(await stateWhenCleared((work) => work.finish(), 2)).toEqual(once);
    expect(await stateWhenCleared(() => Promise.reject(new WorkWaits('Waits for room.')))).toEqual([]);
    expect(await stateWhenCleared((work) => work.finish())).toEqual([]);
  });

  test('that cannot be cleared up is noted as failed all the same', async () => {
    const { id } = await newRun();
    const run = (): Promise<void> => Promise.reject(new Error('no such deal'));
    const clearUp = (): Promise<void> => Promise.reject(new Error('the broom broke'));
    await expect(doWork(server.services.database, new Set(), id, { texts: TEXTS, run, clearUp })).rejects.toThrow('the broom broke');
    expect(await stateOf(id)).toMatchObject({ state: 'failed', message: 'Failed: Error: no such deal' });
  });

  test('is seen by those who may see what it is about', async () => {
    const { worker } = server.services.database;
    const import_ = await server.call(routeTo('createImport'), { token: crew.tokens.rep, body: { mailbox: 'rep@quillmere.example' } });
    const id = await workAbout(worker, 'import', import_.json.id);
    const seenBy = (user: number) => server.services.database.as(user, (tx) => workAbout(tx, 'import', import_.json.id));
    expect(id).toEqual(expect.any(Number));
    expect([await seenBy(crew.ids.rep), await seenBy(crew.ids.admin), await seenBy(crew.ids.other)]).toEqual([id, id, null]);
  });
});
