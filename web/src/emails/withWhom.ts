import type { EmailRow } from '@fulvet/contract';
import { nameOf } from '../parts/people';
import { withWhom as words } from './words';

/** With whom an email was: the sender of what we received, the recipients of what we sent; only domains where no more may be known. */
export function withWhom(email: EmailRow): string {
  const { content } = email;
  if (!content) return email.externalDomains.slice(0, 2).join(', ') || 'internal';
  if (email.direction === 'received') return content.from ? nameOf(content.from) : words.noSender;
  const external = content.to.filter((item) => !item.ours);
  const shown = (external.length > 0 ? external : content.to).map(nameOf);
  return shown.length > 1 ? `${shown[0] ?? ''} +${content.recipientCount - 1}` : (shown[0] ?? words.noRecipient);
}
