import type { IncomingMessage, ServerResponse } from 'node:http';

const LIMIT = 2 * 1024 * 1024;

/** The body of a request. */
export async function readBody(req: IncomingMessage): Promise<Buffer> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of req as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > LIMIT) throw new Error('The request is too large.');
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

/** The body of a form or of JSON with plain values. */
export async function readForm(req: IncomingMessage): Promise<URLSearchParams> {
  const text = (await readBody(req)).toString('utf8');
  if (!req.headers['content-type']?.includes('json')) return new URLSearchParams(text);
  const values = JSON.parse(text === '' ? '{}' : text) as Record<string, unknown>;
  return new URLSearchParams(
    Object.entries(values).map(([name, value]) => [name, typeof value === 'string' ? value : JSON.stringify(value)]),
  );
}

export function html(text: string): string {
  return text.replace(/[&<>"']/g, (value) => `&#${value.charCodeAt(0)};`);
}

export function redirect(res: ServerResponse, to: string): void {
  res.writeHead(303, { location: to }).end();
}

export function sendJson(res: ServerResponse, status: number, value: unknown): void {
  res.writeHead(status, { 'content-type': 'application/json', 'cache-control': 'no-store' }).end(JSON.stringify(value));
}

const STYLE = `body{font:15px/1.5 system-ui,sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;background:#eef2f4;color:#1c2528}
h1{font-size:1.4rem}h2{font-size:1.05rem;margin-top:2rem}label{display:block;margin:.5rem 0}input,textarea,select{font:inherit;width:100%;box-sizing:border-box;padding:.3rem .45rem;border:1px solid #9fb0b6;border-radius:3px;background:#fff}
input[type=checkbox]{width:auto}button{font:inherit;padding:.35rem .9rem;border:1px solid #27505c;background:#27505c;color:#fff;border-radius:3px;cursor:pointer}
article{background:#fff;border:1px solid #ccd6da;border-radius:4px;padding:.6rem .9rem;margin:.6rem 0}pre{white-space:pre-wrap;font:13px/1.45 ui-monospace,monospace;max-height:9rem;overflow:auto}[role=alert]{color:#9c2f1f}.row{display:grid;grid-template-columns:1fr 1fr;gap:0 1rem}small{color:#56666c}`;

export function page(res: ServerResponse, status: number, title: string, body: string): void {
  res
    .writeHead(status, {
      'content-type': 'text/html; charset=utf-8',
      'cache-control': 'no-store',
      'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; form-action *",
    })
    .end(
      `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${html(title)}</title><style>${STYLE}</style><h1>${html(title)}</h1>${body}</html>`,
    );
}
