/** A written email before it becomes bytes. */
export interface Letter {
  from: { name: string; email: string };
  to: { name: string; email: string }[];
  cc?: { name: string; email: string }[];
  bcc?: { name: string; email: string }[];
  at: number;
  subject: string;
  text: string;
  html?: string;
  messageId: string | null;
  references?: string[];
  headers?: [string, string][];
  attachments?: { name: string; type: string; content: string | Uint8Array }[];
  /** Full content in place of what the text gives: type with parameters, and body. */
  body?: { type: string; content: string };
}

/** The raw source of a letter (RFC 5322, MIME). */
export function compose(letter: Letter, withBcc: boolean): string {
  const headers: [string, string][] = [
    ...(letter.headers ?? []),
    ['From', address(letter.from)],
    ['To', letter.to.map(address).join(',\r\n ')],
    ...(letter.cc?.length ? [['Cc', letter.cc.map(address).join(',\r\n ')] as [string, string]] : []),
    ...(withBcc && letter.bcc?.length ? [['Bcc', letter.bcc.map(address).join(', ')] as [string, string]] : []),
    ['Subject', encoded(letter.subject)],
    ['Date', rfcDate(letter.at)],
    ...(letter.messageId ? [['Message-ID', `<${letter.messageId}>`] as [string, string]] : []),
    ...referenceHeaders(letter.references ?? []),
    ['MIME-Version', '1.0'],
  ];
  const { type, content, encoding } = bodyOf(letter);
  headers.push(['Content-Type', type], ['Content-Transfer-Encoding', encoding]);
  const own = new Map(headers.map(([name, value]) => [name.toLowerCase(), [name, value] as const]));
  return `${[...own.values()].map(([name, value]) => `${name}: ${value}`).join('\r\n')}\r\n\r\n${content}`;
}

function bodyOf(letter: Letter): { type: string; content: string; encoding: string } {
  if (letter.body) return { type: letter.body.type, content: crlf(letter.body.content), encoding: '8bit' };
  const plain = { type: 'text/plain; charset=utf-8', content: crlf(letter.text) };
  const inner =
    letter.html === undefined
      ? plain
      : multipart('alternative', `alt-${letter.at.toString(36)}`, [
          part(plain.type, '8bit', plain.content),
          part('text/html; charset=utf-8', '8bit', crlf(letter.html)),
        ]);
  if (!letter.attachments?.length) return { ...inner, encoding: '8bit' };
  const files = letter.attachments.map((file) =>
    part(
      `${file.type}; name="${file.name}"`,
      'base64',
      base64(file.content),
      `Content-Disposition: attachment; filename="${file.name}"\r\n`,
    ),
  );
  return { ...multipart('mixed', `mix-${letter.at.toString(36)}`, [part(inner.type, '8bit', inner.content), ...files]), encoding: '8bit' };
}

function part(type: string, encoding: string, content: string, extra = ''): string {
  return `Content-Type: ${type}\r\nContent-Transfer-Encoding: ${encoding}\r\n${extra}\r\n${content}`;
}

function multipart(kind: string, boundary: string, parts: string[]): { type: string; content: string } {
  return {
    type: `multipart/${kind}; boundary="${boundary}"`,
    content: `${parts.map((value) => `--${boundary}\r\n${value}\r\n`).join('')}--${boundary}--\r\n`,
  };
}

function referenceHeaders(references: string[]): [string, string][] {
  if (references.length === 0) return [];
  return [
    ['References', references.map((id) => `<${id}>`).join('\r\n ')],
    ['In-Reply-To', `<${references.at(-1) ?? ''}>`],
  ];
}

function address(item: { name: string; email: string }): string {
  if (!item.name) return item.email;
  if (/[^\x20-\x7e]/.test(item.name)) return `${encoded(item.name)} <${item.email}>`;
  return /[,.()<>@"]/.test(item.name) ? `"${item.name.replace(/"/g, '\\"')}" <${item.email}>` : `${item.name} <${item.email}>`;
}

function encoded(text: string): string {
  return /[^\x20-\x7e]/.test(text) ? `=?utf-8?B?${Buffer.from(text).toString('base64')}?=` : text;
}

function base64(content: string | Uint8Array): string {
  return Buffer.from(content).toString('base64').replace(/.{76}/g, '$&\r\n');
}

function crlf(text: string): string {
  return text.replace(/\r?\n/g, '\r\n');
}

function rfcDate(at: number): string {
  return new Date(at).toUTCString().replace('GMT', '+0000');
}
