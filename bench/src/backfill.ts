import { planDemo } from '@fulvet/demo';
import { startMailhost } from '@fulvet/mailhost';
import { ImapFlow } from 'imapflow';
import { connect, mailOptions, MAIL_PASSWORD, until } from '../../server/src/testing/mailboxTools';
import { changeRulebook, owner, setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { report } from './measure';

const ADDRESS = 'rep@quillmere.example';

/** Reading a mailbox back (fetch, parse, identify, thread, decide, store, index) against fetching the same mail with the client library alone. */
async function main(): Promise<void> {
  const mailhost = await startMailhost();
  const account = mailhost.store.addAccount(ADDRESS, MAIL_PASSWORD);
  const inbox = account.folders.get('INBOX');
  const seen = new Set<string>();
  for (const { list } of planDemo({ now: Date.now(), seed: 7 }).mailboxes.messages()) {
    for (const { raw, at } of list) {
      const source = Buffer.from(raw);
      const id = /^Message-ID:.*$/im.exec(source.toString('latin1', 0, 4000))?.[0] ?? '';
      if (seen.has(id) || source.length > 1_000_000 || !inbox) continue;
      seen.add(id);
      mailhost.store.append(account, inbox, source, { at: new Date(at) });
    }
  }
  const messages = inbox?.messages.length ?? 0;

  const aloneStart = performance.now();
  const bytes = await fetchAlone(mailhost.host, mailhost.ports.imaps, mailhost.certificate);
  const aloneSeconds = (performance.now() - aloneStart) / 1000;

  const server = await startTestServer(await mailOptions(mailhost));
  try {
    const crew = await setUpCrew(server);
    await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      Object.assign(rulebook.create, { people: 'contact', after: 'weWrote', accounts: true });
    });
    const stage = { mailhost, server, close: () => Promise.resolve() };
    const start = performance.now();
    await connect(stage, { token: crew.tokens.rep, address: ADDRESS, settings: { readSinceDays: null } });
    const connectedAt = performance.now();
    await until(
      async () =>
        (
          await owner(
            server.ownerUrl,
            'SELECT (SELECT count(*)::int FROM folder_messages) AS read, (SELECT count(*)::int FROM emails WHERE decided_at IS NULL) AS undecided',
          )
        )[0],
      (row) => Number(row?.read) >= messages && row?.undecided === 0,
      600_000,
    );
    const seconds = (performance.now() - connectedAt) / 1000;
    report('reading a mailbox back', [
      ['messages', `${messages}, ${(bytes / 1e6).toFixed(1)} MB`],
      ['client library alone', `${aloneSeconds.toFixed(2)} s, ${Math.round(messages / aloneSeconds)} a second`],
      ['checks before', `${((connectedAt - start) / 1000).toFixed(1)} s`],
      ['backfill, all decided', `${seconds.toFixed(2)} s, ${Math.round(messages / seconds)} a second`],
      ['ratio of speeds', (aloneSeconds / seconds).toFixed(2)],
    ]);
  } finally {
    await server.remove();
    await mailhost.stop();
  }
}

async function fetchAlone(servername: string, port: number, certificate: string): Promise<number> {
  const client = new ImapFlow({
    host: '127.0.0.1',
    servername,
    port,
    secure: true,
    auth: { user: ADDRESS, pass: MAIL_PASSWORD },
    tls: { ca: [certificate] },
    logger: false,
  });
  await client.connect();
  await client.mailboxOpen('INBOX', { readOnly: true });
  let bytes = 0;
  for await (const message of client.fetch('1:*', { uid: true, source: true, internalDate: true })) bytes += message.source?.length ?? 0;
  await client.logout();
  return bytes;
}

await main();
