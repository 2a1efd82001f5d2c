import sanitizeHtml from 'sanitize-html';

/** Deeper nested input is cut: what people write is flat. */
const DEEPEST = 60;

/**
 * What a writer may use: simple formatting that every mail program shows. All else is left out, its text stays.
 *
 * @param isPicture which sources of pictures may stand; none by default
 */
export function cleanHtml(html: string, isPicture: (source: string) => boolean = () => false): string {
  return sanitizeHtml(html, {
    allowedTags: [
      'p',
      'br',
      'div',
      'strong',
      'b',
      'em',
      'i',
      'u',
      's',
      'a',
      'ul',
      'ol',
      'li',
      'blockquote',
      'h2',
      'h3',
      'pre',
      'code',
      'hr',
      'img',
    ],
    allowedAttributes: { a: ['href'], img: ['src', 'alt'] },
    exclusiveFilter: ({ tag, attribs }) => tag === 'img' && !isPicture(attribs.src ?? ''),
    allowedSchemes: ['http', 'https', 'mailto', 'tel'],
    allowProtocolRelative: false,
    nestingLimit: DEEPEST,
  });
}

/** Text as HTML shows it. */
export const escapedText = (text: string): string =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');

/** The text that HTML shows for what `escapedText` and `cleanHtml` write. */
export const unescapedText = (html: string): string =>
  html
    .replace(/&lt;/g, '<')
    .replace(/&gt;/g, '>')
    .replace(/&quot;/g, '"')
    .replace(/&#39;/g, "'")
    .replace(/&amp;/g, '&');

/** Plain text as paragraphs of HTML: empty lines part them. */
export const asParagraphs = (text: string): string =>
  text
    .split(/\n{2,}/)
    .map((paragraph) => `<p>${escapedText(paragraph.trim()).replace(/\n/g, '<br>')}</p>`)
    .join('');
