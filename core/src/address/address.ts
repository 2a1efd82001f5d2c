import { domainToAscii } from '../domain/domain';

/** The parts of an address by which people are compared. */
export interface AddressKey {
  /** `local@domain`: lower case, ASCII (IDNA) domain, without a `+tag` unless tags tell people apart. */
  key: string;
  local: string;
  domain: string;
}

export interface AddressOptions {
  /** True when `ida+a@x.example` and `ida@x.example` are two people. Default: one. */
  tagsTellApart?: boolean;
}

/**
 * The form of an address in which two spellings of one mailbox are equal.
 *
 * Compared without regard to case (RFC 5321 section 2.4 lets a host tell case apart; none that matters does), the domain
 * in its ASCII form (RFC 5891), a quoted local part without needless quotes, and a `+tag` dropped unless told otherwise.
 *
 * @returns null when there is no local part or no domain
 */
export function addressKey(address: string, options: AddressOptions = {}): AddressKey | null {
  const at = address.lastIndexOf('@');
  if (at < 1 || at === address.length - 1) return null;
  const domain = domainToAscii(address.slice(at + 1));
  if (!domain) return null;
  let local = unquoted(address.slice(0, at)).normalize('NFC').toLowerCase();
  if (!options.tagsTellApart) {
    const plus = local.indexOf('+');
    if (plus > 0) local = local.slice(0, plus);
  }
  return { key: `${local}@${domain}`, local, domain };
}

function unquoted(local: string): string {
  if (local.length < 2 || !local.startsWith('"') || !local.endsWith('"')) return local;
  const inner = local.slice(1, -1).replace(/\\(.)/g, '$1');
  return /^[^\s"(),:;<>@[\\\]]+$/.test(inner) ? inner : local;
}

/** An address that is in its compared form already, without its `+tag`. */
export function withoutTag(key: string): string {
  const plus = key.indexOf('+');
  const at = key.lastIndexOf('@');
  return plus > 0 && plus < at ? key.slice(0, plus) + key.slice(at) : key;
}

/** The domain of an address, as it is written there. */
export const domainOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1);

/** Local parts that name a function (RFC 2142 and common use). */
export const ROLE_LOCALS: ReadonlySet<string> = new Set(
  (
    'abuse accounting accounts admin administration administrator alert alerts ap ar auftrag auftraege billing bookings buchhaltung buero careers ' +
    'case cases compliance ' +
    'comptabilite compras bestellung bestellungen disposition direction ' +
    'contact contracts customercare customerservice desk dispatch einkauf empfang enquiries enquiry events export ' +
    'facturacion facturation feedback finance general hello help helpdesk hostmaster hr import inbox info inquiries inquiry ' +
    'inkoop intake invoice invoices it jobs kontakt legal logistics mail marketing media news newsletter notifications office ' +
    'operations ops order orders payments postmaster press presse privacy procurement purchase purchasing queue quotes ' +
    'reception rechnung rechnungen recruiting reply rfq root sales secretariat security service servicedesk shipping support team tender ' +
    'tenders ticket tickets verkauf vertrieb warehouse webmaster workshop'
  ).split(' '),
);

/** Of these, those that are names of people, too, when they stand beside another word. */
const ALSO_NAMES: ReadonlySet<string> = new Set(['case', 'press']);
const NUMBER = /[._-]?\d+$/;
const isDigit = (code: number): boolean => code >= 48 && code <= 57;

/** True for an address that names a function, not a person (RFC 2142 and common use): `info@`, `sales-north@`, `ticket-8812@`. */
export function isRoleLocal(local: string, roles: ReadonlySet<string> = ROLE_LOCALS): boolean {
  if (roles.has(local) || isTokenLocal(local)) return true;
  if (isDigit(local.charCodeAt(local.length - 1))) {
    const unnumbered = local.replace(NUMBER, '');
    return unnumbered !== '' && isRoleLocal(unnumbered, roles);
  }
  const words = local.split(/[._-]/);
  const [first = local] = words;
  // A function is named first (`sales-north`) or last (`harbour-office`); names of people have no such words.
  const last = words.at(-1) ?? local;
  const isOne = (word: string): boolean =>
    word.length > 3 && !ALSO_NAMES.has(word) && (roles.has(word) || (word === last && GROUPS.has(word)));
  return words.length > 1 && (isOne(first) || isOne(last));
}

/** Words with which addresses begin that systems make for one email, one list or one answer. */
const MADE_FOR =
  /^(?:unsub|unsubscribe|opt-?out|leave|signoff|sign-off|subscribe|confirm|confirmation|confirmations|verify|verification|track|tracking|click|reply|replies|return|returns|feedback-id|inbound|parse|thread|msg)(?:$|[-._+=\d])/;
/** Sender rewriting and return paths with another address in them (SRS, VERP, BATV). */
const REWRITTEN = /^(?:srs[01]|prvs|btv1|verp)[=+-]|=/;
const SHORTEST_TOKEN = 12;
const MOST_CHANGES = 3;

/** True for an address that a system made for one email, list or answer: `unsubscribe-8f2k@`, `reply+9d3e@`, `a1b2c3d4e5f6@`. No one has it. */
export function isTokenLocal(local: string): boolean {
  if (MADE_FOR.test(local) || REWRITTEN.test(local)) return true;
  return local.split(/[-._+]/).some((part) => {
    if (part.length < SHORTEST_TOKEN) return false;
    // Names have their digits in one place; what is made at random changes between letters and digits.
    let changes = 0;
    for (let at = 1; at < part.length; at += 1) if (isDigit(part.charCodeAt(at)) !== isDigit(part.charCodeAt(at - 1))) changes += 1;
    return changes > MOST_CHANGES;
  });
}

/** True for a host that carries mailing lists and groups: what writes there is no person. */
export const isListHost = (domain: string): boolean => /^(?:lists?|listserv|mailman|groups)\./.test(domain);

/** Words that name a group where another word stands before them. */
const GROUPS: ReadonlySet<string> = new Set(
  'abteilung announce bureau committee crew department dept desk discuss division group gruppe leitung list liste management members mitglieder projects service services staff unit users verwaltung'.split(
    ' ',
  ),
);

const NO_REPLY = /^(?:no|do-?not|dont|nao|ne-?pas)[._-]?(?:reply|respond|responder|antwort|repondre)|^(?:mailer-daemon|bounces?|noreply)\b/;

/** True for a sender that takes no answers: `no-reply@`, `donotreply@`, `mailer-daemon@`. */
export function isNoReplyLocal(local: string): boolean {
  return NO_REPLY.test(local);
}
