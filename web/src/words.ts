/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const app = {
  loading: 'Loading',
  setUpYourSecond: 'Set up your second factor first',
  asksEveryMemberFor: (workspace: string) => `${workspace} asks every member for one.`,
} as const;
