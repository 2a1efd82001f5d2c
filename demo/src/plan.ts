import { specialCases } from './cases';
import { Correspondence } from './correspondence';
import { introductions } from './introductions';
import { meetingsAhead } from './invitations';
import { Mailboxes } from './mailboxes';
import { Random } from './random';
import type { World } from './world';
import { makeWorld } from './world';

const EMAILS = 4000;

/** The made-up company and its mail, before anything is stored. */
export interface DemoPlan {
  world: World;
  mailboxes: Mailboxes;
  now: number;
}

/** The same now and seed give the same world and the same mail. */
export function planDemo({ now, seed, emails }: { now: number; seed?: number | undefined; emails?: number | undefined }): DemoPlan {
  const random = new Random(seed ?? 20_260_504);
  const world = makeWorld(random, now);
  return { world, mailboxes: writeMail(world, random, now, emails ?? EMAILS), now };
}

export function writeMail(world: World, random: Random, now: number, emails: number): Mailboxes {
  const mailboxes = new Mailboxes(new Set([...world.team.map((teammate) => teammate.email), world.shared]));
  const letters = new Correspondence(world, mailboxes, random, now);
  specialCases(world, mailboxes, letters, now);
  if (emails >= 1500) letters.everydayMail();
  letters.fill(emails);
  if (emails >= 1500) {
    introductions(world, mailboxes, now);
    meetingsAhead(world, mailboxes, letters, now);
  }
  return mailboxes;
}
