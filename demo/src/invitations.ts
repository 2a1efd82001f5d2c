import type { Letter } from './compose';
import type { Mailboxes } from './mailboxes';
import { Random } from './random';
import type { Outsider, World } from './world';
import { person, workingTime } from './writing';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const TOPICS = ['site visit', 'review of the season', 'walk through the offer'];

interface Ids {
  nextId: (domain: string) => string;
}

/** An invitation of an external person to a meeting of an hour, a week later at a full hour. */
export function invitation(who: Outsider, at: number, topic: string, ids: Ids): Letter {
  const startsAt = at - (at % HOUR) + 7 * DAY;
  const stamp = (moment: number): string => `${new Date(moment).toISOString().replace(/[-:]/g, '').slice(0, 15)}Z`;
  const title = `${topic.charAt(0).toUpperCase()}${topic.slice(1)}`;
  const content = `BEGIN:VCALENDAR\nVERSION:2.0\nMETHOD:REQUEST\nPRODID:-//Harbour Calendar//EN\nBEGIN:VEVENT\nUID:${ids.nextId('calendar.example')}\nDTSTART:${stamp(startsAt)}\nDTEND:${stamp(startsAt + HOUR)}\nSUMMARY:${title}\nLOCATION:Harbour office\nORGANIZER:mailto:${who.email}\nATTENDEE:mailto:${who.company.owner.email}\nEND:VEVENT\nEND:VCALENDAR\n`;
  return {
    from: person(who),
    to: [person(who.company.owner)],
    at,
    subject: `Invitation: ${topic}`,
    text: '',
    messageId: ids.nextId(who.email.split('@')[1] ?? ''),
    body: { type: 'text/calendar; charset=utf-8; method=REQUEST', content },
  };
}

/** What is in the calendars of the reps for the days to come. */
export function meetingsAhead(world: World, mailboxes: Mailboxes, ids: Ids, now: number): void {
  const random = new Random(now);
  const reps = new Set(world.companies.filter((company) => company.onRecord && !company.owner.left).map((company) => company.owner));
  for (const rep of reps)
    for (const daysAgo of [4, 6]) {
      const people = world.outsiders.filter((outsider) => outsider.kind === 'contact' && outsider.company.owner === rep);
      if (people.length === 0) continue;
      const who = random.pick(people);
      const topic = `${random.pick(TOPICS)}, ${who.company.name}`;
      mailboxes.deliver(invitation(who, workingTime(now - daysAgo * DAY, random), topic, ids));
    }
}
