import { z } from 'zod';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { email, id } from '../base/values';
import { sender } from './shapes';

const place = { mailboxId: id, address: email.describe('Of the mailbox, or an alias of it.') };

const senders = z.object({ senders: z.array(sender) });

export const senderRoutes = {
  listSenders: {
    method: 'get',
    path: '/outgoing/senders',
    access: EDITORS,
    summary: 'Addresses that the reader may send from, with name and signature; aliases once they are proven',
    response: senders.extend({
      maySend: z.boolean().describe('The workspace lets the reader send emails from here.'),
      mayShare: z.boolean().describe('It lets them share texts and documents.'),
      mayBulk: z.boolean().describe('It lets them send an email to many people at once.'),
    }),
  },
  saveSender: {
    method: 'put',
    path: '/outgoing/senders',
    access: EDITORS,
    summary: 'Set under which name, and with which signature, the reader sends from an address',
    body: z.strictObject({
      ...place,
      name: z.string().trim().max(200).describe('Empty: that of the member.'),
      signature: z
        .string()
        .max(20_000)
        .describe('HTML with simple formatting. `{{sender.name}}` and `{{sender.email}}` are filled when it is sent.'),
    }),
    response: senders,
    errors: ['not-your-mailbox'],
  },
  sendSenderCode: {
    method: 'post',
    path: '/outgoing/senders/code',
    access: EDITORS,
    sends: true,
    summary: 'Send a code to an alias, which proves that the reader gets what is sent to it',
    body: z.strictObject(place),
    response: senders,
    errors: ['not-your-mailbox', 'too-many-attempts', 'not-sent'],
  },
  confirmSender: {
    method: 'post',
    path: '/outgoing/senders/confirm',
    access: EDITORS,
    summary: 'Confirm the code that was sent to an alias',
    body: z.strictObject({
      ...place,
      code: z
        .string()
        .trim()
        .regex(/^\d{6}$/, 'must be the six digits that were sent'),
    }),
    response: senders,
    errors: ['wrong-code', 'not-your-mailbox'],
  },
} as const satisfies Record<string, RouteShape>;
