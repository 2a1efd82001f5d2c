import type { ChildProcess } from 'node:child_process';
import { setTimeout as pause } from 'node:timers/promises';
import { connect, inStep, MAIL_PASSWORD } from '../../server/src/testing/mailboxTools';
import { routeTo } from '../../server/src/testing/routeTo';
import { owner, setUpCrew } from '../../server/src/testing/testServer';
import { openWorkerStage } from '../../server/src/testing/workerCrew';
import type { WorkerStage } from '../../server/src/testing/workerCrew';
import { report } from './measure';

const REP = 'rep@quillmere.example';
const IDA = 'ida@harbour.example';
const KILLS = 200;
const PROCESSES = 2;
/** Emails that are due at any time. */
const DUE = 6;
const LONGEST_LIFE_MS = 900;

/** Worker processes killed without warning at 200 random points while emails are handed over; then each email is looked for where it should be. */
async function main(): Promise<void> {
  const stage = await openWorkerStage();
  try {
    const crew = await setUpCrew(stage.server);
    const first = await stage.addWorker();
    for (const address of [REP, IDA]) stage.mailhost.store.addAccount(address, MAIL_PASSWORD);
    await inStep(stage, crew.tokens.rep, await connect(stage, { token: crew.tokens.rep, address: REP }));
    const workers: ChildProcess[] = [first];
    while (workers.length < PROCESSES) workers.push(await stage.addWorker());
    let written = 0;
    let kills = 0;
    const start = performance.now();
    while (kills < KILLS) {
      for (let due = await open(stage); due < DUE; due += 1) await write(stage, crew.tokens.rep, (written += 1));
      await pause(Math.random() * LONGEST_LIFE_MS);
      const [oldest] = workers.splice(0, 1);
      if (oldest) await stage.kill(oldest);
      kills += 1;
      await owner(stage.server.ownerUrl, `UPDATE outgoing SET lease_until = now() - interval '1 second' WHERE lease_until IS NOT NULL`);
      workers.push(await stage.addWorker());
      if (kills % 20 === 0) process.stderr.write(`${kills} of ${KILLS} kills, ${written} emails\n`);
    }
    await settled(stage);
    const found = await compare(stage, written);
    report('emails handed over by processes that are killed', [
      ['emails', String(written)],
      ['killed (SIGKILL)', `${KILLS} times, ${PROCESSES} processes`],
      ['time, restarts included', `${((performance.now() - start) / 1000).toFixed(0)} s`],
      ['sent, unclear', `${found.sent}, ${found.unclear}`],
      [
        'sent twice, lost, copies too many, copies missing',
        `${found.twice}, ${found.lost}, ${found.copiedTwice}, ${found.uncopied} (goal 0, 0, 0, 0)`,
      ],
    ]);
    if (found.twice + found.lost + found.copiedTwice + found.uncopied > 0) process.exitCode = 1;
  } finally {
    await stage.close();
  }
}

async function open(stage: WorkerStage): Promise<number> {
  const [row] = await owner(stage.server.ownerUrl, `SELECT count(*)::int AS count FROM outgoing WHERE state IN ('due', 'handing over')`);
  return Number(row?.count);
}

async function write({ server }: WorkerStage, token: string, number: number): Promise<void> {
  const { json: begun } = await server.call(routeTo('startOutgoing'), { token, body: { to: [{ address: IDA }] } });
  const { revision, mailboxId, to, filing } = begun;
  const body = { revision, mailboxId, to, subject: subjectOf(number), html: '<p>Hello</p>', filing };
  const { json: saved } = await server.call(routeTo('saveOutgoing', { id: begun.id }), { token, body });
  await server.call(routeTo('sendOutgoing', { id: begun.id }), { token, body: { revision: saved.revision } });
  await owner(server.ownerUrl, 'UPDATE outgoing SET due_at = now() WHERE id = $1', [begun.id]);
}

const subjectOf = (number: number): string => `Number ${number}.`;

/** Waits until nothing is under way. */
async function settled(stage: WorkerStage): Promise<void> {
  for (;;) {
    const [row] = await owner(
      stage.server.ownerUrl,
      `SELECT count(*)::int AS count FROM outgoing WHERE state IN ('due', 'handing over') OR (state = 'sent' AND source IS NOT NULL)`,
    );
    if (Number(row?.count) === 0) return;
    await owner(
      stage.server.ownerUrl,
      `UPDATE outgoing SET lease_until = least(lease_until, now() + interval '5 seconds'), due_at = least(due_at, now()) WHERE state <> 'draft'`,
    );
    await pause(1000);
  }
}

const subjectsIn = ({ mailhost }: WorkerStage, address: string, path: string): (string | undefined)[] =>
  (mailhost.store.accounts.get(address)?.folders.get(path)?.messages ?? []).map(
    ({ raw }) => /^Subject: (.*)\r$/m.exec(raw.toString())?.[1],
  );

async function compare(stage: WorkerStage, written: number) {
  const rows = await owner(
    stage.server.ownerUrl,
    'SELECT subject, state, (SELECT count(*)::int FROM emails e WHERE e.message_id = o.message_id) AS emails FROM outgoing o',
  );
  const received = subjectsIn(stage, IDA, 'INBOX');
  const copies = subjectsIn(stage, REP, 'Sent');
  const found = { sent: 0, unclear: 0, twice: 0, lost: written - rows.length, copiedTwice: 0, uncopied: 0 };
  for (const { subject, state, emails } of rows) {
    const times = received.filter((it) => it === subject).length;
    const copied = copies.filter((it) => it === subject).length;
    if (state === 'sent') found.sent += 1;
    if (state === 'unclear') found.unclear += 1;
    if (times > 1 || Number(emails) > 1) found.twice += 1;
    // What its writer is asked about is not lost; what is called sent has to be there, and filed.
    if (state === 'sent' ? times === 0 || Number(emails) === 0 : state !== 'unclear') found.lost += 1;
    if (copied > 1) found.copiedTwice += 1;
    if (state === 'sent' && copied === 0) found.uncopied += 1;
  }
  return found;
}

await main();
