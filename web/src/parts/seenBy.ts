const WHO: Record<string, string> = {
  owner: 'the owners of its mailboxes only',
  record: 'those who own its records',
  everyone: 'everyone in the workspace',
};

/** Behind “seen by”: a level, its teams, and whether only that the email exists is seen. */
export function seenBy(visibility: string): string {
  const existenceOnly = visibility.endsWith(', exists');
  const plain = existenceOnly ? visibility.slice(0, -', exists'.length) : visibility;
  const who = plain.startsWith('teams: ') ? `the team ${plain.slice('teams: '.length).replace(', ', ' and ')}` : (WHO[plain] ?? plain);
  return existenceOnly ? `${who}, that it exists only` : who;
}
