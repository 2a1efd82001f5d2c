import type { PlainEmail } from '../../../server/src/testing/testServer';
import { mbox } from '../../../server/src/testing/testServer';

const rep = 'rep@quillmere.example';
export const mail = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: 'Ida Brandt <ida@harbour.example>',
  to: rep,
  ...more,
});

export const calendar = (rule: string): string =>
  `From: x@elsewhere.example\nTo: ${rep}\nMessage-ID: <${rule.length}-${Math.random()}>\nContent-Type: text/calendar; method=REQUEST\n\nBEGIN:VCALENDAR\nMETHOD:REQUEST\nBEGIN:VEVENT\nUID:1\nDTSTART:20260101T090000Z\nRRULE:${rule}\nEND:VEVENT\nEND:VCALENDAR\n`;

/** Mail that becomes costlier by one of its sizes, which is given. */
export const GROWING: Record<string, { from: number; message: (count: number) => string }> = {
  'references in each of 50 emails': {
    from: 250,
    message: (count) =>
      mbox(
        Array.from({ length: 50 }, (_, n) =>
          mail(`r${count}-${n}`, {
            references: Array.from({ length: count }, (_unused, at) => `<r${count}-${n}-${at}@x.example>`).join(' '),
          }),
        ),
      ),
  },
  'recipients of each of 20 answers': {
    from: 250,
    message: (count) => {
      const to = Array.from({ length: count }, (_, n) => `p${n}@company${n % 500}.example`).join(', ');
      return mbox(Array.from({ length: 20 }, (_, n) => mail(`p${count}-${n}`, { to, ...(n > 0 ? { references: `<p${count}-0>` } : {}) })));
    },
  },
  'comments that are never closed, in each of 20 emails': {
    from: 5_000,
    message: (count) => mbox(Array.from({ length: 20 }, (_, n) => mail(`c${count}-${n}`, { to: `${'('.repeat(count)} ${rep}` }))),
  },
  'parts of a message': {
    from: 10_000,
    message: (count) =>
      `From x@y.example Mon May  4 10:00:00 2026\nFrom: x@elsewhere.example\nMessage-ID: <parts${count}>\nContent-Type: multipart/mixed; boundary=b\n\n${'--b\n\nx\n'.repeat(count)}--b--\n`,
  },
  'meetings in an invitation': {
    from: 250,
    message: (count) =>
      `From x@y.example Mon May  4 10:00:00 2026\nFrom: x@elsewhere.example\nTo: ${rep}\nMessage-ID: <events${count}>\nContent-Type: text/calendar; method=REQUEST\n\nBEGIN:VCALENDAR\nMETHOD:REQUEST\n${Array.from({ length: count }, (_, n) => `BEGIN:VEVENT\nUID:${n}\nDTSTART:20260101T090000Z\nRRULE:FREQ=DAILY\nEND:VEVENT\n`).join('')}END:VCALENDAR\n`,
  },
};

/** A picture of 100 kB that a body shows so often. */
export function pictured(count: number): string {
  const picture = Buffer.alloc(75_000, 7).toString('base64');
  return [
    'From: x@elsewhere.example',
    `To: other@quillmere.example`,
    `Message-ID: <pictures${count}>`,
    'Content-Type: multipart/related; boundary=b',
    '',
    '--b',
    'Content-Type: text/html',
    '',
    '<img src="cid:p">'.repeat(count),
    '--b',
    'Content-Type: image/png',
    'Content-ID: <p>',
    'Content-Transfer-Encoding: base64',
    '',
    picture,
    '--b--',
    '',
  ].join('\r\n');
}
