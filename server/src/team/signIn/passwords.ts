import { hash, verify } from '@node-rs/argon2';

// argon2id with the parameters that OWASP names as a minimum for interactive sign-in.
const OPTIONS = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export function hashPassword(password: string): Promise<string> {
  return hash(password, OPTIONS);
}

let decoy: Promise<string> | null = null;

/** Checks a password. Without a stored hash it takes as long and is false, so that nobody learns which addresses exist. */
export async function isPassword(stored: string | null, password: string): Promise<boolean> {
  decoy ??= hashPassword('nobody has this password');
  const matches = await verify(stored ?? (await decoy), password);
  return stored !== null && matches;
}
