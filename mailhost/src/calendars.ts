import { createHash } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Element } from 'xml-js';
import { js2xml, xml2js } from 'xml-js';
import type { FaultPlan } from './faults';
import type { Account, MailStore } from './mailStore';
import type { SignIn } from './signIn';
import { readBody } from './web';

/** The calendar of this name holds to-dos, the others hold events. */
const TASK_LIST = 'Tasks';

const XML = { 'content-type': 'application/xml; charset=utf-8', dav: '1, calendar-access' };

/**
 * The calendars of the provider: CalDAV (RFC 4791) under `/dav/`, and each calendar as a file (iCalendar) at an address that only its owner knows.
 *
 * It answers what programs ask that read calendars and put events into them; a list of a window lists all that the calendar holds.
 */
export class Calendars {
  constructor(
    private readonly store: MailStore,
    private readonly signIn: SignIn,
    private readonly faults: FaultPlan,
  ) {}

  async handle(req: IncomingMessage, res: ServerResponse, url: URL): Promise<boolean> {
    if (url.pathname === '/.well-known/caldav') res.writeHead(301, { location: '/dav/' }).end();
    else if (url.pathname.startsWith('/calendars/')) this.sendFile(res, url);
    else if (url.pathname.startsWith('/dav/')) await this.serve(req, res, url);
    else return false;
    return true;
  }

  /** Where the file of a calendar is. */
  fileAddress(account: Account, calendar: string): string {
    return `/calendars/${account.address}/${encodeURIComponent(calendar)}.ics?key=${keyOf(account, calendar)}`;
  }

  private sendFile(res: ServerResponse, url: URL): void {
    const [, , address = '', file = ''] = url.pathname.split('/');
    const calendar = decodeURIComponent(file.replace(/\.ics$/, ''));
    const account = this.store.accounts.get(address);
    const objects = account?.calendars.get(calendar);
    if (!account || !objects || url.searchParams.get('key') !== keyOf(account, calendar)) return void res.writeHead(404).end();
    const events = [...objects.values()].flatMap((text) => text.match(/BEGIN:(VEVENT|VTIMEZONE)[\s\S]*?END:\1/g) ?? []);
    const text = ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Longshore//EN', ...events, 'END:VCALENDAR', ''].join('\r\n');
    res.writeHead(200, { 'content-type': 'text/calendar; charset=utf-8', etag: etagOf(text) }).end(text);
  }

  private async serve(req: IncomingMessage, res: ServerResponse, url: URL): Promise<void> {
    const account = this.account(req.headers.authorization ?? '');
    if (!account) return void res.writeHead(401, { 'www-authenticate': 'Basic realm="Longshore"' }).end();
    const body = (await readBody(req)).toString('utf8');
    const [, , address, calendar, name] = url.pathname.split('/').map(decodeURIComponent);
    if (address && address !== account.address) return void res.writeHead(403).end();
    const there = calendar && name ? account.calendars.get(calendar)?.get(name) : undefined;
    if ((req.method === 'PUT' || req.method === 'DELETE') && !isWanted(req, there)) return void res.writeHead(412).end();
    if (req.method === 'PROPFIND') this.describe(res, account, { address, calendar, depth: String(req.headers.depth ?? '0') });
    else if (req.method === 'REPORT' && calendar) this.report(res, account, calendar, body);
    else if (req.method === 'PUT' && calendar && name) {
      this.store.putEvent(account, calendar, name, body);
      res.writeHead(201, { etag: etagOf(body) }).end();
    } else if (req.method === 'DELETE' && calendar && name) {
      if (!there) return void res.writeHead(404).end();
      this.store.putEvent(account, calendar, name, null);
      res.writeHead(204).end();
    } else if (req.method === 'GET' && calendar && name) this.sendObject(res, account.calendars.get(calendar)?.get(name));
    else res.writeHead(405).end();
  }

  private account(authorization: string): Account | null {
    const [scheme = '', value = ''] = authorization.split(' ');
    if (this.faults.of(null).refuseSignIn) return null;
    if (scheme === 'Bearer')
      return [...this.store.accounts.keys()].map((address) => this.signIn.byToken(address, value)).find(Boolean) ?? null;
    const [name = '', ...password] = Buffer.from(value, 'base64').toString('utf8').split(':');
    return this.signIn.byPassword(name, password.join(':'));
  }

  private sendObject(res: ServerResponse, text: string | undefined): void {
    if (text === undefined) res.writeHead(404).end();
    else res.writeHead(200, { 'content-type': 'text/calendar; charset=utf-8', etag: etagOf(text) }).end(text);
  }

  private describe(
    res: ServerResponse,
    account: Account,
    { address, calendar, depth }: { address: string | undefined; calendar: string | undefined; depth: string },
  ): void {
    const home = `/dav/${account.address}/`;
    const principal = {
      'd:current-user-principal': href(home),
      'c:calendar-home-set': href(home),
      'd:resourcetype': element([['d:collection', []]]),
    };
    const calendars = [...account.calendars.keys()].filter((name) => !calendar || name === calendar);
    if (calendar && calendars.length === 0) return void res.writeHead(404).end();
    sendMultistatus(res, [
      ...(calendar ? [] : [{ href: address ? home : '/dav/', props: principal }]),
      ...(calendar || (address && depth !== '0') ? calendars : []).map((name) => ({
        href: `${home}${encodeURIComponent(name)}/`,
        props: {
          'd:displayname': text(name),
          'd:resourcetype': element([
            ['d:collection', []],
            ['c:calendar', []],
          ]),
          'c:supported-calendar-component-set': [{ type: 'element', name: 'c:comp', attributes: { name: componentOf(name) } }],
        },
      })),
    ]);
  }

  private report(res: ServerResponse, account: Account, calendar: string, body: string): void {
    const objects = account.calendars.get(calendar);
    if (!objects) return void res.writeHead(404).end();
    const asked = xml2js(body) as Element;
    const root = asked.elements?.find(({ type }) => type === 'element');
    const at = (name: string): string => `/dav/${account.address}/${encodeURIComponent(calendar)}/${encodeURIComponent(name)}`;
    const multiget = root?.name?.endsWith('calendar-multiget') === true;
    const wanted = new Set(multiget ? namedIn(root, 'href').map((found) => textIn(found).trim()) : [...objects.keys()].map(at));
    const withData = namedIn(root, 'calendar-data').length > 0;
    const component = namedIn(root, 'comp-filter')
      .map((filter) => String(filter.attributes?.['name'] ?? ''))
      .find((wantedName) => wantedName !== 'VCALENDAR');
    sendMultistatus(
      res,
      [...objects].flatMap(([name, content]) =>
        wanted.has(at(name)) && (component === undefined || content.includes(`BEGIN:${component}`))
          ? [{ href: at(name), props: { 'd:getetag': text(etagOf(content)), ...(withData ? { 'c:calendar-data': text(content) } : {}) } }]
          : [],
      ),
    );
  }
}

/** A meeting of an hour as a calendar object. */
export function meeting({
  uid,
  at,
  organizer,
  guest,
  summary,
}: {
  uid: string;
  at: number;
  organizer: string;
  guest: string;
  summary: string;
}): string {
  const stamp = (time: number): string => new Date(time).toISOString().replace(/[-:]|\.\d+/g, '');
  return [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Longshore//EN',
    'BEGIN:VEVENT',
    `UID:${uid}`,
    `DTSTAMP:${stamp(at)}`,
    `DTSTART:${stamp(at)}`,
    `DTEND:${stamp(at + 3_600_000)}`,
    `SUMMARY:${summary.replace(/[\\;,]/g, '\\$&').replace(/[\r\n]+/g, ' ')}`,
    `ORGANIZER:mailto:${organizer}`,
    `ATTENDEE;PARTSTAT=NEEDS-ACTION:mailto:${guest.replace(/[\r\n]+/g, '')}`,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n');
}

const componentOf = (calendar: string): string => (calendar === TASK_LIST ? 'VTODO' : 'VEVENT');

/** Whether an object is as whoever writes it says (RFC 9110, 13.1). */
function isWanted({ headers }: IncomingMessage, there: string | undefined): boolean {
  const match = headers['if-match'];
  if (match !== undefined && (there === undefined || (match !== '*' && match !== etagOf(there)))) return false;
  return headers['if-none-match'] !== '*' || there === undefined;
}

const etagOf = (content: string): string => `"${createHash('sha256').update(content).digest('hex').slice(0, 24)}"`;

const keyOf = (account: Account, calendar: string): string =>
  createHash('sha256').update(`${account.address} ${account.password} ${calendar}`).digest('hex').slice(0, 32);

type Content = Element[];

const text = (value: string): Content => [{ type: 'text', text: value }];

const element = (children: [string, Content][]): Content => children.map(([name, elements]) => ({ type: 'element', name, elements }));

const href = (address: string): Content => element([['d:href', text(address)]]);

function sendMultistatus(res: ServerResponse, responses: readonly { href: string; props: Record<string, Content> }[]): void {
  const answer = {
    declaration: { attributes: { version: '1.0', encoding: 'utf-8' } },
    elements: [
      {
        type: 'element',
        name: 'd:multistatus',
        attributes: { 'xmlns:d': 'DAV:', 'xmlns:c': 'urn:ietf:params:xml:ns:caldav' },
        elements: responses.flatMap(({ href: address, props }) =>
          element([
            [
              'd:response',
              [
                ...href(address),
                ...element([
                  [
                    'd:propstat',
                    element([
                      ['d:prop', element(Object.entries(props))],
                      ['d:status', text('HTTP/1.1 200 OK')],
                    ]),
                  ],
                ]),
              ],
            ],
          ]),
        ),
      },
    ],
  };
  res.writeHead(207, XML).end(js2xml(answer));
}

/** The elements of a name in any namespace, however deep. */
function namedIn(root: Element | undefined, name: string): Element[] {
  return (root?.elements ?? []).flatMap((child) => [...(child.name?.split(':').at(-1) === name ? [child] : []), ...namedIn(child, name)]);
}

function textIn(parent: Element): string {
  return (parent.elements ?? []).map((child) => String(child.text ?? '')).join('');
}
