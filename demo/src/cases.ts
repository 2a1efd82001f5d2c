import type { Correspondence } from './correspondence';
import { person } from './writing';
import type { Letter } from './compose';
import { compose } from './compose';
import type { Mailboxes } from './mailboxes';
import type { World } from './world';
import { OWN_DOMAIN, PROVIDER } from './world';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;

/** The cases that make filing hard, each as one or a few emails. */
export function specialCases(world: World, mail: Mailboxes, letters: Correspondence, now: number): void {
  const contacts = world.outsiders.filter((outsider) => outsider.kind === 'contact');
  const [nadia, jonas, tobias] = [world.team[2]!, world.team[3]!, world.team[5]!];
  const write = (letter: Omit<Letter, 'messageId'> & { messageId?: string | null }, alsoTo: string[] = []): Letter => {
    const whole: Letter = { messageId: letters.nextId(letter.from.email.split('@')[1] ?? 'x.example'), ...letter };
    mail.deliver(whole, alsoTo);
    return whole;
  };
  const answer = (to: Letter, from: { name: string; email: string }, hours: number, text: string, more: Partial<Letter> = {}): Letter =>
    write({
      from: person(from),
      to: [to.from],
      at: to.at + hours * HOUR,
      subject: `Re: ${to.subject.replace(/^Re: /, '')}`,
      text,
      references: [...(to.references ?? []), to.messageId ?? ''],
      ...more,
    });
  const lawyer = { name: 'Cordula Weiss-Amaro', email: 'c.weiss-amaro@amaro-partners.example' };
  const journalist = { name: 'Piet Lanternfeld', email: 'lanternfeld@shorelines-press.example' };

  // Eight people at four companies: two excluded, one colleague, one unknown.
  const [a, b, c, d] = [contacts[0]!, contacts[5]!, contacts[9]!, contacts[14]!];
  write({
    from: person(a),
    to: [person(nadia), person(b), person(c)],
    cc: [person(d), lawyer, journalist, person(jonas), { name: 'Wenda Ostrow', email: 'wenda.ostrow@tidal-commons.example' }],
    at: now - 41 * DAY,
    subject: 'Round table on the storm gate',
    text:
      'Dear all,\n\nthank you for agreeing to the round table. I suggest the 14th in our canteen, with the charts on the wall and the lawyers near the door.\n\nPlease bring your water-level records of the two January storms.\n\nKind regards\n' +
      a.name +
      '\n',
  });

  // The lawyer in copy on a customer's email.
  const clause = write({
    from: person(b),
    to: [person(b.company.owner)],
    cc: [lawyer],
    at: now - 33 * DAY,
    subject: 'Clause 9 of the frame contract',
    text:
      'Hello,\n\nour counsel, in copy, would like to see liability limited to twice the order value. Could you live with that?\n\nRegards\n' +
      b.name +
      '\n',
  });
  answer(clause, b.company.owner, 20, 'Thank you. Twice the order value is fine for us; please send the final wording.\n', {
    cc: [lawyer],
  });

  // First from a private address at a provider, then from work.
  const lea = contacts.slice(20).find((contact) => contact.company.owner === nadia)!;
  const fromHome = write({
    from: { name: lea.name, email: `${lea.email.split('@')[0] ?? 'x'}@${PROVIDER}` },
    to: [person(lea.company.owner)],
    at: now - 60 * DAY,
    subject: 'Photos of the broken mast',
    text:
      'Good evening,\n\nour mail at work is down, so I write from home. The photos show the mast after the barge hit it.\n\n' +
      lea.name +
      '\n',
  });
  answer(fromHome, lea.company.owner, 14, 'Thank you, that is the flange. A new one is in stock.\n');
  write({
    from: person(lea),
    to: [person(lea.company.owner)],
    at: now - 58 * DAY,
    subject: 'Re: Photos of the broken mast',
    text: 'Mail works again. Please send the flange to the site office.\n\n' + lea.name + '\n',
    references: [fromHome.messageId ?? ''],
  });

  // A contact who changes employer: old mail stays where it was.
  const mover = contacts[25]!;
  const newHome = contacts[40]!.company;
  write({
    from: { name: mover.name, email: `${mover.email.split('@')[0] ?? 'x'}@${newHome.domains[0] ?? ''}` },
    to: [person(mover.company.owner)],
    at: now - 12 * DAY,
    subject: 'New desk, same tides',
    text: `Hello,\n\nsince the first of the month I work for ${newHome.name}. They have gauges older than me, so expect a call.\n\n${mover.name}\n`,
  });

  // A subsidiary under a shared domain, by someone whom no one knows.
  write({
    from: { name: 'Ottoline Brack', email: 'ottoline.brack@northreach.example' },
    to: [person(nadia)],
    at: now - 9 * DAY,
    subject: 'Gauge for the new quay',
    text: 'Good day,\n\nI took over the measuring network last week. Which of your gauges would you put at a quay with a lot of wash from ferries?\n\nOttoline Brack\nNorthreach\n',
  });

  listAndForwards(world, mail, letters, now);
  brokenMail(world, mail, letters, now);

  // A new matter started by answering an old email, and a subject changed within the thread.
  const old = write({
    from: person(c),
    to: [person(tobias)],
    at: now - 150 * DAY,
    subject: 'Bracket drawings',
    text: 'Could you send the drawings of the long bracket as DXF?\n\n' + c.name + '\n',
  });
  answer(old, tobias, 5, 'Here they are.\n', {
    attachments: [{ name: 'bracket-long.dxf', type: 'application/octet-stream', content: '0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n' }],
  });
  write({
    from: person(c),
    to: [person(tobias)],
    at: now - 20 * DAY,
    subject: 'Two more gauges for the lock (was: Bracket drawings)',
    text: 'I take this old email to write to you about something else: we need two more gauges for the lock.\n\n' + c.name + '\n',
    references: [old.messageId ?? ''],
  });

  // A customer writes from a second domain that is not in any record.
  const works = contacts[26]!;
  const [label = ''] = (works.email.split('@')[1] ?? '').split('.');
  const newcomer = { name: 'Ottoline Brack', email: `ottoline.brack@${label}-works.example` };
  ['Drawings of the new weir', 'Where to mount the second gauge', 'Delivery to the works yard'].forEach((subject, at) =>
    write({
      from: newcomer,
      to: [person(works.company.owner)],
      at: now - (34 - 9 * at) * DAY,
      subject,
      text: `Hello,\n\nI have taken over the works side from ${works.name}. ${subject}: could we talk about it this week?\n\nRegards\n${newcomer.name}\n`,
    }),
  );
}

function listAndForwards(world: World, mail: Mailboxes, letters: Correspondence, now: number): void {
  const contacts = world.outsiders.filter((outsider) => outsider.kind === 'contact');
  const [ines, kenji, matteo] = [world.team[6]!, world.team[9]!, world.team[1]!];
  // The same email through a list and directly.
  const poster = contacts[30]!;
  const posted: Letter = {
    from: person(poster),
    to: [{ name: 'Gauge users', email: 'gauge-users@lists.hydro-forum.example' }, person(kenji)],
    at: now - 26 * DAY,
    subject: 'Barnacles in stilling wells',
    text: 'Dear users,\n\nhas anyone tried copper mesh in the well? Ours grew shut in six weeks.\n\n' + poster.name + '\n',
    messageId: letters.nextId('lists.hydro-forum.example'),
  };
  mail.deliver(posted);
  const throughList = compose(
    {
      ...posted,
      subject: '[gauge-users] Barnacles in stilling wells',
      headers: [
        ['List-Id', 'Gauge users <gauge-users.lists.hydro-forum.example>'],
        ['List-Post', '<mailto:gauge-users@lists.hydro-forum.example>'],
        ['Precedence', 'list'],
      ],
    },
    false,
  );
  mail.put(ines.email, throughList, 'gauge-users-bounces@lists.hydro-forum.example', now - 26 * DAY + 60_000);

  // Forwarded inline with a new subject, and forwarded as an attachment.
  const asked: Letter = {
    from: person(contacts[31]!),
    to: [person(ines)],
    at: now - 25 * DAY,
    subject: 'Ice on the radar head',
    text: 'Last winter the radar head had a beard of ice. Is there a heated version?\n\n' + contacts[31]!.name + '\n',
    messageId: letters.nextId(contacts[31]!.email.split('@')[1] ?? ''),
  };
  mail.deliver(asked);
  mail.deliver({
    from: person(ines),
    to: [person(contacts[32]!)],
    at: now - 24 * DAY,
    subject: 'Fwd: Heated heads, an idea for your site too',
    text: `Hello,\n\nperhaps this concerns you as well.\n\n---------- Forwarded message ----------\nFrom: ${asked.from.name}\nDate: ${new Date(asked.at).toUTCString()}\nSubject: ${asked.subject}\nTo: ${ines.name}\n\n${asked.text}`,
    messageId: letters.nextId(OWN_DOMAIN),
    references: [asked.messageId ?? ''],
  });
  mail.deliver({
    from: person(ines),
    to: [person(contacts[33]!)],
    cc: [person(matteo)],
    at: now - 23 * DAY,
    subject: 'The email I spoke of',
    text: 'As promised, attached.\n\nInes\n',
    messageId: letters.nextId(OWN_DOMAIN),
    attachments: [{ name: 'forwarded.eml', type: 'message/rfc822', content: compose(asked, false) }],
  });

  // Marks of many mail programs, and other scripts.
  const marks = contacts[34]!;
  mail.deliver({
    from: person(marks),
    to: [person(ines)],
    at: now - 19 * DAY,
    subject: 'AW: WG: Re[2]: Fwd: Messwerte Schleuse',
    text: 'Anbei die Messwerte der letzten Woche.\n\nMit freundlichen Grüßen\n' + marks.name + '\n',
    messageId: letters.nextId(marks.email.split('@')[1] ?? ''),
  });
  const script = contacts[35]!;
  const japanese: Letter = {
    from: person(script),
    to: [person(kenji)],
    at: now - 18 * DAY,
    subject: '潮位計の見積もりについて',
    text: '守江様\n\n潮位計二台の見積もりをお願いいたします。\n\n' + script.name + '\n',
    messageId: letters.nextId(script.email.split('@')[1] ?? ''),
  };
  mail.deliver(japanese);
  mail.deliver({
    from: person(kenji),
    to: [person(script)],
    at: now - 17 * DAY,
    subject: `Re: ${japanese.subject}`,
    text: 'お見積もりを添付いたします。\n\nKenji\n',
    messageId: letters.nextId(OWN_DOMAIN),
    references: [japanese.messageId ?? ''],
  });
}

function brokenMail(world: World, mail: Mailboxes, letters: Correspondence, now: number): void {
  const contacts = world.outsiders.filter((outsider) => outsider.kind === 'contact');
  const [nadia, freya] = [world.team[2]!, world.team[8]!];
  const item = contacts[50]!;
  const domain = item.email.split('@')[1] ?? '';
  const base: Letter = {
    from: person(item),
    to: [person(nadia)],
    at: now - 16 * DAY,
    subject: 'Clock of the logger',
    text: 'The logger says it is next year. Is that a fault or a promise?\n\n' + item.name + '\n',
    messageId: letters.nextId(domain),
  };
  const put = (source: string | Uint8Array, at: number): void => mail.put(nadia.email, source, item.email, at);
  put(compose({ ...base, at: now + 400 * DAY }, false), now - 16 * DAY);
  put(
    compose({ ...base, subject: 'Without a date', messageId: letters.nextId(domain) }, false).replace(/Date: .*\r\n/, ''),
    now - 15 * DAY,
  );
  put(compose({ ...base, subject: 'Without an id', messageId: null, at: now - 14 * DAY }, false), now - 14 * DAY);
  put(
    `From: ${item.email}\r\nTo: ${nadia.email}\r\nDate: ${new Date(now - 13 * DAY).toUTCString()}\r\nSubject: Photo that broke off\r\nContent-Type: multipart/mixed; boundary="cut\r\n\r\n--cut\r\nContent-Type: text/plain\r\n\r\nHere is the pho`,
    now - 13 * DAY,
  );
  const many = Array.from({ length: 400 }, (_, at) => ({ name: '', email: `delegate${at + 1}@congress-of-gauges.example` }));
  mail.deliver({
    from: { name: 'Congress office', email: 'office@congress-of-gauges.example' },
    to: [...many, person(freya)],
    at: now - 11 * DAY,
    subject: 'Programme of the congress',
    text: 'Dear delegates,\n\nthe programme is out. Coffee is at half past ten.\n',
    messageId: letters.nextId('congress-of-gauges.example'),
  });
  const film = new Uint8Array(40 * 1024 * 1024).map((_, at) => (at * 31 + (at >> 9)) & 0xff);
  mail.deliver({
    from: person(item),
    to: [person(freya)],
    at: now - 10 * DAY,
    subject: 'Film of the wave staff',
    text: 'The file is large, I know. Look at minute two.\n\n' + item.name + '\n',
    messageId: letters.nextId(domain),
    attachments: [{ name: 'wave-staff.mp4', type: 'video/mp4', content: film }],
  });
  // A ticket system that writes in its own name for a person.
  mail.deliver({
    from: { name: `${contacts[51]!.name} via Desk`, email: 'tickets@desk.gullhaven-port.example' },
    to: [person(freya)],
    at: now - 8 * DAY,
    subject: '[Ticket 8841] Antenna of the telemetry box',
    text: 'Please answer above this line.\n\nThe antenna was stolen. Can it be ordered alone?\n',
    messageId: letters.nextId('desk.gullhaven-port.example'),
    headers: [['Reply-To', `${contacts[51]!.name} <${contacts[51]!.email}>`]],
  });
  // Two different emails that share a Message-ID.
  const shared = letters.nextId(domain);
  put(compose({ ...base, subject: 'Copy machine, page one', at: now - 7 * DAY, messageId: shared }, false), now - 7 * DAY);
  put(
    compose({ ...base, subject: 'Copy machine, page two', at: now - 6 * DAY, messageId: shared, text: 'And the second page.\n' }, false),
    now - 6 * DAY,
  );
}
