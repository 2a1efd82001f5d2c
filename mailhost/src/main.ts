import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { presetOf, startMailhost } from './mailhost';

const HELP = `Longshore Mail, a made-up mail provider on loopback.

  --folder PATH     keep the mailboxes here
  --port NUMBER     first of six ports (default: any free ones)
  --answer SECONDS  people outside answer what is sent to them after so long
  --accounts FILE   JSON list of {address, password, aliases, sharedWith} to make
`;

/** What people outside answer, in turn. */
const ANSWERS = [
  'Thank you, that helps. I will show it to our engineers and come back to you this week.',
  'Thanks for the quick answer. Could you tell me when you can deliver?',
  'Good, that fits. Please call me tomorrow morning about the next step.',
  'Thank you. I have to ask our purchasing first; I expect their answer by Friday.',
];

/** Runs the provider as a program of its own; one line of JSON says where it listens. */
async function main(): Promise<void> {
  const { values } = parseArgs({
    options: {
      folder: { type: 'string' },
      port: { type: 'string' },
      accounts: { type: 'string' },
      answer: { type: 'string' },
      help: { type: 'boolean' },
    },
  });
  if (values.help) {
    process.stdout.write(HELP);
    return;
  }
  const mailhost = await startMailhost({
    ...(values.folder ? { folder: values.folder } : {}),
    ...(values.port ? { firstPort: Number(values.port) } : {}),
  });
  if (values.accounts) {
    const accounts = JSON.parse(readFileSync(values.accounts, 'utf8')) as {
      address: string;
      password: string;
      aliases?: string[];
      sharedWith?: string[];
    }[];
    for (const account of accounts) mailhost.store.addAccount(account.address, account.password, account);
  }
  if (values.answer) {
    const afterMs = Number(values.answer) * 1000;
    mailhost.delivery.scripts = ANSWERS.map((text) => ({ match: '*', text, afterMs }));
  }
  process.stdout.write(
    `${JSON.stringify({ host: mailhost.host, ports: mailhost.ports, webUrl: mailhost.webUrl, preset: presetOf(mailhost) })}\n`,
  );
  const stop = (): void => {
    void mailhost.stop().then(() => process.exit(0));
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  // The program that started this one is gone when its end of the pipe closes.
  if (!process.stdin.isTTY) process.stdin.on('end', stop).resume();
}

main().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
