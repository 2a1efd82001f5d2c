import { z } from 'zod';
import type { RouteShape } from '../route';
import { ADMINS, EVERYBODY, ROLES } from '../route';
import * as s from '../shapes';
import { idParam, nothing } from './params';

export const teamRoutes = {
  getSession: {
    method: 'get',
    path: '/session',
    access: 'public',
    summary: 'Who is signed in, and whether the installation is set up',
    response: s.session,
  },
  signIn: {
    method: 'post',
    path: '/session',
    access: 'public',
    summary: 'Sign in with address and password',
    body: z.strictObject({ email: z.string().max(320), password: z.string().max(200) }),
    response: s.session,
    errors: ['wrong-sign-in', 'too-many-attempts'],
  },
  signOut: { method: 'delete', path: '/session', access: EVERYBODY, summary: 'Sign out', response: nothing },
  setUp: {
    method: 'post',
    path: '/setup',
    access: 'public',
    summary: 'Set up an empty installation: first administrator and own domains',
    body: s.setupRequest,
    response: z.object({ user: s.user, token: z.string() }),
    errors: ['set-up-already'],
  },
  openApi: { method: 'get', path: '/openapi.json', access: 'public', summary: 'This description', response: z.unknown() },

  listTokens: {
    method: 'get',
    path: '/me/tokens',
    access: EVERYBODY,
    summary: 'Own access tokens',
    response: z.object({ tokens: z.array(s.accessToken) }),
  },
  createToken: {
    method: 'post',
    path: '/me/tokens',
    access: EVERYBODY,
    summary: 'Create an access token; it is shown once',
    body: z.strictObject({ name: z.string().trim().min(1).max(100) }),
    response: z.object({ token: z.string(), entry: s.accessToken }),
  },
  revokeToken: {
    method: 'delete',
    path: '/me/tokens/{id}',
    access: EVERYBODY,
    summary: 'Revoke an access token',
    params: idParam,
    response: nothing,
  },

  listTeam: {
    method: 'get',
    path: '/team',
    access: EVERYBODY,
    summary: 'The team',
    response: z.object({ members: z.array(s.teamMember) }),
  },
  addMember: {
    method: 'post',
    path: '/team',
    access: ADMINS,
    summary: 'Add a member',
    body: z.strictObject({
      email: s.email,
      name: z.string().trim().min(1).max(100),
      role: z.enum(ROLES),
      password: z.string().min(10, { message: 'must have at least 10 characters' }).max(200).optional(),
    }),
    response: s.teamMember,
    errors: ['exists'],
  },
  listTeams: {
    method: 'get',
    path: '/teams',
    access: EVERYBODY,
    summary: 'Teams, to which rules and shares refer',
    response: z.object({ teams: z.array(s.team) }),
  },
  addTeam: {
    method: 'post',
    path: '/teams',
    access: ADMINS,
    summary: 'Make a team',
    body: z.strictObject({
      name: z.string().trim().min(1, { message: 'is missing' }).max(100),
      members: z.array(z.number().int().positive()).max(2000).default([]),
    }),
    response: s.team,
    errors: ['exists'],
  },
  setTeamMembers: {
    method: 'put',
    path: '/teams/{id}',
    access: ADMINS,
    summary: 'Say who is in a team',
    params: idParam,
    body: z.strictObject({ members: z.array(z.number().int().positive()).max(2000) }),
    response: s.team,
  },
  removeTeam: {
    method: 'delete',
    path: '/teams/{id}',
    access: ADMINS,
    summary: 'Remove a team; refused while the rulebook in force names it',
    params: idParam,
    response: nothing,
    errors: ['in-use'],
  },
  setPassword: {
    method: 'put',
    path: '/team/{id}/password',
    access: ADMINS,
    summary: 'Set a member’s password; their sessions end',
    params: idParam,
    body: z.strictObject({ password: z.string().min(10, { message: 'must have at least 10 characters' }).max(200) }),
    response: nothing,
  },
} as const satisfies Record<string, RouteShape>;
