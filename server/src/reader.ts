import { eventMessage, eventsOf, readEmail, readEmailBody, readEvent, readTodo, recurs, splitCalendar, writtenTodo } from '@fulvet/core';
import type { CalendarEvent } from '@fulvet/core';
import { parentPort } from 'node:worker_threads';
import { readCsv } from './base/files/readCsv';
import { replaceBlobs } from './base/reading/quickBlob';
import type { ReadAnswer, Readers, ReadOrder } from './base/reading/readTasks';
import { htmlForFrame } from './emails/htmlForFrame';
import { asWritten } from './writing/templates/asWritten';
import { readVcards } from './records/import/readVcards';

/** The program of a reader's thread: what is read of input that others wrote is read here, away from the process that serves people. */
const readers: Readers = {
  emails: (messages) => Promise.all(messages.map(({ raw, options }) => readEmail(raw, options))),
  frame: async ({ raw, showRemote }) => {
    const { html, attachments } = await readEmailBody(raw);
    return htmlForFrame(html ?? '', attachments, showRemote);
  },
  files: async ({ raw, most, bytes }) => {
    let room = bytes;
    const { attachments } = await readEmailBody(raw);
    return attachments
      .filter(({ inline }) => !inline)
      .slice(0, most)
      .filter(({ content }) => {
        const fits = content.length <= room;
        if (fits) room -= content.length;
        return fits;
      });
  },
  attachment: async ({ raw, position }) => (await readEmailBody(raw)).attachments[position] ?? null,
  written: ({ raw }) => asWritten(raw),
  todo: (text) => Promise.resolve(readTodo(text)),
  changedTodo: ({ text, state, at }) => Promise.resolve(writtenTodo(text, '', state, at)),
  calendarFile: (text) => Promise.resolve(splitCalendar(text)),
  events: async ({ text, window, owner, addresses, arrivedAt }) => {
    const found = eventsOf(text, window);
    const open = found.filter(({ isPrivate }) => !isPrivate);
    const events = await Promise.all(
      open.map(async (event) => {
        const raw = eventMessage(event, owner);
        return { raw, facts: await readEvent(raw, arrivedAt) };
      }),
    );
    const declined = (event: CalendarEvent): boolean =>
      event.guests.some(({ address, answer }) => answer === 'declined' && addresses.includes(address));
    const taken = found.filter((event) => !event.cancelled && !event.isFree && !declined(event));
    const busy = taken.map(({ startsAt, endsAt }) => ({ from: startsAt, to: endsAt }));
    return { events, busy, recurs: recurs(text), isPrivate: open.length < found.length };
  },
  table: ({ text, format }) => Promise.resolve(format === 'vcard' ? readVcards(text) : readCsv(text)),
};

replaceBlobs();
parentPort?.postMessage('ready');
parentPort?.on('message', ({ id, task, input }: ReadOrder) => {
  const read = readers[task] as (input: unknown) => Promise<unknown>;
  read(input).then(
    (output) => parentPort?.postMessage({ id, output } satisfies ReadAnswer),
    (error: unknown) =>
      parentPort?.postMessage({ id, failed: error instanceof Error ? error.message : String(error) } satisfies ReadAnswer),
  );
});
