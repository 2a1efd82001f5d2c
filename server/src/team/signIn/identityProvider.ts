import { z } from 'zod';
import { json, rowsOf } from '../../base/db/rows';
import { Refusal, isRefusal } from '../../base/refusal';
import { sql } from 'drizzle-orm';
import * as openid from 'openid-client';
import { guardedFetch } from '../../base/network/guardedFetch';
import type { Db } from '../../base/db/database';
import { PROVIDER_SECRET } from '../../base/secrets/sealedFor';
import type { Services } from '../../base/services';

/** A sign-in at the provider that is begun. */
export interface Begun {
  state: string;
  nonce: string;
  verifier: string;
}

/** Whom the provider vouches for. */
export interface Vouched {
  /** Issuer and subject: who it is for ever, whatever their address. */
  subject: string;
  email: string;
}

const ANSWER_SECONDS = 10;

/** Where to send someone who signs in at the workspace's identity provider: OpenID Connect, authorization code with PKCE. */
export async function beginAtProvider(services: Services, returnUrl: string): Promise<{ url: string; begun: Begun } | Refusal> {
  const config = await providerOf(services);
  if (isRefusal(config)) return config;
  const begun = { state: openid.randomState(), nonce: openid.randomNonce(), verifier: openid.randomPKCECodeVerifier() };
  const url = openid.buildAuthorizationUrl(config, {
    redirect_uri: returnUrl,
    scope: 'openid email profile',
    code_challenge: await openid.calculatePKCECodeChallenge(begun.verifier),
    code_challenge_method: 'S256',
    state: begun.state,
    nonce: begun.nonce,
  });
  return { url: url.href, begun };
}

/** Takes up what the provider sent back: state, nonce, signature, issuer, audience and time are checked. */
export async function takeUpFromProvider(services: Services, back: URL, begun: Begun): Promise<Vouched | Refusal> {
  const config = await providerOf(services);
  if (isRefusal(config)) return config;
  const failed = (why: string): Refusal =>
    new Refusal('signedOut', 'provider-refused', `The identity provider did not sign you in: ${why}. Try again, or sign in by password.`);
  let claims: openid.IDToken | undefined;
  try {
    const tokens = await openid.authorizationCodeGrant(config, back, {
      pkceCodeVerifier: begun.verifier,
      expectedState: begun.state,
      expectedNonce: begun.nonce,
      idTokenExpected: true,
    });
    claims = tokens.claims();
  } catch (error) {
    services.log.warn({ err: error }, 'identity provider');
    return failed(back.searchParams.get('error') === 'access_denied' ? 'it was refused there' : 'its answer could not be verified');
  }
  if (!claims) return failed('it did not say who you are');
  if (typeof claims.email !== 'string' || claims.email_verified !== true) return failed('it does not vouch for your address');
  return { subject: `${claims.iss}|${claims.sub}`, email: claims.email };
}

const workspaceSecretRow = z.object({ sealed: z.string() });

async function providerOf({ database, keyRing, network }: Services): Promise<openid.Configuration | Refusal> {
  const known = await providerSettings(database.app);
  const rows = await rowsOf(database.worker, workspaceSecretRow, sql`SELECT sealed FROM workspace_secrets WHERE name = ${PROVIDER_SECRET}`);
  if (!known || !rows[0]) return new Refusal('unknown', 'no-provider', 'No identity provider is set up. Sign in by password.');
  const issuer = new URL(known.issuer);
  try {
    return await openid.discovery(issuer, known.clientId, keyRing.open(rows[0].sealed, PROVIDER_SECRET), undefined, {
      timeout: ANSWER_SECONDS,
      // Discovery names the other endpoints: each is resolved once, checked, and asked at that address.
      [openid.customFetch]: guardedFetch(network),
      // Without TLS on loopback and in private networks alone, where the installation allows those.
      execute: issuer.protocol === 'http:' && network.allowsPrivate ? [openid.allowInsecureRequests] : [],
    });
  } catch {
    return new Refusal(
      'elsewhere',
      'no-provider',
      'The identity provider does not answer as one. Sign in by password, and tell an administrator.',
    );
  }
}

const workspaceRow = z.object({ provider: json<{ issuer: string; clientId: string; label: string }>().nullable() });

export async function providerSettings(db: Db): Promise<{ issuer: string; clientId: string; label: string } | null> {
  const rows = await rowsOf(db, workspaceRow, sql`SELECT identity_provider AS provider FROM workspace`);
  return rows[0]?.provider ?? null;
}
