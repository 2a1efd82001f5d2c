import { common, seenBy as words } from './words';
const WHO: Record<string, string> = {
  owner: words.theOwnersOfIts,
  record: common.thoseWhoOwnIts,
  everyone: words.everyoneInTheWorkspace,
};

/** Behind “seen by”: a level, its teams, and whether only that the email exists is seen. */
export function seenBy(visibility: string): string {
  const existenceOnly = visibility.endsWith(', exists');
  const plain = existenceOnly ? visibility.slice(0, -words.exists.length) : visibility;
  const who = plain.startsWith('teams: ') ? words.theTeam(plain.slice('teams: '.length).replace(', ', ' and ')) : (WHO[plain] ?? plain);
  return existenceOnly ? words.thatItExistsOnly(who) : who;
}
