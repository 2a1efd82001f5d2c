import { addressKey } from '@fulvet/core';

/** The form in which mailbox addresses are kept. */
export function mailboxKey(address: string): string {
  return addressKey(address, { tagsTellApart: true })?.key ?? address.toLowerCase();
}
