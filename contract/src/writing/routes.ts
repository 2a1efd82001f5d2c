import { z } from 'zod';
import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { moment, recordKey } from '../base/values';
import { senderRoutes } from './senderRoutes';
import {
  outgoing,
  outgoingContent,
  outgoingPreview,
  outgoingRow,
  recipientClock,
  recipientFound,
  reminder,
  sendingState,
  startOutgoing,
} from './shapes';

export const writingRoutes = {
  ...senderRoutes,
  findRecipients: {
    method: 'get',
    path: '/outgoing/recipients',
    access: EDITORS,
    summary:
      'People to write to: those who usually get such emails, too, then those of a record, then contacts, leads and colleagues by a part of name or address',
    query: z.object({
      text: z.string().trim().max(200).default(''),
      record: recordKey.optional(),
      with: z.string().max(4000).default('').describe('Addresses that it is written to already, with commas between them.'),
    }),
    response: z.object({ people: z.array(recipientFound) }),
  },
  listOutgoing: {
    method: 'get',
    path: '/outgoing',
    access: EDITORS,
    summary: 'Emails that the reader writes or has sent from here, what needs them first',
    query: z.object({ state: sendingState.optional(), limit: z.coerce.number().int().min(1).max(200).default(100) }),
    response: z.object({ emails: z.array(outgoingRow) }),
  },
  startOutgoing: {
    method: 'post',
    path: '/outgoing',
    access: EDITORS,
    summary: 'Begin an email: new, or an answer to one, or one forwarded',
    body: startOutgoing,
    response: outgoing,
    errors: ['no-mailbox', 'may-not-send', 'too-many'],
  },
  getOutgoing: {
    method: 'get',
    path: '/outgoing/{id}',
    access: EDITORS,
    summary: 'An email that the reader writes',
    params: idParam,
    response: outgoing,
  },
  saveOutgoing: {
    method: 'put',
    path: '/outgoing/{id}',
    access: EDITORS,
    summary: 'Save a draft',
    params: idParam,
    body: outgoingContent,
    response: outgoing,
    errors: ['changed-meanwhile', 'not-a-draft'],
  },
  discardOutgoing: {
    method: 'delete',
    path: '/outgoing/{id}',
    access: EDITORS,
    summary: 'Discard a draft, or take a sent or refused email off the list; the sent email itself stays',
    params: idParam,
    response: z.object({}),
    errors: ['under-way'],
  },
  attachToOutgoing: {
    method: 'post',
    path: '/outgoing/{id}/files',
    access: EDITORS,
    summary: 'Attach a file to a draft; its bytes are the body',
    params: idParam,
    query: z.object({
      name: z.string().trim().min(1).max(255),
      type: z.string().max(127).default('application/octet-stream'),
      inline: z
        .enum(['true'])
        .optional()
        .describe('A picture in the text, which names it by where `getOutgoingPicture` answers; its bytes say which kind it is.'),
    }),
    body: 'bytes',
    response: outgoing,
    errors: ['not-a-draft', 'too-large', 'not-a-picture'],
  },
  getOutgoingPicture: {
    method: 'get',
    path: '/outgoing/{id}/files/{file}',
    access: EDITORS,
    summary: 'A picture in the text of a draft',
    params: idParam.extend({ file: z.coerce.number().int().positive() }),
    response: { mediaType: 'image/*' },
  },
  detachFromOutgoing: {
    method: 'delete',
    path: '/outgoing/{id}/files/{file}',
    access: EDITORS,
    summary: 'Take a file off a draft',
    params: idParam.extend({ file: z.coerce.number().int().positive() }),
    response: outgoing,
    errors: ['not-a-draft'],
  },
  previewOutgoing: {
    method: 'get',
    path: '/outgoing/{id}/preview',
    access: EDITORS,
    summary: 'How a draft will be filed, and what its writer may have overlooked',
    params: idParam,
    response: outgoingPreview,
  },
  getRecipientClock: {
    method: 'get',
    path: '/outgoing/{id}/recipient-clock',
    access: EDITORS,
    summary:
      'By which clock the first recipient of a draft lives, as the last email that they wrote and the reader may read says; null: not known',
    params: idParam,
    response: z.object({ clock: recipientClock.nullable() }),
  },
  sendOutgoing: {
    method: 'post',
    path: '/outgoing/{id}/send',
    access: EDITORS,
    sends: true,
    summary: 'Send a draft, after the seconds in which it can be taken back, or at a time',
    params: idParam,
    body: z.strictObject({
      revision: z.number().int().min(0).describe('Of the draft as it was last seen.'),
      at: moment.nullable().default(null).describe('Null: now.'),
      agree: z
        .boolean()
        .default(false)
        .describe(
          'The owner of the mailbox agrees, once, that copies of what is sent are put into its sent folder; of mailboxes connected before Fulvet sent emails.',
        ),
    }),
    response: outgoing,
    errors: ['agree-first', 'changed-meanwhile', 'not-a-draft', 'no-recipient', 'not-your-mailbox', 'empty-field'],
  },
  takeBackOutgoing: {
    method: 'post',
    path: '/outgoing/{id}/take-back',
    access: EDITORS,
    summary: 'Take an email back that is not handed over yet: it is a draft again',
    params: idParam,
    response: outgoing,
    errors: ['under-way'],
  },
  settleOutgoing: {
    method: 'post',
    path: '/outgoing/{id}/settle',
    access: EDITORS,
    summary: 'Say of an email of which it is unclear whether it was sent; one that was not is a draft again',
    params: idParam,
    body: z.strictObject({ wasSent: z.boolean() }),
    response: outgoing,
    errors: ['not-unclear'],
  },
  listReminders: {
    method: 'get',
    path: '/outgoing/reminders',
    access: EDITORS,
    summary: 'Emails of the reader that no one answered in the days that they chose, the longest ago first; of a record, or all',
    query: z.object({ record: recordKey.optional() }),
    response: z.object({ reminders: z.array(reminder) }),
  },
  endReminder: {
    method: 'post',
    path: '/outgoing/{id}/end-reminder',
    access: EDITORS,
    summary: 'Be reminded of an email no more',
    params: idParam,
    response: outgoing,
  },
} as const satisfies Record<string, RouteShape>;
