import type { RequestHandler, Response } from 'express';

/** What someone who is not signed in reads in a browser. */
export interface PlainPage {
  title: string;
  text: string;
  /** A button that sends a form to the page itself. */
  button?: string;
}

/** A page without scripts that nothing runs in, and that no one indexes or keeps. */
export function say(res: Response, status: number, { title, text, button }: PlainPage): void {
  const form =
    button === undefined
      ? ''
      : `<form method="post"><button style="font: inherit; padding: 0.4rem 0.9rem; border-radius: 4px; border: 1px solid #1d5c46; background: #14523d; color: #fff">${button}</button></form>`;
  res
    .status(status)
    .type('html')
    .send(
      `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${title}</title>` +
        `<body style="font: 16px/1.5 system-ui, sans-serif; max-width: 34rem; margin: 12vh auto; padding: 0 1.5rem"><h1 style="font-size: 1.3rem">${title}</h1><p>${text}</p>${form}`,
    );
}

/** Headers of what is open to anyone. @param allows what its sandbox allows */
export function openToAnyone(allows: readonly string[] = []): RequestHandler {
  return (_req, res, next) => {
    res.set({
      'Cache-Control': 'private, no-store',
      'Referrer-Policy': 'no-referrer',
      'X-Robots-Tag': 'noindex, nofollow',
      'Content-Security-Policy': `default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; ${['sandbox', ...allows].join(' ')}`,
    });
    next();
  };
}
