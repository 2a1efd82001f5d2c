import { exportJWK, generateKeyPair, SignJWT } from 'jose';
import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { MailStore } from './mailStore';
import { html, page, readForm, redirect, sendJson } from './web';

interface Grant {
  address: string;
  expires: number;
}

interface Code extends Grant {
  challenge: string;
  redirectUri: string;
  clientId: string;
  /** For who signs in with it elsewhere: what the program asked for, and its nonce. */
  scope: string;
  nonce: string;
}

export interface SignInPageOptions {
  clientId: string;
  clientSecret: string;
  /** How long an access token opens the mailbox, in seconds. */
  accessSeconds: number;
}

/**
 * The provider's OAuth 2.0 sign-in: authorization code with PKCE (RFC 7636), refresh (RFC 6749) and revocation (RFC 7009); and OpenID Connect for signing
 * in elsewhere with an account here.
 */
export class SignInPage {
  private readonly codes = new Map<string, Code>();
  private readonly access = new Map<string, Grant>();
  private readonly refresh = new Map<string, Grant>();
  private readonly keys = generateKeyPair('RS256');

  constructor(
    private readonly store: MailStore,
    readonly options: SignInPageOptions,
  ) {}

  readonly tokenOwner = (token: string): string | null => {
    const grant = this.access.get(token);
    return grant && grant.expires > Date.now() ? grant.address : null;
  };

  /** Ends every grant, as where someone takes back the permission at the provider. */
  revokeAll(address: string): void {
    for (const grants of [this.access, this.refresh])
      for (const [token, grant] of grants) if (grant.address === address.toLowerCase()) grants.delete(token);
  }

  /** @returns true when the request was one of these */
  async handle(req: IncomingMessage, res: ServerResponse, url: URL): Promise<boolean> {
    if (url.pathname === '/authorize' && req.method === 'GET') this.show(res, url.searchParams, '');
    else if (url.pathname === '/authorize' && req.method === 'POST') this.grant(res, await readForm(req));
    else if (url.pathname === '/token' && req.method === 'POST') await this.token(req, res, await readForm(req));
    else if (url.pathname === '/.well-known/openid-configuration') this.describe(req, res);
    else if (url.pathname === '/keys')
      sendJson(res, 200, { keys: [{ ...(await exportJWK((await this.keys).publicKey)), kid: KEY, use: 'sig', alg: 'RS256' }] });
    else if (url.pathname === '/revoke' && req.method === 'POST') {
      const token = (await readForm(req)).get('token') ?? '';
      const grant = this.refresh.get(token) ?? this.access.get(token);
      if (grant) this.revokeAll(grant.address);
      sendJson(res, 200, {});
    } else return false;
    return true;
  }

  private describe(req: IncomingMessage, res: ServerResponse): void {
    const issuer = issuerOf(req);
    sendJson(res, 200, {
      issuer,
      authorization_endpoint: `${issuer}/authorize`,
      token_endpoint: `${issuer}/token`,
      jwks_uri: `${issuer}/keys`,
      response_types_supported: ['code'],
      subject_types_supported: ['public'],
      id_token_signing_alg_values_supported: ['RS256'],
      scopes_supported: ['openid', 'email', 'profile'],
      token_endpoint_auth_methods_supported: ['client_secret_post', 'client_secret_basic'],
      code_challenge_methods_supported: ['S256'],
    });
  }

  private show(res: ServerResponse, params: URLSearchParams, problem: string): void {
    if (
      params.get('client_id') !== this.options.clientId ||
      params.get('code_challenge_method') !== 'S256' ||
      !params.get('redirect_uri')
    ) {
      page(res, 400, 'Longshore sign-in', '<p>This program is not known here, or it asked in a way that is not taken.</p>');
      return;
    }
    const kept = [...params].map(([name, value]) => `<input type="hidden" name="${html(name)}" value="${html(value)}">`).join('');
    page(
      res,
      200,
      'Longshore sign-in',
      `<p><b>Fulvet</b> asks to ${(params.get('scope') ?? '').split(' ').includes('openid') ? 'know who you are' : 'read and send mail of your Longshore mailbox'}.</p>${problem ? `<p role="alert">${html(problem)}</p>` : ''}
      <form method="post" action="/authorize">${kept}
        <label>Address <input name="address" value="${html(params.get('login_hint') ?? '')}" autocomplete="username"></label>
        <label>Password <input name="password" type="password" autocomplete="current-password"></label>
        <button name="allow" value="yes">Allow</button> <button name="allow" value="no">Refuse</button>
      </form>`,
    );
  }

  private grant(res: ServerResponse, form: URLSearchParams): void {
    const back = new URL(form.get('redirect_uri') ?? 'about:blank');
    if (form.get('state')) back.searchParams.set('state', form.get('state') ?? '');
    if (form.get('allow') !== 'yes') {
      back.searchParams.set('error', 'access_denied');
      return redirect(res, back.href);
    }
    const account = this.store.accounts.get((form.get('address') ?? '').toLowerCase());
    if (!account || account.password !== form.get('password')) return this.show(res, form, 'Address or password is wrong.');
    const code = randomBytes(24).toString('base64url');
    this.codes.set(code, {
      address: account.address,
      expires: Date.now() + 60_000,
      challenge: form.get('code_challenge') ?? '',
      redirectUri: form.get('redirect_uri') ?? '',
      clientId: form.get('client_id') ?? '',
      scope: form.get('scope') ?? '',
      nonce: form.get('nonce') ?? '',
    });
    back.searchParams.set('code', code);
    return redirect(res, back.href);
  }

  private async token(req: IncomingMessage, res: ServerResponse, form: URLSearchParams): Promise<void> {
    const code = form.get('grant_type') === 'refresh_token' ? null : this.exchanged(form);
    const owner = code === null ? this.refreshed(form) : code.address;
    const [clientId, clientSecret] = clientOf(req, form);
    if (owner === null || clientId !== this.options.clientId || !same(clientSecret, this.options.clientSecret))
      return sendJson(res, 400, {
        error: 'invalid_grant',
        error_description: 'The permission is used up, withdrawn or not for this program',
      });
    const access = randomBytes(24).toString('base64url');
    this.access.set(access, { address: owner, expires: Date.now() + this.options.accessSeconds * 1000 });
    const refresh = form.get('refresh_token') ?? randomBytes(24).toString('base64url');
    this.refresh.set(refresh, { address: owner, expires: Infinity });
    return sendJson(res, 200, {
      access_token: access,
      refresh_token: refresh,
      token_type: 'Bearer',
      expires_in: this.options.accessSeconds,
      ...(code?.scope.split(' ').includes('openid') ? { id_token: await this.idToken(req, code) } : {}),
    });
  }

  private async idToken(req: IncomingMessage, { address, nonce, clientId }: Code): Promise<string> {
    const account = this.store.accounts.get(address);
    return new SignJWT({
      email: address,
      email_verified: account?.verified ?? false,
      name: address.slice(0, address.indexOf('@')),
      ...(nonce ? { nonce } : {}),
    })
      .setProtectedHeader({ alg: 'RS256', kid: KEY })
      .setIssuer(issuerOf(req))
      .setSubject(createHash('sha256').update(address).digest('hex').slice(0, 20))
      .setAudience(clientId)
      .setIssuedAt()
      .setExpirationTime('5m')
      .sign((await this.keys).privateKey);
  }

  private refreshed(form: URLSearchParams): string | null {
    return this.refresh.get(form.get('refresh_token') ?? '')?.address ?? null;
  }

  private exchanged(form: URLSearchParams): Code | null {
    const text = form.get('code') ?? '';
    const code = this.codes.get(text);
    this.codes.delete(text);
    if (!code || code.expires < Date.now() || code.redirectUri !== form.get('redirect_uri')) return null;
    const challenge = createHash('sha256')
      .update(form.get('code_verifier') ?? '')
      .digest('base64url');
    return same(challenge, code.challenge) ? code : null;
  }
}

const KEY = 'longshore-1';

const issuerOf = (req: IncomingMessage): string => `http://${req.headers.host ?? 'localhost'}`;

/** Id and secret of the program, from the form or from the header. */
function clientOf(req: IncomingMessage, form: URLSearchParams): [string, string] {
  const basic = /^Basic (\S+)$/i.exec(req.headers.authorization ?? '')?.[1];
  if (!basic) return [form.get('client_id') ?? '', form.get('client_secret') ?? ''];
  const [id = '', ...secret] = Buffer.from(basic, 'base64').toString('utf8').split(':');
  return [decodeURIComponent(id), decodeURIComponent(secret.join(':'))];
}

function same(item: string, other: string): boolean {
  const first = Buffer.from(item);
  const second = Buffer.from(other);
  return first.length === second.length && timingSafeEqual(first, second);
}
