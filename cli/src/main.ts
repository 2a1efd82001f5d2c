import { listBookings, listMeetingKinds, offerTimes } from './bookingCommands';
import { connectCalendars, followCalendar, listCalendars, removeCalendar, subscribeCalendar } from './calendarCommands';
import type { Role } from '@fulvet/contract';
import { Command, CommanderError, Option } from 'commander';
import { Client, CommandError } from './client';
import type { DocumentToAdd } from './documentCommands';
import { addDocument, listDocuments } from './documentCommands';
import { logContact } from './logCommand';
import type { ContactToLog } from './logCommand';
import { addSeries, listRuns, listSeries, startSeries, stopRun } from './seriesCommands';
import type { SeriesToStart } from './seriesCommands';
import { addTask, exportTasks, finishTasks, listTasks } from './taskCommands';
import type { TaskToAdd } from './taskCommands';
import { exportTemplateFiles, exportTemplates, importTemplates } from './templateCommands';
import type { EmailToSend } from './writingCommands';
import { sendEmail } from './writingCommands';
import { connectMailboxes, listMailboxes, rotateKeys } from './mailboxCommands';
import { decide, exportTo, importMail, importRecords, rulebookPut, rulebookShow, listSteps, undoStep, setUp, teamAdd } from './commands';

const KINDS = { accounts: 'account', contacts: 'contact', leads: 'lead', deals: 'deal' } as const;
type KindName = keyof typeof KINDS;

/**
 * Runs one command.
 *
 * @param args words after the program's name
 * @returns exit code: 0 done, 1 failed, 2 wrong usage
 */
export async function main(args: readonly string[]): Promise<number> {
  const url = (process.env.FULVET_URL || 'http://127.0.0.1:4460').replace(/\/+$/, '');
  const client = new Client(url, process.env.FULVET_TOKEN || null);
  const program = commands(client);
  try {
    await program.parseAsync(args, { from: 'user' });
    return 0;
  } catch (error) {
    // The reader of our output has seen enough, as in “export … | head”.
    if (error instanceof Error && 'code' in error && error.code === 'EPIPE') return 0;
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    if (error instanceof CommandError) {
      process.stderr.write(`fulvet: ${error.message}\n`);
      return error.exitCode;
    }
    process.stderr.write(`fulvet: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
    return 1;
  }
}

function commands(client: Client): Command {
  const program = new Command('fulvet')
    .description(
      'Speaks to a running Fulvet server.\n\nEnvironment: FULVET_URL (default http://127.0.0.1:4460), FULVET_TOKEN (an access token, made under Team or by setup).',
    )
    .exitOverride()
    .configureOutput({ outputError: (text, write) => write(text.replace(/^error: /, 'fulvet: ')) })
    .showHelpAfterError('(--help tells how)');
  const sub = (parent: Command, name: string, description: string): Command =>
    parent.command(name).description(description).exitOverride().copyInheritedSettings(parent);

  sub(program, 'setup', 'First set-up of an empty installation. Prints an access token, and nothing else, on standard output.')
    .requiredOption('--admin <address>', 'address of the first administrator')
    .requiredOption('--password-file <file>', 'file whose first line is the password; - for standard input')
    .requiredOption('--own-domain <domain...>', 'domains whose people are colleagues')
    .option('--name <name>', 'name of the administrator')
    .option('--workspace <name>', 'name of the workspace', 'Our team')
    .action((options: { admin: string; passwordFile: string; ownDomain: string[]; name?: string; workspace: string }) =>
      setUp(client, options),
    );

  const team = sub(program, 'team', 'The team');
  sub(team, 'add', 'Add a member')
    .argument('<address>')
    .requiredOption('--name <name>', 'name')
    .addOption(new Option('--role <role>', 'what they may do').choices(['admin', 'manager', 'rep', 'viewer']).makeOptionMandatory())
    .option('--password-file <file>', 'file whose first line is the password; - for standard input')
    .action((address: string, options: { name: string; role: Role; passwordFile?: string }) => teamAdd(client, address, options));

  const mailboxes = sub(program, 'mailbox', 'Mailboxes that are read from their servers');
  sub(mailboxes, 'list', 'How each is doing, one a line').action(() => listMailboxes(client));
  sub(mailboxes, 'connect', 'Connect the mailboxes of a CSV, try each, and start those that pass every check')
    .argument('<file>', 'CSV with address and password, and if wanted owner, kind, user, aliases, imap_host …; - for standard input')
    .action((file: string) => connectMailboxes(client, file));
  sub(mailboxes, 'rotate-keys', 'Seal all stored passwords and tokens with a new key').action(() => rotateKeys(client));

  const calendars = sub(program, 'calendar', 'Calendars of the owner of a mailbox');
  sub(calendars, 'list', 'Those of a mailbox, one a line')
    .argument('<mailbox>')
    .action((address: string) => listCalendars(client, address));
  sub(calendars, 'connect', 'Find the calendars at a server (CalDAV); none is read before it is followed')
    .argument('<mailbox>')
    .argument('<address>', 'of the server')
    .option('--user <name>', 'name to sign in with; without it that of the mailbox')
    .option('--password-file <file>', 'file whose first line is the password; - for standard input; without it that of the mailbox')
    .action((mailbox: string, address: string, options: { user?: string; passwordFile?: string }) =>
      connectCalendars(client, mailbox, address, options),
    );
  sub(calendars, 'subscribe', 'Follow a calendar file (iCalendar)')
    .argument('<mailbox>')
    .argument('<name>', 'what it is called here')
    .argument('<file>', 'file whose first line is the address of the calendar; - for standard input')
    .action((mailbox: string, name: string, file: string) => subscribeCalendar(client, mailbox, name, file));
  sub(calendars, 'follow', 'Read a calendar from now on')
    .argument('<number>')
    .action((number: string) => followCalendar(client, number, true));
  sub(calendars, 'leave', 'Read a calendar no longer; its events stay')
    .argument('<number>')
    .action((number: string) => followCalendar(client, number, false));
  sub(calendars, 'remove', 'Forget a calendar and its address; its events stay')
    .argument('<number>')
    .action((number: string) => removeCalendar(client, number));

  const times = sub(program, 'times', 'Times that guests can book');
  sub(times, 'list', 'Kinds of meeting, one a line').action(() => listMeetingKinds(client));
  sub(times, 'offer', 'Make a link by which one guest books a time')
    .argument('<number>', 'of the kind of meeting')
    .option('--times <count>', 'so many free times, too', '0')
    .option('--days <count>', 'so long the link works', '30')
    .action((number: string, options: { times: string; days: string }) =>
      offerTimes(client, number, { times: Number(options.times), days: Number(options.days) }),
    );
  sub(times, 'booked', 'What guests booked with you, one a line').action(() => listBookings(client));

  const imports = sub(program, 'import', 'Import mail or records');
  sub(
    imports,
    'mail',
    'Import mail: mbox or eml files, folders of them, .gz and .zip. Waits until everything is decided and prints outcome.',
  )
    .argument('<file...>')
    .requiredOption('--mailbox <address>', 'the member who owns the mailbox')
    .action((files: string[], options: { mailbox: string }) => importMail(client, files, options.mailbox));
  sub(imports, 'records', 'Import accounts, contacts, leads or deals from CSV, or contacts from vCard')
    .addArgument(kindArgument(imports))
    .argument('<file>', 'CSV or vCard file; - for standard input')
    .option('--preview', 'only say what it would do')
    .action((kind: KindName, file: string, options: { preview?: boolean }) =>
      importRecords(client, KINDS[kind], file, options.preview === true),
    );

  const exports = sub(program, 'export', 'Export to standard output');
  sub(exports, 'decisions', 'Every decision, one a line (JSON Lines)').action(() => exportTo(client, '/export/decisions'));
  sub(exports, 'mail', 'The emails that you may read (mbox)').action(() => exportTo(client, '/export/mail'));
  sub(exports, 'records', 'Records (CSV)')
    .addArgument(kindArgument(exports))
    .option('--vcard', 'contacts as vCard')
    .action((kind: KindName, options: { vcard?: boolean }) =>
      exportTo(client, `/records/${KINDS[kind]}/export${options.vcard ? '?format=vcard' : ''}`),
    );

  const rulebook = sub(program, 'rulebook', 'The rulebook in force');
  sub(rulebook, 'show', 'Print it as JSON').action(() => rulebookShow(client));
  sub(rulebook, 'put', 'Put a rulebook in force; past mail stays as decided until “decide”')
    .argument('<file>', 'JSON file; - for standard input')
    .action((file: string) => rulebookPut(client, file));
  sub(program, 'undo', 'List your steps that can be undone, or undo one')
    .argument('[step]', 'number of the step; without it they are listed')
    .action((step?: string) => (step === undefined ? listSteps(client) : undoStep(client, Number(step))));
  sub(program, 'send', 'Send an email from your mailbox and print its number. Take it back within 10 seconds under Outgoing.')
    .argument('<file>', 'its text, as plain text or .html; - for standard input')
    .requiredOption('--to <address...>', 'recipients')
    .requiredOption('--subject <text>', 'subject')
    .option('--cc <address...>', 'recipients of a copy')
    .option('--bcc <address...>', 'recipients of a blind copy')
    .option('--from <address>', 'address to send from, where you have several: a mailbox, or a proven alias')
    .option('--record <record>', 'record that it is filed under, as deal:7')
    .option('--no-file', 'do not file it')
    .option('--attach <path...>', 'files to attach')
    .option('--document <title...>', 'documents to attach, in their versions in force')
    .option('--agree', 'agree, once, to copies of sent emails in the sent folder of a mailbox that was connected long ago', false)
    .option('--at <time>', 'when to send it, as 2026-05-04T08:00:00Z')
    .action((file: string, options: EmailToSend) => sendEmail(client, file, options));
  const templates = sub(program, 'templates', 'Templates, text blocks and articles for emails');
  sub(templates, 'export', 'Print those that you find as JSON')
    .option('--eml <folder>', 'write each as an email (.eml) into a folder instead')
    .action((options: { eml?: string }) =>
      options.eml === undefined ? exportTemplates(client) : exportTemplateFiles(client, options.eml),
    );
  sub(templates, 'import', 'Keep those of a file; your own with the same kind, language and name are changed')
    .argument('<file>', 'JSON file, or an email (.eml); - for JSON from standard input')
    .action((file: string) => importTemplates(client, file));
  const documents = sub(program, 'documents', 'Files that are sent along or linked to');
  sub(documents, 'list', 'Print them: title, topic, version in force, file').action(() => listDocuments(client));
  sub(documents, 'add', 'Add a file: a new version where you have a document of that title, else a new document')
    .argument('<file>', 'the file')
    .option('--title <title>', 'its title; the name of the file without its ending where left out')
    .option('--topic <topic>', 'its topic')
    .option('--language <tag>', 'its language, as de or en-GB')
    .option('--valid-until <day>', 'its last day, as 2027-12-31')
    .option('--shared', 'everyone finds it', false)
    .action((file: string, options: DocumentToAdd) => addDocument(client, file, options));
  const series = sub(program, 'series', 'Emails and tasks that follow each other until someone answers');
  sub(series, 'list', 'Print them: name, steps, with how many people they go on').action(() => listSeries(client));
  sub(series, 'add', 'Keep the one of a file; your own of that name is changed')
    .argument('<file>', 'JSON file with a name and steps, each with a template or a task; - for standard input')
    .option('--shared', 'everyone finds it', false)
    .action((file: string, options: { shared: boolean }) => addSeries(client, file, options));
  sub(series, 'start', 'Begin one with someone and print its number')
    .argument('<name>', 'name of the series')
    .requiredOption('--to <address>', 'their address')
    .option('--name <name>', 'how they are called', '')
    .option('--deal <id>', 'deal that its emails are filed under')
    .option('--zone <zone>', 'by whose clock days are counted, as Europe/Berlin; this machine’s where left out')
    .option('--unseen', 'send each email without showing it first', false)
    .option('--instead', 'stop your series with them that goes on', false)
    .action((name: string, options: SeriesToStart) => startSeries(client, name, options));
  sub(series, 'runs', 'Print yours that go on: number, name, address, step, state').action(() => listRuns(client));
  sub(series, 'stop', 'Send nothing more to someone')
    .argument('<number>', 'as “fulvet series runs” prints it')
    .action((number: string) => stopRun(client, number));
  sub(program, 'log', 'Write down contact that is not mail, for the history of records')
    .addArgument(program.createArgument('<kind>', 'what it was').choices(['call', 'meeting', 'letter', 'message', 'note']))
    .argument('<text>', 'what was said')
    .requiredOption('--record <record...>', 'records that it is about, as contact:12 or deal:7')
    .option('--at <time>', 'when it was, as 2026-12-01T14:30; now where left out')
    .addOption(
      program
        .createOption('--direction <direction>', 'whether we reached them, or they us')
        .choices(['both', 'sent', 'received'])
        .default('both'),
    )
    .option('--private', 'only you see it', false)
    .action((kind: string, text: string, options: ContactToLog) => logContact(client, kind, text, options));
  const tasks = sub(program, 'tasks', 'What you and your colleagues are to do');
  sub(tasks, 'list', 'Print tasks: number, when they are due or were done, who does them, what it is')
    .option('--all', 'those of colleagues, too, as far as you see them', false)
    .option('--done', 'what is done', false)
    .action((options: { all: boolean; done: boolean }) => listTasks(client, options));
  sub(tasks, 'add', 'Write down what you are to do')
    .argument('<text>', 'what it is')
    .option('--due <day>', 'such as 2026-12-01, or 2026-12-01T14:30')
    .option('--record <record...>', 'records that it is about, as contact:12 or deal:7', [])
    .option('--private', 'only you see it', false)
    .action((text: string, options: TaskToAdd) => addTask(client, text, options));
  sub(tasks, 'done', 'Say that tasks are done')
    .argument('<number...>', 'their numbers')
    .action((numbers: string[]) => finishTasks(client, numbers));
  sub(tasks, 'export', 'Print what you are to do as iCalendar (VTODO)').action(() => exportTasks(client));
  sub(program, 'decide', 'Decide all mail again by the rulebook in force; waits for the end').action(() => decide(client));
  return program;
}

function kindArgument(command: Command): ReturnType<Command['createArgument']> {
  return command.createArgument('<kind>', 'what they are').choices(Object.keys(KINDS));
}
