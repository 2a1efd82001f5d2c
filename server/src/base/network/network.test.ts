import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { MailStage } from '../../testing/mailboxTools';
import { beginConnecting, check, openMailStage } from '../../testing/mailboxTools';
import type { Crew } from '../../testing/testServer';
import { setUpCrew } from '../../testing/testServer';
import { isPrivateAddress, Network } from './network';

describe('addresses that are not of the open internet', () => {
  test.each([
    '127.0.0.1',
    '10.1.2.3',
    '172.31.0.1',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '224.0.0.1',
    '::1',
    '::',
    'fe80::1',
    'fd00::1',
    '::ffff:127.0.0.1',
    '64:ff9b::7f00:1',
    'no address',
  ])('%s is one', (address) => expect(isPrivateAddress(address)).toBe(true));
  test.each(['8.8.8.8', '172.32.0.1', '2a00:1450:4001::1'])('%s is none', (address) => expect(isPrivateAddress(address)).toBe(false));
});

describe('where private hosts are not allowed', () => {
  const network = new Network({ privateHosts: false });

  test('a name that leads to loopback is refused, as its address is', async () => {
    for (const host of ['localhost', '127.0.0.1', '::1'])
      await expect(network.addressOf({ host, port: 993 })).rejects.toMatchObject({ code: 'host-refused' });
  });

  test('a port that is none for mail is refused', async () => {
    await expect(network.addressOf({ host: '8.8.8.8', port: 6379 })).rejects.toMatchObject({ code: 'host-refused' });
    expect(await network.addressOf({ host: '8.8.8.8', port: 993 })).toBe('8.8.8.8');
  });
});

describe('a connect form cannot probe the network', () => {
  let stage: MailStage;
  let crew: Crew;
  beforeAll(async () => {
    stage = await openMailStage({ privateHosts: false });
    crew = await setUpCrew(stage.server);
  });
  afterAll(() => stage.close());

  test('an open and a closed port on loopback are answered alike', async () => {
    const answers = [];
    for (const port of [stage.mailhost.ports.imaps, 1]) {
      const endpoint = { host: '127.0.0.1', port, security: 'tls' };
      const { id } = await beginConnecting(stage, {
        token: crew.tokens.rep,
        address: 'rep@quillmere.example',
        connection: { imap: endpoint, smtp: endpoint },
      });
      const [first] = (await check(stage, crew.tokens.rep, id)).checks;
      answers.push([first.step, first.state, first.code, first.said]);
    }
    expect(answers).toEqual([
      ['name', 'failed', 'host-refused', ''],
      ['name', 'failed', 'host-refused', ''],
    ]);
  });
});
