import { readFile } from 'node:fs/promises';
import { domainOf } from '@fulvet/core';
import { templateContent } from '@fulvet/contract';
import type { Template, User } from '@fulvet/contract';
import { spool } from '../../base/files/spool';
import { notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { composeMail } from '../composeMail';
import { fileName } from '../drafts';
import { createTemplate } from './keep';
import { templateOf } from './queries';

const MOST_BYTES = 5 * 1024 * 1024;
const LONGEST_HTML = 200_000;
const LONGEST_NAME = 120;

const TOO_LARGE = new Refusal(
  'tooLarge',
  'too-large',
  `An email of up to ${MOST_BYTES / 1024 / 1024} MB can be kept as a template. Nothing was kept.`,
);
const UNREADABLE = new Refusal('unfit', 'unreadable', 'This file has no text that could be kept. Choose an email saved as .eml.');

/** Keeps subject and text of an email as a template. It is read in a thread of its own: others may have written it. */
export async function addTemplateFile(
  services: Services,
  user: User,
  name: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<Template | Refusal> {
  const spooled = await spool(services.uploads, bytes, MOST_BYTES);
  if (!spooled) return TOO_LARGE;
  try {
    const raw = new Uint8Array(await readFile(spooled.path));
    const { subject, html } = await services.blobs.readers.read('written', { raw }).catch(() => ({ subject: '', html: '' }));
    if (html === '' || html.length > LONGEST_HTML) return UNREADABLE;
    const content = templateContent.parse({
      kind: 'template',
      name: (name || subject || 'Template').slice(0, LONGEST_NAME),
      subject,
      html,
    });
    return await createTemplate(services, user, content);
  } finally {
    await spooled.remove();
  }
}

/** A template as an email that mail programs open, with its fields as they are. */
export async function templateFile({ database }: Services, user: User, id: number): Promise<{ name: string; content: Buffer } | Refusal> {
  const template = await database.as(user.id, (tx) => templateOf(tx, id));
  if (!template) return notFound('template');
  const content = await composeMail({
    from: { name: user.name, address: user.email },
    to: [],
    cc: [],
    bcc: [],
    subject: template.subject || template.name,
    html: template.html,
    messageId: `template-${id}@${domainOf(user.email)}`,
    inReplyTo: null,
    references: [],
    at: new Date(template.changedAt),
    files: [],
  });
  return { name: `${fileName(template.name)}.eml`, content };
}
