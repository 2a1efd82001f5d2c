import { isbot } from 'isbot';

/** What was asked for: the picture of an email, one of its links, or a document that it links to. */
export type VisitKind = 'opened' | 'clicked' | 'document';

/** Who asked, as far as a request tells. Only `person` counts, and even that is a guess. */
export type VisitClass = 'person' | 'prefetch' | 'scanner' | 'own';

/** What a request tells of who asks. Nothing of it is kept but the class that follows from it. */
export interface VisitRequest {
  method: string;
  userAgent: string;
  /** What the headers `Sec-Purpose`, `Purpose`, `X-Purpose` and `X-Moz` say, one after the other. */
  purpose: string;
  /** From a browser in which a member is signed in, a network of members, or an address range that the workspace listed. */
  isOwn: boolean;
  /** Seconds since the mail server took the email; null: it has not answered yet. */
  secondsSinceSent: number | null;
}

/** A visit as it is kept. */
export interface Visit {
  kind: VisitKind;
  /** Which of the links of the email; any number that tells them apart. */
  link: number;
  /** Milliseconds since 1970. */
  at: number;
  class: VisitClass;
}

/** Mail servers look at what they take before they deliver it; no person reads an email within so many seconds. */
const DELIVERY_SECONDS = 10;
/** A person opens one link after the other; what follows several at once looks for what is behind them. */
const BURST_MS = 2_000;
/** So many requests of one link within a minute are not a person's. */
const MOST_A_MINUTE = 5;

/** Programs that load pictures for others say so, or say no more than the first word that all browsers share (RFC 9110, 10.1.5). */
const LOADS_FOR_OTHERS = /proxy|prefetch|prerender|preview|cache/i;
const SAYS_NOTHING = /^mozilla\/\d+\.\d+$/i;

/**
 * Who probably makes a request, by itself: what comes together with others is seen by `countedVisits`. In doubt it is not a person.
 */
export function visitClass({ method, userAgent, purpose, isOwn, secondsSinceSent }: VisitRequest): VisitClass {
  if (isOwn) return 'own';
  const agent = userAgent.trim();
  if (LOADS_FOR_OTHERS.test(purpose) || LOADS_FOR_OTHERS.test(agent)) return 'prefetch';
  if (method !== 'GET' || agent === '') return 'scanner';
  if (SAYS_NOTHING.test(agent)) return 'prefetch';
  if (isbot(agent)) return 'scanner';
  return secondsSinceSent === null || secondsSinceSent < DELIVERY_SECONDS ? 'scanner' : 'person';
}

/** How often something was probably done by a person, and when. */
export interface Counted {
  times: number;
  first: number;
  last: number;
}

export interface CountedVisits {
  /** By link; a link that no person is likely to have asked for is missing. */
  links: Map<number, Counted>;
  /** Requests that do not count, by who probably made them. */
  notCounted: { prefetch: number; scanner: number; own: number };
}

/**
 * What of the visits of an email is likely a person's. Visits that come together, as only a program makes them, count as those of a scanner, whatever each of
 * them said.
 */
export function countedVisits(visits: readonly Visit[]): CountedVisits {
  const inTurn = [...visits].sort((earlier, later) => earlier.at - later.at);
  const together = programsAmong(inTurn.filter((visit) => visit.class === 'person' || visit.class === 'scanner'));
  const counted: CountedVisits = { links: new Map(), notCounted: { prefetch: 0, scanner: 0, own: 0 } };
  for (const visit of inTurn) {
    const by = together.has(visit) ? 'scanner' : visit.class;
    if (by !== 'person') {
      counted.notCounted[by] += 1;
      continue;
    }
    const so = counted.links.get(visit.link);
    counted.links.set(visit.link, { times: (so?.times ?? 0) + 1, first: so?.first ?? visit.at, last: visit.at });
  }
  return counted;
}

/** Those that follow several links, or one of them again and again, faster than a person does. @param inTurn by time */
function programsAmong(inTurn: readonly Visit[]): Set<Visit> {
  const found = new Set<Visit>();
  inTurn.forEach((visit, at) => {
    const near = (other: Visit): boolean => other.at - visit.at <= BURST_MS;
    const burst = [visit];
    for (let next = at + 1; next < inTurn.length; next += 1) {
      const other = inTurn[next];
      if (!other || !near(other)) break;
      burst.push(other);
    }
    if (new Set(burst.filter(({ kind }) => kind !== 'opened').map(({ link }) => link)).size > 1) for (const it of burst) found.add(it);
    const again = inTurn.slice(at).filter((other) => other.link === visit.link && other.at - visit.at <= 60_000);
    if (again.length > MOST_A_MINUTE) for (const it of again) found.add(it);
  });
  return found;
}

const HREF = /(<a\b[^>]*\shref=")(https?:\/\/[^"]*)(")/gi;

/**
 * A text whose links lead by way of an address that counts, with a picture at its end that does.
 *
 * @param html as a writer may write it: attributes in double quotes
 * @param links what a link is to lead to instead, by its address as it stands in the HTML (escaped); null: it stays
 */
export function measuredHtml(html: string, links: (url: string) => string | null): string {
  return html.replace(HREF, (whole, before: string, url: string, after: string) => {
    const instead = links(url);
    return instead === null ? whole : `${before}${instead}${after}`;
  });
}

/** Addresses of links in a text that can be measured, each once, as they stand in it (escaped). */
export const linksToMeasure = (html: string): string[] => [...new Set([...html.matchAll(HREF)].map(([, , url]) => url ?? ''))];
