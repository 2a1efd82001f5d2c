import { eventCalendar } from '@fulvet/core';
import type { CalendarEvent, Guest } from '@fulvet/core';
import type { MailStore } from '@fulvet/mailhost';
import { Random } from './random';
import type { Outsider, Teammate, World } from './world';
import { OWN_DOMAIN } from './world';
import { workingTime } from './writing';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const PAST_DAYS = 120;
const AHEAD_DAYS = 40;
const EACH_DAYS = 5;
const TOPICS = [
  'Site visit',
  'Calibration plan',
  'Review of the season',
  'Walk through the offer',
  'Hand-over of the gauges',
  'Service contract',
];
const ANSWERS = ['accepted', 'accepted', 'tentative', 'none', 'declined'] as const;
/** Work goes into this calendar of each member. */
const CALENDAR = 'Work';

/** Puts what the team has in its calendars into those at the provider: meetings with customers, what recurs, and what is no one else's business. */
export function fillCalendars(store: MailStore, world: World, now: number): void {
  const random = new Random(now);
  for (const member of world.team.filter(({ left }) => !left)) {
    const account = store.accounts.get(member.email);
    if (!account) continue;
    const put = (event: Partial<CalendarEvent>, extra: string[] = []): void => {
      const uid = `${random.int(1e8, 1e9)}@calendar.${OWN_DOMAIN}`;
      store.putEvent(account, CALENDAR, `${uid}.ics`, withLines(eventCalendar({ ...NO_EVENT, ...event, uid }, asGuest(member)), extra));
    };
    const people = world.outsiders.filter(({ kind, company }) => kind === 'contact' && company.owner === member);
    for (let day = -PAST_DAYS; people.length > 0 && day < AHEAD_DAYS; day += random.int(1, 2 * EACH_DAYS)) {
      const who = random.pick(people);
      const startsAt = hourOf(now + day * DAY, random);
      const isPast = startsAt < now;
      const others = people.filter(({ company }) => company === who.company);
      const guests = [who, ...(random.chance(0.3) ? [random.pick(others)] : [])];
      put({
        summary: `${random.pick(TOPICS)}, ${who.company.name}`,
        location: random.pick(['Harbour office', 'Video call', 'At the customer', 'Workshop']),
        startsAt,
        endsAt: startsAt + random.pick([HOUR / 2, HOUR, 2 * HOUR]),
        guests: [...new Set(guests)].map((guest) => ({ ...guestOf(guest), answer: isPast ? 'accepted' : random.pick(ANSWERS) })),
      });
    }
    const [regular] = people;
    const begin = hourOf(now - 56 * DAY, random);
    if (regular)
      put(
        {
          summary: `Weekly call, ${regular.company.name}`,
          location: 'Video call',
          startsAt: begin,
          endsAt: begin + HOUR / 2,
          guests: [guestOf(regular)],
        },
        ['RRULE:FREQ=WEEKLY;COUNT=14'],
      );
    put({ summary: 'Dentist', startsAt: begin + 3 * HOUR, endsAt: begin + 4 * HOUR }, ['CLASS:PRIVATE']);
    put({ summary: 'Sales meeting', startsAt: begin + DAY, endsAt: begin + DAY + HOUR, guests: world.team.map(asGuest) }, [
      'RRULE:FREQ=WEEKLY',
    ]);
  }
}

const NO_EVENT: CalendarEvent = {
  uid: '',
  occursAt: null,
  sequence: 0,
  cancelled: false,
  startsAt: 0,
  endsAt: 0,
  wholeDay: false,
  summary: '',
  location: '',
  description: '',
  organizer: null,
  guests: [],
  rooms: [],
  isFree: false,
  isPrivate: false,
};

const asGuest = ({ name, email }: Pick<Teammate, 'name' | 'email'>): Guest => ({
  name,
  address: email,
  domain: email.split('@')[1] ?? '',
  answer: 'accepted',
  optional: false,
});

const guestOf = ({ name, email }: Outsider): Guest => ({ ...asGuest({ name, email }), answer: 'accepted' });

/** A full hour of a working day. */
function hourOf(at: number, random: Random): number {
  const time = workingTime(workingTime(at, random), random);
  return time - (time % HOUR);
}

/** More lines in the event of a calendar object. */
const withLines = (calendar: string, lines: readonly string[]): string =>
  calendar.replace('END:VEVENT', [...lines, 'END:VEVENT'].join('\r\n'));
