/** What can keep a mailbox from working, each with words of its own. */
export const FAILURES = {
  'name-unknown': {
    title: 'The server’s name is not known',
    remedy: 'Look for a typing error in the name of the server, or ask the provider for the right one.',
    needsPerson: false,
  },
  'host-refused': {
    title: 'This server may not be used',
    remedy:
      'Its address is in a private network, and this installation does not connect to those. If it is right all the same, the person who runs Fulvet can allow it (FULVET_PRIVATE_HOSTS=1).',
    needsPerson: true,
  },
  'port-closed': {
    title: 'Nothing answers at this port',
    remedy: 'Check the port: reading is usually at 993, sending at 465 or 587. A firewall may stand between, or the server may be down.',
    needsPerson: false,
  },
  'no-answer': {
    title: 'The server does not answer',
    remedy: 'The server is down or very slow, or a firewall blocks the connection. Fulvet tries again.',
    needsPerson: false,
  },
  'tls-untrusted': {
    title: 'The certificate is not trusted',
    remedy:
      'The server shows a certificate that no known authority has signed, that ran out, or that is for another name. Check the name of the server; else the provider has to renew its certificate.',
    needsPerson: true,
  },
  'tls-missing': {
    title: 'The connection cannot be secured',
    remedy:
      'At this port the server does not offer TLS. Choose the other kind of security, or another port. Fulvet never sends a password in the open.',
    needsPerson: true,
  },
  'imap-off': {
    title: 'Mail programs are not let in',
    remedy:
      'IMAP is switched off for this mailbox at the provider. Switch it on in the settings there, or ask the provider’s administrator; then try again from this step.',
    needsPerson: true,
  },
  'sign-in-refused': {
    title: 'Sign-in was refused',
    remedy:
      'Address or password is wrong, or the provider wants a password of its own for mail programs. Enter it again. Fulvet does not try again, because that could lock the account.',
    needsPerson: true,
  },
  'permission-withdrawn': {
    title: 'The permission was withdrawn',
    remedy: 'The provider no longer lets Fulvet in. Sign in at the provider again.',
    needsPerson: true,
  },
  throttled: {
    title: 'The provider asks for a pause',
    remedy: 'Too many requests or connections in a short time. Fulvet waits and goes on more slowly; nothing is to be done.',
    needsPerson: false,
  },
  'no-inbox': {
    title: 'There is no inbox',
    remedy: 'The account exists but has no inbox that mail programs may see. Ask the provider.',
    needsPerson: true,
  },
  unreadable: {
    title: 'The newest email cannot be read',
    remedy: 'The server lists emails but does not hand them out. Try again; if it stays so, ask the provider.',
    needsPerson: false,
  },
  'sending-off': {
    title: 'Sending is not allowed',
    remedy:
      'The provider lets mail programs read but not send. Switch sending (SMTP) on in the settings there, then try again from this step.',
    needsPerson: true,
  },
  'sending-refused': {
    title: 'The test email was not taken',
    remedy: 'Read what the server said. Often the address may not be used as sender with this sign-in.',
    needsPerson: true,
  },
  'not-arrived': {
    title: 'The test email did not arrive',
    remedy:
      'It was sent but did not come in within the time. Look into the junk folder, and check that mail to this address comes into this very mailbox.',
    needsPerson: false,
  },
  dropped: {
    title: 'The connection broke',
    remedy: 'The server or the network closed the connection. Fulvet connects again and goes on where it was.',
    needsPerson: false,
  },
  broken: {
    title: 'The server answers in a way that cannot be read',
    remedy: 'Fulvet connects again and goes on where it was. If it stays so, tell the provider what the server said.',
    needsPerson: false,
  },
  'secret-unreadable': {
    title: 'The stored password cannot be opened',
    remedy: 'The key of this installation is missing or is another one. Bring the key file back, or enter the password again.',
    needsPerson: true,
  },
} as const satisfies Record<string, { title: string; remedy: string; needsPerson: boolean }>;

export type FailureCode = keyof typeof FAILURES;
export const FAILURE_CODES = Object.keys(FAILURES) as FailureCode[];

/** The steps by which a mailbox is tried, in order. */
export const CHECK_STEPS = ['name', 'port', 'tls', 'sign-in', 'folders', 'newest', 'sending'] as const;
export type CheckStep = (typeof CHECK_STEPS)[number];

export const CHECK_TITLES: Record<CheckStep, string> = {
  name: 'The servers’ names are known',
  port: 'The ports are open',
  tls: 'The connection is secure',
  'sign-in': 'Sign-in is accepted',
  folders: 'The folders are recognised',
  newest: 'The newest email can be read',
  sending: 'An email to oneself arrives',
};

const SECOND = 1000;
const DELAYS = [5, 15, 60, 180, 600, 1800].map((seconds) => seconds * SECOND);

/**
 * How long to wait before the next try, in milliseconds; null where a person has to act first.
 *
 * @param attempts failures in a row, this one included
 */
export function retryDelay(code: FailureCode, attempts: number): number | null {
  if (FAILURES[code].needsPerson) return null;
  const delay = DELAYS[Math.min(Math.max(attempts, 1), DELAYS.length) - 1] ?? 1800 * SECOND;
  return code === 'throttled' ? Math.max(delay, 60 * SECOND) : delay;
}
