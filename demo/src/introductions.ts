import { person } from './writing';
import type { Letter } from './compose';
import type { Mailboxes } from './mailboxes';
import type { World } from './world';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;

/** Met at a fair: name, company as in the domain, and whether an answer came, a reminder was sent, or neither. */
const MET: readonly [name: string, domain: string, then: 'answers' | 'reminded' | 'silence'][] = [
  ['Dagny Corvane', 'pelworth-marina.example', 'answers'],
  ['Malik Orsolic', 'cinder-quay-slipways.example', 'silence'],
  ['Odile Elvetham', 'gannet-ness-ferries.example', 'reminded'],
  ['Bela Ulvang', 'ravelstrand-locks.example', 'silence'],
  ['Xenia Duskfell', 'kelpness-oysters.example', 'answers'],
  ['Halvar Bluntisham', 'dunemark-drainage.example', 'reminded'],
  ['Zora Ansgarden', 'birchwater-dam.example', 'silence'],
  ['Quirin Lachance', 'thrale-island-pilots.example', 'silence'],
  ['Gita Meridew', 'farrowmere-fisheries.example', 'answers'],
  ['Vasil Quistrup', 'osprey-narrows-tugs.example', 'reminded'],
  ['Suvi Tideswell', 'merrowgate-barrage.example', 'silence'],
  ['Anselm Balogh', 'isenfleet-salvage.example', 'reminded'],
  ['Lamia Winterbourne-Osei', 'amberlock-canals.example', 'answers'],
  ['Wanja Grimsund', 'whitstrand-buoys.example', 'silence'],
];

const OPENINGS = [
  'it was good to meet you at our stand in Vardholm. You asked what a tide gauge costs to keep for ten years, not only to buy.',
  'you left your card beside the wave staff in Vardholm and said that your old staff is read by eye, twice a day.',
  'in Vardholm you told me about the logger that drowned. We build ours so that the memory survives that.',
  'thank you for the half hour at the fair in Vardholm. As promised, the sheet on radar gauges over moving water.',
];

/** People whom we wrote to after a fair; few of them answered. They are on no record, and no one else writes to them. */
export function introductions(world: World, mail: Mailboxes, now: number): void {
  const team = world.team.filter((teammate) => teammate.role === 'rep' && !teammate.left);
  MET.forEach(([name, domain, then], at) => {
    const us = person(team[at % team.length]!);
    const them = { name, email: `${name.split(' ')[0]?.toLowerCase() ?? ''}@${domain}` };
    const first = now - (75 - at) * DAY - at * HOUR;
    const id = (part: string, of: string): string => `fair-${at + 1}-${part}@${of.split('@')[1] ?? ''}`;
    const write = (letter: Omit<Letter, 'messageId'>, messageId: string): void => mail.deliver({ ...letter, messageId });
    const subject = `After the fair in Vardholm: ${domain.split('.')[0]?.replace(/-/g, ' ') ?? ''}`;
    const greeting = `Hello ${name.split(' ')[0] ?? ''},\n\n`;
    const opening = { messageId: id('first', us.email), references: [id('first', us.email)] };
    write(
      {
        from: us,
        to: [them],
        at: first,
        subject,
        text: `${greeting}${OPENINGS[at % OPENINGS.length] ?? ''}\n\nMay I call you next week?\n\nKind regards\n${us.name}\n`,
      },
      opening.messageId,
    );
    if (then === 'reminded')
      write(
        {
          from: us,
          to: [them],
          at: first + 9 * DAY,
          subject: `Re: ${subject}`,
          text: `${greeting}a short reminder of my email. Should someone else at your house have it?\n\nKind regards\n${us.name}\n`,
          references: opening.references,
        },
        id('reminder', us.email),
      );
    if (then === 'answers')
      write(
        {
          from: them,
          to: [us],
          at: first + 2 * DAY + 3 * HOUR,
          subject: `Re: ${subject}`,
          text: `Good morning,\n\nyes, Tuesday would do. We have two sites, and the one behind the sluice is the harder one.\n\n${name}\n`,
          references: opening.references,
        },
        id('answer', them.email),
      );
  });
}
