import { addressKey } from '../address/address';
import { messageIds } from './messageIds';

/** Why an email did not reach a recipient, by the code of RFC 3463 and what the server said. */
export type UndeliveredWhy = 'no address' | 'mailbox full' | 'too large' | 'refused' | 'not reached' | 'other';

/** A recipient whom an email did not reach, as a delivery report says. */
export interface Undelivered {
  /** In the form in which addresses are compared, its `+tag` kept. */
  address: string;
  /** Message-ID of the email that could not be delivered, without brackets, or null. */
  messageId: string | null;
  why: UndeliveredWhy;
  /** What the server said, shortened; empty: nothing. */
  said: string;
}

/** The parts of a delivery report (RFC 3464, RFC 6522). */
export interface DeliveryReport {
  /** Its text for people. */
  text: string;
  /** `message/delivery-status`: fields of the message and of each recipient. */
  statuses: readonly string[];
  /** What was not delivered, or its headers. */
  originals: readonly string[];
  /** Message-IDs that the report itself answers. */
  references: readonly string[];
}

const MOST_RECIPIENTS = 50;
const MOST_TEXT = 20_000;
const MOST_SAID = 200;
/** Enhanced status codes (RFC 3463) of an address or a domain that does not exist; 5.4.1 is how some servers refuse an unknown recipient. */
const NO_SUCH_ADDRESS = /^5\.1\.(?:0|1|2|3|6|10)$|^5\.4\.1$/;
/** The same in words, in the languages of delivery reports. */
const UNKNOWN = new RegExp(
  [
    'user unknown|unknown user|no such (?:user|address|mailbox|recipient)|(?:mailbox|address|account|recipient|user|domain) (?:\\S+ )?(?:does not|doesn.t) exist|unknown recipient|recipient unknown',
    'address (?:couldn.t be|could not be|was not|wasn.t|not) found|mailbox (?:unavailable|not found)|invalid (?:recipient|mailbox)|recipient address rejected|not a valid (?:mailbox|recipient|address)',
    'empfänger unbekannt|unbekannter empfänger|(?:adresse|postfach|empfänger) (?:wurde nicht gefunden|existiert nicht|nicht gefunden)|utilisateur inconnu|destinataire inconnu|adresse (?:introuvable|inexistante)',
    'usuario desconocido|destinatario desconocido|no se (?:ha encontrado|encontró) la dirección|utente sconosciuto|indirizzo (?:non trovato|inesistente)|gebruiker onbekend|onbekende gebruiker|adres niet gevonden',
    'ukjent (?:bruker|mottaker)|ukendt (?:bruger|modtager)|okänd (?:användare|mottagare)|tuntematon (?:käyttäjä|vastaanottaja)|nieznany (?:użytkownik|odbiorca)|usuário desconhecido|neznámý (?:uživatel|příjemce)|\\b5\\.1\\.(?:0|1|2|3|6|10)\\b',
  ].join('|'),
  'iu',
);
const ADDRESS = /[^\s<>()[\]",;:]{1,64}@[\p{L}\d.-]{3,253}/gu;

/** The recipients that a report says were not reached, each once. Without a part for programs only those whose address it says not to exist. */
export function undeliveredIn(report: DeliveryReport): Undelivered[] {
  const messageId = originalId(report);
  const found: Undelivered[] = [];
  const take = (written: string, why: UndeliveredWhy, said: string): void => {
    const address = addressKey(written.trim(), { tagsTellApart: true })?.key;
    if (address && found.length < MOST_RECIPIENTS && !found.some((item) => item.address === address))
      found.push({ address, messageId, why, said: said.replace(/\s+/g, ' ').trim().slice(0, MOST_SAID).toWellFormed() });
  };
  for (const status of report.statuses)
    for (const group of status.slice(0, MOST_TEXT).split(/\r?\n\s*\r?\n/)) {
      const recipient = fieldOf(group, 'original-recipient') || fieldOf(group, 'final-recipient');
      if (!/^failed\b/i.test(fieldOf(group, 'action'))) continue;
      const code = /\d\.\d{1,3}\.\d{1,3}/.exec(fieldOf(group, 'status'))?.[0] ?? '';
      const why = fieldOf(group, 'diagnostic-code');
      take(recipient.replace(/^[^;]*;/, ''), whyOf(code, why), why.replace(/^[^;]{0,40};/, ''));
    }
  if (report.statuses.length === 0) for (const address of addressesOfUnknown(report.text)) take(address, 'no address', '');
  return found;
}

function whyOf(code: string, said: string): UndeliveredWhy {
  if (NO_SUCH_ADDRESS.test(code) || (/^5\.(?:0\.0|5\.0)$/.test(code) && UNKNOWN.test(said))) return 'no address';
  if (/^[45]\.2\.2$/.test(code)) return 'mailbox full';
  if (/^[45]\.(?:2\.3|3\.4)$/.test(code)) return 'too large';
  if (/^[45]\.7\.\d+$/.test(code)) return 'refused';
  return /^[45]\.4\.\d+$/.test(code) ? 'not reached' : 'other';
}

/** The addresses that stand in a line that says so, or in the two before it. */
function addressesOfUnknown(text: string): string[] {
  const lines = text.slice(0, MOST_TEXT).split('\n');
  return lines.flatMap((line, at) => {
    if (line.length > 1000 || !UNKNOWN.test(line)) return [];
    for (const near of [line, lines[at - 1] ?? '', lines[at - 2] ?? '']) {
      const addresses = [...near.slice(0, 1000).matchAll(ADDRESS)].map(([address]) => address.replace(/\.+$/, ''));
      if (addresses.length > 0) return addresses.slice(0, 1);
    }
    return [];
  });
}

function fieldOf(group: string, name: string): string {
  const unfolded = group.replace(/\r?\n[ \t]+/g, ' ');
  for (const line of unfolded.split(/\r?\n/)) if (line.toLowerCase().startsWith(`${name}:`)) return line.slice(name.length + 1).trim();
  return '';
}

function originalId({ originals, references, text }: DeliveryReport): string | null {
  for (const original of originals) {
    const head = original.slice(0, MOST_TEXT).split(/\r?\n\r?\n/)[0] ?? '';
    const [id] = messageIds(fieldOf(head, 'message-id'));
    if (id) return id;
  }
  const [quoted = ''] = /^>?\s*message-id:.*$/im.exec(text.slice(0, MOST_TEXT)) ?? [];
  return messageIds(quoted)[0] ?? references.at(-1) ?? null;
}
