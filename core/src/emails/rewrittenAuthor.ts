import { addressKey, isRoleLocal } from '../address/address';
import { parseAddressList } from '../address/parseAddressList';
import { nameKey } from '../person/nameKey';
import { domainToAscii } from '../domain/domain';
import type { HeaderField } from './headers';
import { headerValue } from './headers';
import type { SenderCheck } from './senderCheck';
import { isAligned, isUnder } from './senderCheck';

const VIA = /^['"]?(.+?)['"]?\s+via\s+(\S.*)$/i;

type Named = { address: string; name: string };

/** An author, and what sent the email on: a group or list, or a form on a site. */
export interface RewrittenAuthor {
  by: 'group' | 'form';
  author: Named;
  via: Named;
}

/**
 * Whether what an email that was sent on says of its author is proven: it came through a list, group or form of the team's own domains, and the receiving
 * server found nothing against that; or through a list that names itself (RFC 2919) and whose own domain the receiving server confirmed.
 */
export function isProven(
  { by, via }: RewrittenAuthor,
  fields: readonly HeaderField[],
  check: SenderCheck,
  ownDomains: readonly string[],
): boolean {
  const domain = addressKey(via.address)?.domain ?? '';
  if (isUnder(domain, ownDomains)) return check !== 'failed';
  const [, list = ''] = LIST.exec(headerValue(fields, 'list-id')) ?? [];
  return by === 'group' && check === 'passed' && isAligned(domainToAscii(list), domain);
}

/** What stands between the brackets of a List-Id begins with the name of the list, which is a label of its domain. */
const LIST = /<([^<>\s]{1,253})>\s*$/;

/** Names under which forms on a company's own site send what someone wrote there. */
const FORM =
  /^(?:web[._-]?(?:form|site|mail|shop)s?|www|word-?press|forms?|(?:contact|kontakt)[._-]?(?:form|formular)?|formular|formulaire|home-?page|hello|info|enquir(?:y|ies)|inquir(?:y|ies)|anfragen?|no-?reply)$/;

/**
 * Who wrote an email that was sent on under another address, or null where From names the author.
 *
 * Lists and groups rewrite From so that the authentication of the author's domain holds (RFC 7960, section 4): it reads “Ida Brandt via Sales
 * <sales@…>”, and the author stands in X-Original-From, else in Reply-To. A Reply-To of someone else's name is no author: a ticket desk, say.
 * A form on a site writes to addresses of its own domain, and names in Reply-To who filled it in.
 */
export function rewrittenAuthor(fields: readonly HeaderField[]): RewrittenAuthor | null {
  const [from, ...others] = parseAddressList(headerValue(fields, 'from'));
  const sender = from && addressKey(from.address);
  if (!sender || others.length > 0) return null;
  const [, written, group] = VIA.exec(from.name) ?? [];
  const writtenBy = (address: string, name: string, by: RewrittenAuthor['by'] = 'group'): RewrittenAuthor => ({
    by,
    author: { address, name },
    via: { address: from.address, name: group ?? from.name },
  });
  const [original] = parseAddressList(headerValue(fields, 'x-original-from'));
  if (original && addressKey(original.address)) return writtenBy(original.address, original.name || (written ?? ''));
  const [reply, ...more] = parseAddressList(headerValue(fields, 'reply-to')).filter(
    (address) => addressKey(address.address)?.key !== sender.key,
  );
  const answered = reply && addressKey(reply.address);
  if (!answered || more.length > 0) return null;
  if (written !== undefined)
    return reply.name === '' || nameKey(reply.name) === nameKey(written) ? writtenBy(reply.address, written) : null;
  if (!FORM.test(sender.local) || answered.domain === sender.domain || isRoleLocal(answered.local)) return null;
  const to = ['to', 'cc'].flatMap((field) => parseAddressList(headerValue(fields, field)));
  return to.length > 0 && to.every((address) => addressKey(address.address)?.domain === sender.domain)
    ? writtenBy(reply.address, reply.name, 'form')
    : null;
}
