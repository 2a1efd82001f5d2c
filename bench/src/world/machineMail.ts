import { readEmail } from '@fulvet/core';
import { compose } from '../../../demo/src/compose';
import { Random } from '../../../demo/src/random';
import { FAMILY, GIVEN } from '../../../demo/src/words';
import { TONGUES } from './machineWords';
import { ABOUT_NOTICES, NOTICES } from './noticeWords';

/** Mail whose class is known, without the headers by which machines say what they are. */
export interface KnownMail {
  kind: 'absence' | 'failure' | 'receipt' | 'newsletter' | 'notice' | 'person';
  raw: string;
  subject: string;
}

export interface MachineFigures {
  /** Found of all, by kind. */
  found: Map<string, { found: number; of: number }>;
  /** Emails of people that were taken for a machine's. */
  alarms: string[];
  people: number;
  missed: string[];
}

const DATES = ['12 May', '12.05.', '2026-05-12', 'Monday', '3 June 2026', 'den 12. mai', '12/05/2026'];
const TOPICS = ['Gauge at pier 4', 'Angebot QH-2041', 'Delivery in May', 'Devis', 'Rückfrage', 'Photos'];

/** Mail of machines and of people, mixed and damaged at random. */
export function machineMail(seed: number, count: number): KnownMail[] {
  const random = new Random(seed * 104_729);
  return Array.from({ length: count }, (_, at) => mailOf(random, at));
}

function mailOf(random: Random, at: number): KnownMail {
  const tongue = random.pick(TONGUES);
  const name = `${random.pick(GIVEN)} ${random.pick(FAMILY)}`;
  const other = `${random.pick(GIVEN)} ${random.pick(FAMILY)} <${at}@kestrel.example>`;
  const address = `${name.toLowerCase().replace(/[^a-z]+/g, '.')}@kestrel.example`;
  const topic = random.pick(TOPICS);
  const fill = (text: string): string =>
    text.replace('SUBJECT', topic).replace('DATE', random.pick(DATES)).replace('PERSON', other).replace('ADDRESS', address);
  const isAnswer = random.chance(0.5);
  const references = isAnswer ? ['first@quillmere.example'] : [];
  const quote =
    isAnswer && random.chance(0.4) ? `\n\nOn Monday Rep wrote:\n> ${random.pick(SENTENCES)}\n> ${random.pick(tongue.unsubscribe)}\n` : '';
  const greeting = random.pick(['Hello,\n\n', 'Guten Tag,\n\n', 'Bonjour,\n\n', '', 'Hei,\n\n']);
  const signed = random.pick([`\n\n${name}`, `\n\n-- \n${name}\nKestrel Works\n+47 22 11 33`, '', `\n\nRegards\n${name}`]);
  const letter = (kind: KnownMail['kind'], subject: string, text: string, from = { name, email: address }): KnownMail => ({
    kind,
    subject,
    raw: compose(
      {
        from,
        to: [{ name: 'Rep', email: 'rep@quillmere.example' }],
        at: Date.UTC(2026, 4, 4) + at * 60_000,
        subject,
        text,
        messageId: `k${at}@kestrel.example`,
        references,
      },
      false,
    ),
  });
  if (random.chance(0.6)) {
    const [subject, said] = random.chance(0.3)
      ? random.pick(ABOUT_NOTICES)
      : [`${isAnswer ? random.pick(['Re: ', 'AW: ', 'SV: ']) : ''}${topic}`, random.pick(random.chance(0.4) ? tongue.people : SENTENCES)];
    // People answer what machines wrote, too.
    const about = random.chance(0.1)
      ? `Re: ${fill(random.pick([...tongue.absentSubject, ...tongue.failedSubject, ...tongue.readSubject]))}`
      : subject;
    const forwarded = random.chance(0.08)
      ? `\n\n-----Original Message-----\nFrom: ${other}\nSent: Monday\nTo: Rep\nSubject: ${topic}\n\n${fill(random.pick(tongue.absent))} ${fill(random.pick(tongue.contact))}\n`
      : '';
    return letter(
      'person',
      about,
      `${greeting}${said}${random.chance(0.5) ? ` ${random.pick(SENTENCES)}` : ''}${signed}${forwarded}${quote}`,
    );
  }
  switch (random.int(0, 4)) {
    case 0: {
      const parts = [random.pick(tongue.absent), ...(random.chance(0.6) ? [random.pick(tongue.contact)] : [])];
      return letter(
        'absence',
        fill(random.pick(tongue.absentSubject)),
        `${greeting}${parts.map(fill).join(random.pick([' ', '\n', '\n\n']))}${signed}${quote}`,
      );
    }
    case 1: {
      const from = random.pick([
        { name: 'Mail Delivery Subsystem', email: 'mailer-daemon@kestrel.example' },
        { name: 'Mail Delivery System', email: 'MAILER-DAEMON@mx.provider.example' },
        { name: 'Postmaster', email: 'postmaster@kestrel.example' },
        { name: '', email: 'bounce-handler@kestrel.example' },
      ]);
      return letter('failure', fill(random.pick(tongue.failedSubject)), `${fill(random.pick(tongue.failed))}${quote}`, from);
    }
    case 2:
      return letter(
        'receipt',
        fill(random.pick(tongue.readSubject)),
        `${fill(random.pick(tongue.read))}${random.chance(0.3) ? signed : ''}`,
      );
    case 3: {
      const from = random.pick([
        { name: 'Kestrel News', email: 'news@kestrel.example' },
        { name: 'Kestrel Works', email: 'hello@kestrel.example' },
        { name, email: address },
      ]);
      const body = [
        random.pick(tongue.news),
        ...Array.from({ length: random.int(2, 5) }, () => `${random.pick(SENTENCES)} https://news.example/${random.int(1, 99)}`),
      ];
      return letter(
        'newsletter',
        random.pick(tongue.news),
        `${body.join('\n\n')}\n\n${random.pick(tongue.unsubscribe)}\nKestrel Works, Quay 4`,
        from,
      );
    }
    default: {
      const [subject, text] = random.pick(NOTICES);
      const from = random.pick([
        { name: 'Kestrel Service', email: 'service@kestrel.example' },
        { name: 'Notifications', email: 'system@kestrel.example' },
        { name: `${name} via Sign`, email: 'sign@sign.example' },
      ]);
      return letter('notice', subject, `${greeting}${fill(text)}`, from);
    }
  }
}

const SENTENCES = [
  'Could you send the drawings again?',
  'The gauges arrived in good order.',
  'Wir melden uns morgen mit den Maßen.',
  'Merci de nous envoyer la facture.',
  'See https://kestrel.example/pumps for the model.',
  'We need two more cables, which price do you have?',
  'Kan dere komme neste uke?',
  'I attach the order.',
] as const;

/** Reads all of it, and counts what was found and what was not. */
export async function machineFigures(mail: readonly KnownMail[]): Promise<MachineFigures> {
  const figures: MachineFigures = { found: new Map(), alarms: [], people: 0, missed: [] };
  for (const { kind, raw, subject } of mail) {
    const facts = await readEmail(new TextEncoder().encode(raw), { arrivedAt: Date.UTC(2026, 4, 5) });
    const isMachine = facts.mailClass !== 'person';
    if (kind === 'person') {
      figures.people += 1;
      if (isMachine) figures.alarms.push(`“${subject}” as ${facts.mailClass}: ${facts.classProof?.value ?? ''}`);
      continue;
    }
    const known = figures.found.get(kind) ?? { found: 0, of: 0 };
    figures.found.set(kind, { found: known.found + (isMachine ? 1 : 0), of: known.of + 1 });
    if (!isMachine) figures.missed.push(`${kind}: “${subject}”`);
  }
  return figures;
}
