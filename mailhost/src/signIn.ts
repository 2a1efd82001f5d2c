import type { Account, MailStore } from './mailStore';

/** Who an access token stands for, or null. */
export type TokenOwner = (token: string) => string | null;

/** The two ways into a mailbox: password, or a token of the provider's sign-in page. */
export class SignIn {
  constructor(
    private readonly store: MailStore,
    private readonly tokenOwner: TokenOwner,
  ) {}

  byPassword(name: string, password: string): Account | null {
    const account = this.store.accounts.get(name.toLowerCase());
    return account && password !== '' && account.password === password ? account : null;
  }

  /** A token opens its owner's mailbox, and those that are shared with the owner. */
  byToken(name: string, token: string): Account | null {
    const owner = this.tokenOwner(token);
    const account = this.store.accounts.get(name.toLowerCase());
    if (owner === null || !account) return null;
    return account.address === owner || account.sharedWith.includes(owner) ? account : null;
  }
}
