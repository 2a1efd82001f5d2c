import { addressKey, isKnownZone } from '@fulvet/core';
import express from 'express';
import type { Request, Response } from 'express';
import { randomBytes } from 'node:crypto';
import { openToAnyone, say } from '../../base/plainPage';
import type { Services } from '../../base/services';
import { escapedText } from '../cleanHtml';
import type { Wish } from './book';
import { book, cancelByGuest } from './book';
import type { FoundLink } from './foundLink';
import { linkFor } from './foundLink';
import { freeTimesOf } from './queries';
import { clockIn, dayIn, spanIn } from './spanIn';

const TOKEN = /^[\w-]{43}$/;
const MINUTE = 60_000;
const ZONES = Intl.supportedValuesOf('timeZone');
/** Days that are shown at once. */
const SHOWN_DAYS = 14;

const UNKNOWN = {
  title: 'This link leads nowhere',
  text: 'It was not copied as a whole, or it has ended. Ask whoever sent it for another.',
};
const ENDED = { title: 'This link has ended', text: 'No times are offered by it any longer. Ask whoever sent it for another.' };
const TOO_OFTEN = { title: 'This was tried too often', text: 'Write to whoever sent you the link.' };

const TAKEN = 'This time is taken by now. Choose another.';

/**
 * Where guests book a time, move it and cancel it: `/m/TOKEN`. The page says what kind of meeting it is, with which members, and when they are free; nothing else.
 * It works without scripts; one script asks for the page in the zone of the guest's clock.
 */
export function bookingPage(services: Services): express.Router {
  const { database } = services;
  const router = express.Router();
  router.use(openToAnyone(['allow-forms', 'allow-scripts']));
  router.use(express.urlencoded({ extended: false, limit: '16kb', parameterLimit: 10 }));
  const found = async (req: Request, res: Response, show: (link: FoundLink, token: string) => Promise<void>): Promise<void> => {
    const token = String(req.params.token);
    const link = TOKEN.test(token) ? await linkFor(database.worker, token) : null;
    if (!link) return say(res, 404, UNKNOWN);
    return show(link, token);
  };
  router.get('/:token', (req, res, next) => {
    found(req, res, async (link) => {
      const zone = zoneOf(req.query.zone);
      const { booking, kind } = link;
      if (booking?.state === 'booked' && req.query.move === undefined) return send(res, 200, zone, bookedPage(link, zone ?? booking.zone));
      if (link.hasEnded || !kind) return say(res, 410, ENDED);
      const at = Number(req.query.at) * MINUTE;
      const free = await freeTimesOf(database.worker, kind, booking?.id ?? null);
      const inZone = zone ?? booking?.zone ?? kind.times.zone;
      const chosen = free.find((time) => time.at === at);
      const said = req.query.at === undefined ? '' : TAKEN;
      send(res, 200, zone, chosen ? formPage(link, inZone, chosen.at) : timesPage(link, inZone, free, req, said));
    }).catch(next);
  });
  router.post('/:token', (req, res, next) => {
    found(req, res, async (link, token) => {
      const form = (req.body ?? {}) as Record<string, unknown>;
      if (form.cancel !== undefined) {
        await cancelByGuest(services, token);
        return say(res, 200, {
          title: 'The meeting is cancelled',
          text: 'Everyone who takes part gets an email. Follow the link again to book another time.',
        });
      }
      const wish = wishOf(form, link);
      if (typeof wish === 'string')
        return send(res, 422, null, formPage(link, String(form.zone ?? 'UTC'), Number(form.at) * MINUTE, wish, form));
      const booked = await book(services, token, wish);
      if (booked.is === 'booked') return send(res, 200, null, bookedPage({ ...link, booking: booked.booking }, wish.zone));
      if (booked.is === 'too often') return say(res, 429, TOO_OFTEN);
      if (booked.is !== 'taken' || !link.kind) return say(res, 410, ENDED);
      const free = await freeTimesOf(database.worker, link.kind, link.booking?.id ?? null);
      send(res, 409, null, timesPage(link, wish.zone, free, req, TAKEN));
    }).catch(next);
  });
  router.use((_req, res) => say(res, 404, UNKNOWN));
  return router;
}

const zoneOf = (value: unknown): string | null => (typeof value === 'string' && value.length < 100 && isKnownZone(value) ? value : null);

/** What a guest wrote; a sentence where something is wrong with it. */
function wishOf(form: Record<string, unknown>, { booking }: FoundLink): Wish | string {
  const text = (name: string, most: number): string =>
    typeof form[name] === 'string' ? form[name].replace(/\s+/g, ' ').trim().slice(0, most) : '';
  const at = Math.floor(Number(form.at)) * MINUTE;
  const zone = zoneOf(form.zone) ?? 'UTC';
  // Who booked moves it; no one else takes it over.
  if (booking) return { at, zone, name: booking.guest.name, address: booking.guest.address, note: booking.note };
  const name = text('name', 100);
  const address = addressKey(text('address', 320), { tagsTellApart: true })?.key ?? '';
  if (!Number.isFinite(at)) return 'Choose a time.';
  if (name === '') return 'Write your name.';
  if (!/^[^\s@<>,;]+@[^\s@<>,;]+\.[^\s@<>,;]+$/.test(address))
    return 'Write your email address, such as name@company.example: the invitation is sent there.';
  return { at, zone, name, address, note: text('note', 1000) };
}

const NAV =
  'style="display: inline-block; margin: 0 0.4rem 0.4rem 0; padding: 0.35rem 0.8rem; border: 1px solid #1d5c46; border-radius: 4px; color: #14523d; text-decoration: none"';
const BUTTON =
  'style="font: inherit; padding: 0.4rem 0.9rem; border-radius: 4px; border: 1px solid #1d5c46; background: #14523d; color: #fff"';
const FIELD =
  'style="font: inherit; width: 100%; box-sizing: border-box; padding: 0.35rem 0.5rem; border: 1px solid #7d8a84; border-radius: 4px"';

function headOf({ kind }: FoundLink): string {
  if (!kind) return '';
  const { name, about, place, times, members, needs } = kind;
  const who = members.map((member) => member.name).join(needs === 'all' ? ' and ' : ' or ');
  const facts = [`${times.minutes} minutes with ${who}`, place].filter(Boolean).map(escapedText).join('. ');
  return `<h1 style="font-size: 1.3rem">${escapedText(name)}</h1><p>${facts}.</p>${about ? `<p>${escapedText(about).replace(/\n/g, '<br>')}</p>` : ''}`;
}

/** The days with free times, some at once. */
function timesPage(link: FoundLink, zone: string, free: readonly { at: number }[], req: Request, said = ''): string {
  const days = new Map<string, number[]>();
  for (const { at } of free) days.set(dayIn(zone, at), [...(days.get(dayIn(zone, at)) ?? []), at]);
  const first = Math.max(0, Math.floor(Number(req.query.day)) || 0);
  const shown = [...days].slice(first, first + SHOWN_DAYS);
  const move = link.booking?.state === 'booked' ? '&amp;move=1' : '';
  const query = (more: string): string => `?zone=${encodeURIComponent(zone)}${move}${more}`;
  const list = shown
    .map(
      ([day, times]) =>
        `<h2 style="font-size: 1rem; margin: 1.2rem 0 0.4rem">${day}</h2>${times
          .map((at) => `<a ${NAV} href="${query(`&amp;at=${Math.floor(at / MINUTE)}`)}">${clockIn(zone, at)}</a>`)
          .join('')}`,
    )
    .join('');
  const page = (day: number, words: string): string => `<a href="${query(`&amp;day=${day}`)}">${words}</a> `;
  const pages = `${first > 0 ? page(Math.max(0, first - SHOWN_DAYS), 'Earlier days') : ''}${first + SHOWN_DAYS < days.size ? page(first + SHOWN_DAYS, 'Later days') : ''}`;
  return `${headOf(link)}${said ? `<p role="alert"><b>${said}</b></p>` : ''}${zoneForm(zone, move !== '')}${list || '<p>No time is free now. Look again later, or write to whoever sent you the link.</p>'}<p>${pages}</p>`;
}

function zoneForm(zone: string, moves: boolean): string {
  const options = ZONES.map((name) => `<option${name === zone ? ' selected' : ''}>${name}</option>`);
  const known = options.some((option) => option.includes(' selected')) ? '' : `<option selected>${escapedText(zone)}</option>`;
  return `<form method="get"><label>Times in <select name="zone" style="font: inherit">${known}${options.join('')}</select></label>${moves ? '<input type="hidden" name="move" value="1">' : ''} <button style="font: inherit">Show</button></form>`;
}

function formPage(link: FoundLink, zoneName: string, at: number, said = '', before: Record<string, unknown> = {}): string {
  const zone = zoneOf(zoneName) ?? 'UTC';
  const minutes = link.kind?.times.minutes ?? 0;
  const value = (name: string): string => escapedText(typeof before[name] === 'string' ? before[name].slice(0, 1000) : '');
  const when = Number.isFinite(at) ? `<p><b>${spanIn(zone, at, at + minutes * MINUTE)}</b></p>` : '';
  const who = link.booking
    ? ''
    : `<p><label>Your name<input ${FIELD} name="name" required maxlength="100" autocomplete="name" value="${value('name')}"></label></p>
      <p><label>Your email address<input ${FIELD} name="address" type="email" required maxlength="320" autocomplete="email" value="${value('address')}"></label></p>
      <p><label>What it is about, if you like<textarea ${FIELD} name="note" rows="3" maxlength="1000">${value('note')}</textarea></label></p>`;
  const back = `?zone=${encodeURIComponent(zone)}${link.booking ? '&amp;move=1' : ''}`;
  return `${headOf(link)}${said ? `<p role="alert"><b>${said}</b></p>` : ''}${when}<form method="post"><input type="hidden" name="at" value="${Number.isFinite(at) ? Math.floor(at / MINUTE) : ''}"><input type="hidden" name="zone" value="${escapedText(zone)}">${who}
    <p><button ${BUTTON}>${link.booking?.state === 'booked' ? 'Move the meeting' : 'Book'}</button> <a href="${back}">Other times</a></p></form>`;
}

function bookedPage(link: FoundLink, zone: string): string {
  const { booking } = link;
  if (!booking) return '';
  const change = link.hasEnded || !link.kind ? '' : `<a ${NAV} href="?move=1&amp;zone=${encodeURIComponent(zone)}">Choose another time</a>`;
  return `${headOf(link)}<p role="status"><b>Booked: ${spanIn(zone, booking.from, booking.to)}</b></p><p>The invitation is sent by email. With this link you can move or cancel the meeting.</p>
    <form method="post">${change}<button name="cancel" value="1" style="font: inherit; padding: 0.35rem 0.8rem; border: 1px solid #9c2f1f; border-radius: 4px; background: #fff; color: #9c2f1f">Cancel the meeting</button></form>`;
}

/** @param zone as the page was asked for; where it was asked for in none, the script asks again in that of the guest's clock */
function send(res: Response, status: number, zone: string | null, body: string): void {
  const nonce = randomBytes(16).toString('base64');
  const asksAgain = status === 200 && zone === null && res.req.method === 'GET';
  const policy = String(res.getHeader('Content-Security-Policy'));
  res.set('Content-Security-Policy', asksAgain ? `script-src 'nonce-${nonce}'; ${policy}` : policy);
  const script = asksAgain
    ? `<script nonce="${nonce}">const zone = Intl.DateTimeFormat().resolvedOptions().timeZone; if (zone) { const here = new URL(location.href); here.searchParams.set('zone', zone); location.replace(here.href); }</script>`
    : '';
  res
    .status(status)
    .type('html')
    .send(
      `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Book a meeting</title>` +
        `<body style="font: 16px/1.5 system-ui, sans-serif; max-width: 38rem; margin: 8vh auto; padding: 0 1.5rem; color: #1c2528">${body}${script}`,
    );
}
