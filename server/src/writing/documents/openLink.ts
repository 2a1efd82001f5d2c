import { sql } from 'drizzle-orm';
import express from 'express';
import type { Response } from 'express';
import { z } from 'zod';
import { asDownload } from '../../base/contentDisposition';
import { rowsOf } from '../../base/db/rows';
import { Downloads, inParts } from '../../base/download';
import { openToAnyone, say } from '../../base/plainPage';
import type { PlainPage } from '../../base/plainPage';
import { isRefusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import type { MemberNetworks } from '../measuring/memberNetworks';
import { visitBeside } from '../measuring/visit';
import { proofFor } from './linkAddress';
import { tokenHash } from './links';

const linkRow = z.object({ name: z.string(), size: z.number(), is_open: z.boolean() });
const partRow = z.object({ content: z.instanceof(Buffer).nullable() });

const TOKEN = /^[\w-]{43}$/;
/** Downloads of everyone without a sign-in, in this process. */
const MOST_AT_ONCE = 30;
const ANYONE = { id: 0 };

/**
 * What recipients open: `/d/TOKEN` is the file. A link that has ended or was withdrawn answers 410, an unknown one 404. No one is signed in here, and nothing
 * is noted about who asks; that the file was asked for is, where openings of the email are counted. The file never runs in a browser as a page of this address.
 */
export function documentLinks(services: Services, networks: MemberNetworks): express.Router {
  const router = express.Router();
  const downloads = new Downloads({ atOnce: MOST_AT_ONCE });
  router.use(openToAnyone());
  router.get('/proof/:asked', (req, res, next) => {
    proofFor(services, req.params.asked).then(
      (answer) => void (answer === null ? say(res, 404, UNKNOWN) : res.type('text/plain').send(answer)),
      next,
    );
  });
  router.get('/:token', (req, res, next) => {
    const { token } = req.params;
    visitBeside(services, networks, 'document', token, req);
    send(services, downloads, token, res, req.method === 'HEAD').catch(next);
  });
  router.use((_req, res) => say(res, 404, UNKNOWN));
  return router;
}

async function send(services: Services, downloads: Downloads, token: string, res: Response, isHead: boolean): Promise<void> {
  const hash = tokenHash(token);
  const [link] = TOKEN.test(token)
    ? await rowsOf(services.database.app, linkRow, sql`SELECT o.name, o.size, o.is_open FROM fulvet_open_link(${hash}) o`)
    : [];
  if (!link) return say(res, 404, UNKNOWN);
  if (!link.is_open) return say(res, 410, ENDED);
  res.set({
    'Content-Type': 'application/octet-stream',
    'X-Content-Type-Options': 'nosniff',
    'Content-Disposition': asDownload(link.name),
    'Content-Length': String(link.size),
  });
  if (isHead) return void res.end();
  const refused = await downloads.send(
    ANYONE,
    res,
    inParts((part) => partAt(services, hash, part)),
  );
  if (!isRefusal(refused)) return;
  res.removeHeader('Content-Length');
  res.removeHeader('Content-Disposition');
  res.set('Retry-After', '10');
  say(res, 503, BUSY);
}

/** Each part is asked for by the token, so that a link that is withdrawn in the middle gives no more. */
async function partAt({ database }: Services, hash: string, part: number): Promise<Uint8Array | null> {
  const [row] = await rowsOf(database.app, partRow, sql`SELECT fulvet_link_part(${hash}, ${part}) AS content`);
  return row?.content ?? null;
}

const UNKNOWN: PlainPage = {
  title: 'There is no such link',
  text: 'Check that the whole address was copied, or ask the sender for a new link.',
};
const ENDED: PlainPage = { title: 'This link has ended', text: 'Ask the sender of the email for a new link.' };
const BUSY: PlainPage = { title: 'Too many downloads at once', text: 'Try again in a few seconds.' };
