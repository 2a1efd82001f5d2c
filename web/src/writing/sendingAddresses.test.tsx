/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import type { Sender } from '@fulvet/contract';
import { beforeEach, expect, test } from '@jest/globals';
import { screen, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { openPage, Refused } from '../testing/openPage';
import { MAY_WRITE, SENDER } from '../testing/sender';
import type { Answers } from '../testing/openPage';

const own = SENDER;
const alias: Sender = { ...own, address: 'gauges@quillmere.example', isAlias: true, isProven: false };
let senders: Sender[];
beforeEach(() => {
  senders = [own, alias];
});

const open = async (more: Answers = {}) => {
  const page = openPage('/account', {
    ...workspace('rep'),
    listSenders: () => ({ senders, ...MAY_WRITE }),
    saveSender: ({ body }) => {
      const { address, name, signature } = body as Sender;
      senders = senders.map((sender) => (sender.address === address ? { ...sender, name, signature } : sender));
      return { senders };
    },
    sendSenderCode: () => {
      senders = [own, { ...alias, codeSentAt: '2026-05-04T10:00:00Z' }];
      return { senders };
    },
    confirmSender: () => {
      senders = [own, { ...alias, isProven: true }];
      return { senders };
    },
    ...more,
  });
  return { page, section: within(await screen.findByRole('region', { name: 'Addresses you send from' })) };
};

test('a name and a signature with a field are set for an address', async () => {
  const { page, section } = await open();
  await page.user.click(await section.findByRole('button', { name: 'Name and signature' }));
  const name = section.getByRole('textbox', { name: 'Name that recipients see' });
  await page.user.clear(name);
  await page.user.type(name, 'Gauges team');
  const editor = await section.findByRole('textbox', { name: 'Signature' });
  await page.user.click(section.getByRole('combobox', { name: 'Insert a field' }));
  await page.user.click(await screen.findByRole('option', { name: 'Your name' }));
  expect(editor.textContent).toBe('{{sender.name}}');
  await page.user.click(section.getByRole('button', { name: 'Save' }));
  await section.findByText('Gauges team, with a signature');
  expect(page.calls('saveSender')[0]?.body).toEqual({
    mailboxId: 2,
    address: 'rep@quillmere.example',
    name: 'Gauges team',
    signature: '<p>{{sender.name}}</p>',
  });
});

test('an alias is proven by the code that was sent to it; a wrong code says so and stays to be corrected', async () => {
  let tries = 0;
  const { page, section } = await open({
    confirmSender: () => {
      tries += 1;
      if (tries === 1)
        return new Refused(422, 'wrong-code', 'The code is wrong. Look at the newest email with a code.', { code: 'is wrong' });
      senders = [own, { ...alias, isProven: true }];
      return { senders };
    },
  });
  await page.user.click(await section.findByRole('button', { name: 'Send a code' }));
  const code = await section.findByRole('textbox', { name: 'Code' });
  await page.user.type(code, '123456');
  await page.user.click(section.getByRole('button', { name: 'Confirm' }));
  await section.findByText('The code is wrong. Look at the newest email with a code.');
  expect((code as HTMLInputElement).value).toBe('123456');
  await page.user.click(section.getByRole('button', { name: 'Confirm' }));
  await screen.findByText('You can send emails from gauges@quillmere.example now.');
  expect(section.getAllByRole('button', { name: 'Name and signature' })).toHaveLength(2);
});
