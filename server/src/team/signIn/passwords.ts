import { Refusal } from '../../base/refusal';
import { hash, verify } from '@node-rs/argon2';
import { dictionary } from '@zxcvbn-ts/language-common';

// argon2id with the parameters that OWASP names as a minimum for interactive sign-in.
const OPTIONS = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

const COMMON = 10_000;
let common: ReadonlySet<string> | null = null;

/**
 * Refuses a password that an attacker tries first: one of the 10,000 most common, or the address or name of the account. The length is the
 * contract's to check.
 *
 * @returns a refusal otherwise
 */
export function demandGoodPassword(password: string, account: { email: string; name: string }): Refusal | null {
  common ??= new Set(dictionary.passwords.slice(0, COMMON));
  const plain = simplified(password);
  const [local = '', domain = ''] = account.email.split('@');
  const own = [account.email, local, domain, account.name, `${local}${domain.split('.')[0] ?? ''}`].map(simplified);
  const because = own.some((text) => text !== '' && (text === plain || (text.length >= 6 && plain.replace(text, '').length < 4)))
    ? 'is your own address or name'
    : common.has(password.toLowerCase()) || common.has(plain) || new Set(plain).size < 4
      ? 'is one of those that attackers try first'
      : null;
  if (because === null) return null;
  return new Refusal('unfit', 'weak-password', `This password ${because}. Nothing was changed; choose another.`, { password: because });
}

const simplified = (text: string): string =>
  text
    .normalize('NFKC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]/gu, '');

export function hashPassword(password: string): Promise<string> {
  return hash(password, OPTIONS);
}

let decoy: Promise<string> | null = null;

/** Checks a password. Without a stored hash it takes as long and is false, so that no one learns which addresses exist. */
export async function isPassword(stored: string | null, password: string): Promise<boolean> {
  decoy ??= hashPassword('no one has this password');
  const matches = await verify(stored ?? (await decoy), password);
  return stored !== null && matches;
}
