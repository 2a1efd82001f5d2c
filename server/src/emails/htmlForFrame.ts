import type { EmailBody } from '@fulvet/core';
import sanitizeHtml from 'sanitize-html';

const MAX_HTML = 2_000_000;
const MAX_PICTURES = 24_000_000;
const IMAGE = /^image\/(?:png|jpe?g|gif|webp|bmp)$/;

/**
 * An email's HTML made safe for a sandboxed frame: no scripts, forms, frames, handlers or style sheets from elsewhere.
 * Images inside the email are put in place; remote ones stay away, with a place-holder, unless asked for.
 */
export function htmlForFrame(html: string, attachments: EmailBody['attachments'], showRemote: boolean): string {
  const inline = new Map(
    attachments
      .filter((attachment) => attachment.contentId !== null && IMAGE.test(attachment.type))
      .map((attachment) => [attachment.contentId, attachment]),
  );
  let blocked = 0;
  let inPlace = 0;
  const clean = sanitizeHtml(html.slice(0, Math.min(MAX_HTML, depthLimit(html))), {
    allowedTags: [...sanitizeHtml.defaults.allowedTags, 'img', 'center', 'font', 'u', 's', 'del', 'ins', 'hr'],
    allowedAttributes: {
      a: ['href', 'title', 'target', 'rel'],
      img: ['src', 'alt', 'title', 'width', 'height'],
      font: ['color', 'size', 'face'],
      '*': [
        'align',
        'valign',
        'bgcolor',
        'border',
        'cellpadding',
        'cellspacing',
        'colspan',
        'rowspan',
        'width',
        'height',
        'dir',
        'lang',
        'style',
      ],
    },
    allowedSchemes: ['http', 'https', 'mailto', 'tel'],
    allowedSchemesByTag: { img: showRemote ? ['http', 'https', 'data'] : ['data'] },
    allowedStyles: {
      '*': Object.fromEntries(STYLES.map((name) => [name, [/^(?!.*(?:url|expression|javascript|@import))[\w\s#.,%()'"!-]{1,200}$/i]])),
    },
    disallowedTagsMode: 'discard',
    nestingLimit: 200,
    transformTags: {
      a: (tagName, attribs) => ({
        tagName,
        attribs: { ...withoutRelative(attribs), target: '_blank', rel: 'noopener noreferrer nofollow' },
      }),
      img: (tagName, attribs) => {
        const source = attribs.src ?? '';
        const found = source.startsWith('cid:') ? inline.get(source.slice(4)) : undefined;
        // One picture can be named any number of times; what all of them add to the page is limited.
        if (found && (inPlace += found.content.length) <= MAX_PICTURES)
          return { tagName, attribs: { ...attribs, src: `data:${found.type};base64,${Buffer.from(found.content).toString('base64')}` } };
        if (/^data:image\/(?:png|jpe?g|gif|webp);/.test(source)) return { tagName, attribs };
        if (showRemote && /^https?:/.test(source) && !COUNTS.test(source)) return { tagName, attribs };
        blocked += 1;
        const { src: _, ...rest } = attribs;
        return { tagName, attribs: { ...rest, alt: attribs.alt ?? 'image not loaded' } };
      },
    },
  });
  return `<!doctype html><html><head><meta charset="utf-8"><meta name="remote-blocked" content="${blocked}"><style>
html{color-scheme:light}body{margin:0;padding:2px;font:14px/1.5 system-ui,sans-serif;color:#19211D;background:#fff;overflow-wrap:anywhere}img{max-width:100%;height:auto}img:not([src]){display:inline-block;min-width:24px;min-height:18px;border:1px dashed #9aa39d;font-size:11px;color:#5C665F}table{max-width:100%}blockquote{margin:0 0 0 8px;padding-left:10px;border-left:2px solid #D9DCD0}
</style></head><body>${clean}</body></html>`;
}

/** The picture of an email that was sent from here and whose openings are counted: who reads it here is no recipient. */
const COUNTS = /\/o\/[\w-]{43}$/;

/** Elements that end by themselves: they hold nothing, or the next of their kind ends them. */
const ENDING =
  /^(?:area|base|br|col|colgroup|dd|dt|embed|hr|img|input|li|link|meta|optgroup|option|p|source|tbody|td|tfoot|th|thead|tr|track|wbr)$/i;
const MOST_DEEP = 1_000;

/** Where elements stand within more others than any program nests them: what follows is left out, since each costs as much as it is deep. */
function depthLimit(html: string): number {
  let depth = 0;
  for (const { 1: slash, 2: name = '', index } of html.matchAll(/<(\/?)([a-z][a-z0-9]*)/gi)) {
    if (ENDING.test(name)) continue;
    depth = slash ? Math.max(0, depth - 1) : depth + 1;
    if (depth > MOST_DEEP) return index;
  }
  return html.length;
}

/** A relative link in an email would lead to a page of ours: it leads nowhere. */
function withoutRelative(attribs: Record<string, string>): Record<string, string> {
  const { href, ...rest } = attribs;
  return href !== undefined && /^(?:https?:\/\/|mailto:|tel:)/i.test(href.trim()) ? attribs : rest;
}

const STYLES = [
  'color',
  'background-color',
  'font-size',
  'font-family',
  'font-weight',
  'font-style',
  'text-align',
  'text-decoration',
  'line-height',
  'vertical-align',
  'padding',
  'padding-left',
  'padding-right',
  'padding-top',
  'padding-bottom',
  'margin',
  'margin-left',
  'margin-right',
  'margin-top',
  'margin-bottom',
  'border',
  'border-left',
  'border-top',
  'border-bottom',
  'border-right',
  'border-collapse',
  'width',
  'max-width',
  'height',
  'white-space',
];
