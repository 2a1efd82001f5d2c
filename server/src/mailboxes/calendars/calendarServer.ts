import type { EventWindow } from '@fulvet/core';
import type { DAVResponse } from 'tsdav';
import { calendarMultiGet, calendarQuery, createAccount, createObject, deleteObject, fetchCalendars, updateObject } from 'tsdav';
import type { GuardedRequest } from '../../base/network/guardedFetch';
import { guardedFetch } from '../../base/network/guardedFetch';
import type { Network } from '../../base/network/network';
import { CalendarFailure, calendarFailureOf } from './calendarFailure';

/** Where calendars are kept, and how to sign in there. */
export interface CalendarTarget {
  url: string;
  userName: string;
  secret: { password: string } | { accessToken: string };
}

/** A calendar, or a list of to-dos, that a server offers; one that holds both is offered as both. */
export interface OfferedCalendar {
  kind: 'caldav' | 'tasks';
  url: string;
  name: string;
}

/** A calendar object as a server lists it. */
export interface ListedObject {
  href: string;
  etag: string;
}

export interface FetchedObject extends ListedObject {
  text: string;
}

const ANSWER_MS = 30_000;
/** Bytes of one answer. */
const LONGEST = 24 * 1024 * 1024;
const MOST_CALENDARS = 100;

/** Calendars at a CalDAV server (RFC 4791): events are read alone, to-dos are written, too. */
export class CalendarServer {
  private readonly headers: Record<string, string>;
  private readonly fetch: typeof globalThis.fetch;
  /** What the server refused; the library goes on to other addresses after some of it. */
  private refusal: unknown = null;

  constructor(
    network: Network,
    private readonly target: CalendarTarget,
  ) {
    this.headers = { authorization: authorizationOf(target) };
    const fetch = davFetch(network);
    this.fetch = (input, init) =>
      fetch(input, init).catch((error: unknown) => {
        this.refusal = error;
        throw error;
      });
  }

  /** The calendars that hold events or to-dos. @throws {CalendarFailure} */
  async calendars(): Promise<OfferedCalendar[]> {
    return this.asking(async () => {
      const account = await createAccount({
        account: { serverUrl: this.target.url, accountType: 'caldav' },
        headers: this.headers,
        fetch: this.fetch,
      }).catch((error: unknown) => {
        throw error instanceof Error && /cannot find (?:principal|home)/i.test(error.message)
          ? new CalendarFailure('not-a-calendar')
          : error;
      });
      const found = await fetchCalendars({ account, headers: this.headers, fetch: this.fetch });
      return found.slice(0, MOST_CALENDARS).flatMap(({ url, displayName, components = [] }) => {
        const name = typeof displayName === 'string' && displayName !== '' ? displayName.slice(0, 100) : nameOf(url);
        return [
          ...(components.length === 0 || components.includes('VEVENT') ? [{ kind: 'caldav' as const, url, name }] : []),
          ...(components.includes('VTODO') ? [{ kind: 'tasks' as const, url, name }] : []),
        ];
      });
    });
  }

  /** The events of a calendar in a window, without their content. @throws {CalendarFailure} */
  list(url: string, window: EventWindow): Promise<ListedObject[]> {
    return this.listed(url, {
      _attributes: { name: 'VEVENT' },
      'time-range': { _attributes: { start: stamp(window.from), end: stamp(window.to) } },
    });
  }

  /** The to-dos of a list, without their content. @throws {CalendarFailure} */
  listTodos(url: string): Promise<ListedObject[]> {
    return this.listed(url, { _attributes: { name: 'VTODO' } });
  }

  private async listed(url: string, component: object): Promise<ListedObject[]> {
    const answers = await this.asking(() =>
      calendarQuery({
        url,
        props: { 'd:getetag': {} },
        filters: {
          'comp-filter': {
            _attributes: { name: 'VCALENDAR' },
            'comp-filter': component,
          },
        },
        depth: '1',
        headers: this.headers,
        fetch: this.fetch,
      }),
    );
    return objectsOf(answers);
  }

  /** The content of some objects of a calendar; what is gone meanwhile is left out. @throws {CalendarFailure} */
  async fetchObjects(url: string, hrefs: readonly string[]): Promise<FetchedObject[]> {
    const answers = await this.asking(() =>
      calendarMultiGet({
        url,
        props: { 'd:getetag': {}, 'c:calendar-data': {} },
        objectUrls: [...hrefs],
        depth: '1',
        headers: this.headers,
        fetch: this.fetch,
      }),
    );
    const texts = new Map(answers.map((answer) => [answer.href, textOf(answer.props?.['calendarData'])]));
    return objectsOf(answers).flatMap((object) => {
      const text = texts.get(object.href) ?? '';
      return text === '' ? [] : [{ ...object, text }];
    });
  }

  /**
   * Writes an object, unless it was changed meanwhile.
   *
   * @param etag by what it is known; null: a new one
   * @returns by what it is known now, or an empty text where the server does not say; null: it was changed meanwhile, or is there already
   * @throws {CalendarFailure}
   */
  async write(url: string, text: string, etag: string | null): Promise<string | null> {
    const headers = { ...this.headers, 'content-type': 'text/calendar; charset=utf-8' };
    const answer = await this.asking(() =>
      etag === null
        ? createObject({ url, data: text, headers: { ...headers, 'if-none-match': '*' }, fetch: this.fetch })
        : updateObject({ url, data: text, etag, headers, fetch: this.fetch }),
    );
    if (answer.status === 412) return null;
    if (!answer.ok) throw new CalendarFailure('not-found', `It answered ${answer.status} when a task was to be written.`);
    return answer.headers.get('etag') ?? '';
  }

  /** Takes an object out, unless it was changed meanwhile. @returns whether it is gone @throws {CalendarFailure} */
  async remove(url: string, etag: string): Promise<boolean> {
    const answer = await this.asking(() => deleteObject({ url, etag, headers: this.headers, fetch: this.fetch }));
    return answer.ok || answer.status === 404 || answer.status === 410;
  }

  private async asking<T>(ask: () => Promise<T>): Promise<T> {
    try {
      return await ask();
    } catch (error) {
      throw calendarFailureOf(this.refusal ?? error);
    }
  }
}

/**
 * A calendar file (iCalendar) at an address; null where it is the one that was known by the etag.
 *
 * @throws {CalendarFailure}
 */
export async function fetchCalendarFile(network: Network, url: string, etag: string): Promise<{ text: string; etag: string } | null> {
  const fetch = guardedFetch(network, LONGEST);
  const ask = async (address: string, redirections: number): Promise<Response> => {
    demandSecure(network, address);
    const answer = await fetch(address, {
      method: 'GET',
      headers: { accept: 'text/calendar', ...(etag === '' ? {} : { 'if-none-match': etag }) },
      signal: AbortSignal.timeout(ANSWER_MS),
    });
    const next = answer.headers.get('location');
    if (answer.status < 300 || answer.status > 399 || answer.status === 304 || next === null) return answer;
    if (redirections === 0) throw new CalendarFailure('not-found', 'It leads from one address to the next.');
    return ask(new URL(next, address).href, redirections - 1);
  };
  try {
    const answer = await ask(url, 5);
    if (answer.status === 304) return null;
    refuse(answer);
    if (!answer.ok) throw new CalendarFailure('not-found', `It answered ${answer.status}.`);
    return { text: await answer.text(), etag: answer.headers.get('etag') ?? '' };
  } catch (error) {
    throw calendarFailureOf(error);
  }
}

/** @throws {CalendarFailure} where a password or a secret address would go over an open connection */
export function demandSecure(network: Network, address: string): void {
  if (!URL.canParse(address)) throw new CalendarFailure('not-found');
  const { protocol } = new URL(address);
  if (protocol !== 'https:' && !(protocol === 'http:' && network.allowsPrivate)) throw new CalendarFailure('not-secure');
}

function davFetch(network: Network): typeof globalThis.fetch {
  const fetch = guardedFetch(network, LONGEST);
  return async (input, init = {}) => {
    const url = input instanceof Request ? input.url : String(input);
    demandSecure(network, url);
    const headers = Object.fromEntries(new Headers(init.headers).entries());
    const body = init.body as GuardedRequest['body'];
    const answer = await fetch(url, { method: init.method ?? 'GET', headers, body, signal: AbortSignal.timeout(ANSWER_MS) });
    refuse(answer);
    if (init.method === 'REPORT' && (answer.status === 404 || answer.status === 410))
      throw new CalendarFailure('not-found', `It answered ${answer.status}.`);
    const whole = answer.status === 207 ? await demandWhole(answer) : answer;
    // The library reads the address of an answer, which one that was made here does not have.
    Object.defineProperty(whole, 'url', { value: url });
    return whole;
  };
}

/** A list that was cut off reads as a shorter one. @throws {CalendarFailure} */
async function demandWhole(answer: Response): Promise<Response> {
  const text = await answer.text();
  if (!/(?:<\/(?:[\w.-]+:)?multistatus\s*|<(?:[\w.-]+:)?multistatus\b[^<>]*\/)>\s*(?:<!--[^>]*-->\s*)?$/i.test(text.slice(-2000)))
    throw new CalendarFailure('not-a-calendar', 'The answer is no list, or was cut off.');
  return new Response(text, { status: answer.status, headers: answer.headers });
}

/** @throws {CalendarFailure} for answers that no other request would change */
function refuse({ status }: Response): void {
  if (status === 401 || status === 403) throw new CalendarFailure('sign-in-refused', `It answered ${status}.`);
  if (status === 429 || status === 503) throw new CalendarFailure('throttled', `It answered ${status}.`);
  if (status >= 500) throw new CalendarFailure('no-answer', `It answered ${status}.`);
}

/** @throws {CalendarFailure} for what is no list: taken for an empty one, it would cancel all that is to come */
function objectsOf(answers: readonly DAVResponse[]): ListedObject[] {
  // The library has looked at it: a list, and nothing in it.
  if (answers.length === 0) return [];
  const found = answers.flatMap(({ href, props }) => {
    const etag = textOf(props?.['getetag']);
    return href === undefined || etag === '' ? [] : [{ href, etag }];
  });
  if (found.length === 0) throw new CalendarFailure('not-a-calendar');
  return found;
}

function textOf(value: unknown): string {
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return String(value);
  if (value !== null && typeof value === 'object' && '_cdata' in value) return textOf(value._cdata);
  return '';
}

function authorizationOf({ userName, secret }: CalendarTarget): string {
  if ('accessToken' in secret) return `Bearer ${secret.accessToken}`;
  return `Basic ${Buffer.from(`${userName}:${secret.password}`, 'utf8').toString('base64')}`;
}

const stamp = (at: number): string => new Date(at).toISOString().replace(/[-:]|\.\d+/g, '');

const nameOf = (url: string): string =>
  decodeURIComponent(new URL(url).pathname.split('/').filter(Boolean).at(-1) ?? 'Calendar').slice(0, 100);
