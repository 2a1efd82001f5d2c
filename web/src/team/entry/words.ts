/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const join = {
  looking: 'Looking',
  joinATeam: 'Join a team',
  join: (workspace: string) => `Join ${workspace}`,
  invitesYou: '{invitedBy} invites you, {email}.',
  yourName: 'Your name',
  aPasswordAtLeast: 'A password, at least 10 characters',
  joinNow: 'Join',
} as const;

export const setUp = {
  ourTeam: 'Our team',
  setUpFulvet: 'Set up Fulvet',
  youBecomeTheFirst: 'You become the first administrator. Nothing is shared and no record is created until you allow it.',
  nameOfTheWorkspace: 'Name of the workspace',
  yourName: 'Your name',
  yourAddress: 'Your address',
  atLeast10Characters: 'At least 10 characters.',
  ourOwnDomains: 'Our own domains',
  everyoneWithAnAddress: 'Everyone with an address at these domains is a colleague. Separate several domains with commas.',
  setUp: 'Set up',
  settingUp: 'Setting up …',
} as const;

export const signIn = {
  signInTo: (workspace: string) => `Sign in to ${workspace}`,
  signIn: 'Sign in',
  signingIn: 'Signing in …',
  signInWith: (provider: string) => `Sign in with ${provider}`,
  theCodeFor: (workspace: string) => `The code for ${workspace}`,
  codeOfYourAuthenticator: 'Code of your authenticator app, or a recovery code',
} as const;
