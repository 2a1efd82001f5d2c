import { createHash, randomBytes } from 'node:crypto';
import { z } from 'zod';
import { MailFailure } from '../../base/network/mailFailure';
import type { Preset } from '../../base/network/presets';

/** What a provider's sign-in page gave. */
export interface Grant {
  accessToken: string;
  refreshToken: string;
  /** Milliseconds. */
  expiresAt: number;
}

const answerSchema = z.object({
  access_token: z.string(),
  refresh_token: z.string().optional(),
  expires_in: z.coerce.number().default(3600),
});
const ANSWER_MS = 15_000;

/** A sign-in that is begun: where to send the person, and what is needed to take up the answer. */
export function beginSignIn(preset: Preset, returnUrl: string, address: string): { url: string; state: string; verifier: string } {
  const redirect = redirectOf(preset);
  const state = randomBytes(24).toString('base64url');
  const verifier = randomBytes(48).toString('base64url');
  const url = new URL(redirect.authorizeUrl);
  const params = {
    response_type: 'code',
    client_id: redirect.clientId,
    redirect_uri: returnUrl,
    scope: redirect.scope,
    state,
    code_challenge: createHash('sha256').update(verifier).digest('base64url'),
    code_challenge_method: 'S256',
    login_hint: address,
    access_type: 'offline',
  };
  for (const [name, value] of Object.entries(params)) url.searchParams.set(name, value);
  return { url: url.href, state, verifier };
}

/** Takes up the code that the provider sent back (RFC 6749, RFC 7636). */
export function exchangeCode(preset: Preset, code: string, verifier: string, returnUrl: string): Promise<Grant> {
  return askForTokens(preset, { grant_type: 'authorization_code', code, code_verifier: verifier, redirect_uri: returnUrl }, '');
}

/** @throws {MailFailure} permission-withdrawn when the provider no longer grants it */
export function refreshGrant(preset: Preset, refreshToken: string): Promise<Grant> {
  return askForTokens(preset, { grant_type: 'refresh_token', refresh_token: refreshToken }, refreshToken);
}

/** Gives the permission back (RFC 7009); a provider that does not answer keeps no one from disconnecting. */
export async function revokeGrant(preset: Preset, refreshToken: string): Promise<void> {
  const { revokeUrl, clientId, clientSecret } = redirectOf(preset);
  if (!revokeUrl) return;
  const body = new URLSearchParams({ token: refreshToken, client_id: clientId, client_secret: clientSecret });
  await fetch(revokeUrl, { method: 'POST', body, signal: AbortSignal.timeout(ANSWER_MS) }).catch(() => undefined);
}

async function askForTokens(preset: Preset, form: Record<string, string>, keptRefreshToken: string): Promise<Grant> {
  const { tokenUrl, clientId, clientSecret } = redirectOf(preset);
  const body = new URLSearchParams({ ...form, client_id: clientId, ...(clientSecret ? { client_secret: clientSecret } : {}) });
  let response: Response;
  try {
    response = await fetch(tokenUrl, { method: 'POST', body, signal: AbortSignal.timeout(ANSWER_MS) });
  } catch {
    throw new MailFailure('no-answer', 'The sign-in service of the provider does not answer.');
  }
  const answer: unknown = await response.json().catch(() => null);
  if (response.status >= 500) throw new MailFailure('no-answer', `The sign-in service of the provider answered ${response.status}.`);
  const parsed = answerSchema.safeParse(answer);
  if (!response.ok || !parsed.success) throw new MailFailure('permission-withdrawn', describe(answer));
  return {
    accessToken: parsed.data.access_token,
    refreshToken: parsed.data.refresh_token ?? keptRefreshToken,
    expiresAt: Date.now() + parsed.data.expires_in * 1000,
  };
}

function redirectOf(preset: Preset): NonNullable<Preset['redirect']> {
  if (!preset.redirect) throw new MailFailure('sign-in-refused', `${preset.name} has no sign-in page.`);
  return preset.redirect;
}

function describe(answer: unknown): string {
  const told = z.object({ error: z.string(), error_description: z.string().optional() }).safeParse(answer);
  return told.success ? `${told.data.error}${told.data.error_description ? `: ${told.data.error_description}` : ''}`.slice(0, 300) : '';
}
