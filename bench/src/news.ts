import { routeTo } from '../../server/src/testing/routeTo';
import { startMailhost } from '@fulvet/mailhost';
import { ImapFlow } from 'imapflow';
import { createTransport } from 'nodemailer';
import { openStage, seen, signInAs } from '../../e2e/src/browser';
import { connect, inStep, mailOptions, MAIL_PASSWORD, putMail, until } from '../../server/src/testing/mailboxTools';
import { changeRulebook, PASSWORD, setUpCrew } from '../../server/src/testing/testServer';
import { report } from './measure';

const ROUNDS = 15;
const rep = 'rep@quillmere.example';
const ida = 'Ida Brack <ida@harbour.example>';

/**
 * From the moment at which the mail server has taken an email until its text stands on an open history, against the time that the
 * mail client library alone needs to hear of an email and fetch it. Goal: under one second.
 */
async function main(): Promise<void> {
  const mailhost = await startMailhost();
  const stage = await openStage({ demo: false, server: await mailOptions(mailhost) });
  try {
    const { server, page } = stage;
    const crew = await setUpCrew(server);
    await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
    });
    mailhost.store.addAccount(rep, MAIL_PASSWORD);
    putMail(mailhost, rep, { id: 'first@harbour.example', from: ida, to: rep, subject: 'First', date: new Date().toUTCString() });
    const id = await connect({ mailhost, server, close: stage.close }, { token: crew.tokens.rep, address: rep });
    await inStep({ mailhost, server, close: stage.close }, crew.tokens.rep, id);
    const contacts = await until(
      async () => (await server.call(routeTo('listRecords', { kind: 'contact' }), { token: crew.tokens.rep })).json,
      (found) => found.total === 1,
    );
    await signInAs(page, server.url, rep, PASSWORD);
    await page.goto(`${server.url}/histories/contact/${contacts.records[0].id}`);
    await seen(page, 'First');
    const received: number[] = [];
    const sent: number[] = [];
    const smtp = createTransport({
      host: '127.0.0.1',
      port: mailhost.ports.submissions,
      secure: true,
      auth: { user: rep, pass: MAIL_PASSWORD },
      tls: { servername: mailhost.host, ca: [mailhost.certificate] },
    });
    for (let round = 0; round < ROUNDS; round += 1) {
      const came = `Received number ${round}.`;
      mailhost.delivery.write({ from: ida, to: rep, subject: 'First', text: came });
      received.push(await untilSeen(page, came));
      const went = `Sent number ${round}.`;
      await smtp.sendMail({ from: rep, to: ida, subject: 'First', text: went });
      sent.push(await untilSeen(page, went));
    }
    smtp.close();
    const alone = await clientAlone(mailhost);
    report('a new email until it stands on an open history', [
      ['client library alone', `${median(alone)} ms (median of ${ROUNDS}; hears of it and fetches it)`],
      ['received, until visible', `${median(received)} ms median, ${Math.max(...received)} ms at most (goal under 1000)`],
      ['sent by SMTP, until visible', `${median(sent)} ms median, ${Math.max(...sent)} ms at most (goal under 1000)`],
      ['ratio to the client alone', (median(received) / Math.max(1, median(alone))).toFixed(1)],
    ]);
  } finally {
    await stage.close();
    await mailhost.stop();
  }
}

async function untilSeen(page: Parameters<typeof seen>[0], words: string): Promise<number> {
  const start = performance.now();
  await page.waitForFunction((text) => document.body.innerText.includes(text), { polling: 'mutation', timeout: 30_000 }, words);
  return Math.round(performance.now() - start);
}

async function clientAlone(mailhost: Awaited<ReturnType<typeof startMailhost>>): Promise<number[]> {
  const client = new ImapFlow({
    host: '127.0.0.1',
    servername: mailhost.host,
    port: mailhost.ports.imaps,
    secure: true,
    auth: { user: rep, pass: MAIL_PASSWORD },
    tls: { ca: [mailhost.certificate] },
    logger: false,
    disableAutoIdle: true,
  });
  await client.connect();
  await client.mailboxOpen('INBOX', { readOnly: true });
  const times: number[] = [];
  for (let round = 0; round < ROUNDS; round += 1) {
    const told = new Promise<void>((resolve) => client.once('exists', () => resolve()));
    const idling = client.idle();
    const start = performance.now();
    mailhost.delivery.write({ from: ida, to: rep, subject: 'Alone', text: `Number ${round}` });
    await told;
    await client.fetchOne('*', { source: true });
    times.push(Math.round(performance.now() - start));
    await idling;
  }
  client.close();
  return times;
}

function median(values: readonly number[]): number {
  return [...values].sort((first, second) => first - second)[Math.floor(values.length / 2)] ?? 0;
}

await main();
