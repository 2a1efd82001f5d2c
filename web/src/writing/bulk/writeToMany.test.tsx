/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import type { BulkSend } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import { openPage, Refused } from '../../testing/openPage';
import { MAY_WRITE, SENDER } from '../../testing/sender';
import { OFFER } from '../../testing/template';

const SEND: BulkSend = {
  id: 3,
  name: 'Offer',
  total: 12,
  sent: 4,
  waiting: 7,
  stopped: 1,
  leftOut: {},
  isStopped: false,
  createdAt: '2026-05-04T10:00:00Z',
};
const open = (path: string, more: object = {}) =>
  openPage(path, {
    ...workspace('rep'),
    listSenders: { senders: [SENDER], ...MAY_WRITE },
    listTemplates: { templates: [OFFER, { ...OFFER, id: 5, name: 'Without a subject', subject: '' }] },
    previewBulk: {
      found: 15,
      people: 12,
      leftOut: [
        { why: 'unsubscribed', count: 2, names: ['Ida Brandt', 'Tove Lund'] },
        { why: 'kept out', count: 1, names: ['Kim'] },
      ],
      perDay: 50,
    },
    startBulk: SEND,
    listBulk: { sends: [SEND] },
    ...more,
  });

describe('an email to many', () => {
  test('says who gets it, and who is left out and why, before it is sent', async () => {
    const page = open('/records/contact?text=fair');
    await page.user.click(await screen.findByRole('button', { name: 'Write to these …' }));
    const dialog = await screen.findByRole('dialog', { name: 'One email to each of these people' });
    await page.user.click(within(dialog).getByRole('combobox', { name: 'Template' }));
    expect(screen.queryByRole('option', { name: 'Without a subject' })).toBeNull();
    await page.user.click(await screen.findByRole('option', { name: 'Offer' }));
    await within(dialog).findByText('12 of 15 people get it.');
    expect(page.calls('previewBulk')[0]?.body).toEqual({ kind: 'contact', filter: { text: 'fair' }, templateId: 4 });
    expect(within(dialog).getByRole('list', { name: 'Left out' }).textContent).toBe(
      '2 who unsubscribed: Ida Brandt, Tove Lund1 kept out: Kim',
    );
    await page.user.click(within(dialog).getByRole('button', { name: 'Send 12 emails' }));
    await screen.findByText('12 emails are on the way. Stop them under Outgoing.');
    expect(page.calls('startBulk')[0]?.body).toMatchObject({ people: 12 });
  });

  test('is not offered to those who may not, and says why it cannot be sent', async () => {
    const page = open('/records/lead', { previewBulk: new Refused(409, 'no-link-address', 'Emails to many have a link to unsubscribe.') });
    await page.user.click(await screen.findByRole('button', { name: 'Write to these …' }));
    await page.user.click(screen.getByRole('combobox', { name: 'Template' }));
    await page.user.click(await screen.findByRole('option', { name: 'Offer' }));
    expect(await screen.findByText('Emails to many have a link to unsubscribe.')).toBeTruthy();
    expect(screen.queryByRole('button', { name: /^Send/ })).toBeNull();
  });

  test('shows how far it is, and is stopped', async () => {
    const page = open('/outgoing', { stopBulk: { ...SEND, isStopped: true, waiting: 0 } });
    const list = await screen.findByRole('region', { name: 'To many' });
    expect(within(list).getByText('4 of 12 sent · 1 not sent')).toBeTruthy();
    await page.user.click(within(list).getByRole('button', { name: 'Stop: Offer' }));
    await screen.findByText('Nothing more of Offer is sent.');
    await waitFor(() => expect(page.calls('stopBulk')).toHaveLength(1));
  });
});
