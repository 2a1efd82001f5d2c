/** The filing address of a record at a filing mailbox. */
export function filingAddress(mailbox: string, code: string): string {
  const at = mailbox.lastIndexOf('@');
  return `${mailbox.slice(0, at)}+${code}${mailbox.slice(at)}`;
}
