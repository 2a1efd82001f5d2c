import type { FailureCode } from '@fulvet/core';

/** Something between Fulvet and a mail server went wrong in a way that is known. */
export class MailFailure extends Error {
  constructor(
    readonly code: FailureCode,
    /** What the server said, word by word, or an empty string. */
    readonly said: string = '',
  ) {
    super(said === '' ? code : `${code}: ${said}`);
  }
}

const LONGEST_SAID = 400;
const SILENT = new Set([
  'ETIMEDOUT',
  'CONNECT_TIMEOUT',
  'GREETING_TIMEOUT',
  'UPGRADE_TIMEOUT',
  'EHOSTUNREACH',
  'ENETUNREACH',
  'ESOCKETTIMEDOUT',
]);
const CLOSED = new Set(['ECONNREFUSED']);
const UNKNOWN = new Set(['ENOTFOUND', 'EAI_AGAIN', 'ENODATA', 'EDNS']);
const THROTTLED = /too many|rate|throttl|try again later|come back|temporar(?:y|ily)|concurrent|limit/i;
const DOOR_SHUT =
  /\b(?:imap|pop|mail (?:clients?|programs?))\b.*(?:disabled|switched off|switch(?:ed)? (?:it )?on|not (?:enabled|allowed|let)|turned off|is off)|not enabled for imap/i;
const SENDING_SHUT = /(?:smtp|sending|submission)\b.*(?:disabled|switched off|not (?:enabled|allowed)|turned off)/i;

interface Raised {
  code?: unknown;
  responseText?: unknown;
  response?: unknown;
  serverResponseCode?: unknown;
  authenticationFailed?: unknown;
  responseCode?: unknown;
  tlsFailed?: unknown;
  message?: unknown;
}

/**
 * Names the failure that an error of the mail libraries or of the network stands for.
 *
 * @param farewell what the server said before it closed the connection, where it said something
 */
export function failureOf(error: unknown, farewell = ''): MailFailure {
  if (error instanceof MailFailure && (farewell === '' || error.code !== 'dropped')) return error;
  const raised = (error !== null && typeof error === 'object' ? error : {}) as Raised;
  const code = textOf(raised.code);
  const said = farewell || saidBy(raised);
  const answer = textOf(raised.serverResponseCode);
  if (UNKNOWN.has(code)) return new MailFailure('name-unknown', said);
  if (CLOSED.has(code)) return new MailFailure('port-closed', said);
  if (SILENT.has(code)) return new MailFailure('no-answer', said);
  if (isUntrusted(code, said)) return new MailFailure('tls-untrusted', said);
  if (raised.tlsFailed === true || code === 'ETLS' || /starttls|tls.*(?:not|un)|wrong version number/i.test(said))
    return new MailFailure('tls-missing', said);
  if (answer === 'UNAVAILABLE' || answer === 'LIMIT' || answer === 'THROTTLED') return new MailFailure('throttled', said);
  if (raised.authenticationFailed === true || code === 'EAUTH' || answer === 'AUTHENTICATIONFAILED')
    return new MailFailure(refusal(said), said);
  if (Number(raised.responseCode) === 421 || THROTTLED.test(said)) return new MailFailure('throttled', said);
  if (/parse|unexpected|invalid|malformed|tagged/i.test(said) && !/clos|reset/i.test(said)) return new MailFailure('broken', said);
  return new MailFailure('dropped', said);
}

function refusal(said: string): FailureCode {
  if (SENDING_SHUT.test(said)) return 'sending-off';
  if (DOOR_SHUT.test(said)) return 'imap-off';
  return THROTTLED.test(said) ? 'throttled' : 'sign-in-refused';
}

function isUntrusted(code: string, said: string): boolean {
  return /CERT|SELF_SIGNED|UNABLE_TO_(?:VERIFY|GET)|ALTNAME/.test(code) || /certificate|self.signed/i.test(said);
}

function saidBy(raised: Raised): string {
  const words = textOf(raised.responseText) || textOf(raised.response) || textOf(raised.message);
  return words.replace(/\s+/g, ' ').trim().slice(0, LONGEST_SAID);
}

function textOf(value: unknown): string {
  return typeof value === 'string' ? value : '';
}
