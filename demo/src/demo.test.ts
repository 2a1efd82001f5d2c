import { MboxSplitter, readEmail } from '@fulvet/core';
import type { EmailFacts } from '@fulvet/core';
import { beforeAll, describe, expect, test } from '@jest/globals';
import { writeMail } from './plan';
import { Random } from './random';
import type { World } from './world';
import { makeWorld } from './world';

const NOW = Date.UTC(2026, 10, 24, 9);
let world: World;
let facts: EmailFacts[];

/** Every message of every mailbox, the film apart: it is one email of 40 MB and says nothing here. */
beforeAll(async () => {
  const random = new Random(20_260_504);
  world = makeWorld(random, NOW);
  const parts = [...writeMail(world, random, NOW, 4000).mboxes()].flatMap((box) => box.parts).filter((part) => part.length < 5_000_000);
  const splitter = new MboxSplitter();
  const raws = parts.flatMap((part) => splitter.push(part)).concat(splitter.end());
  facts = await Promise.all(raws.map((message) => readEmail(message.raw, { arrivedAt: NOW })));
}, 120_000);

describe('the demo world', () => {
  test('is as large as a sales team’s', () => {
    expect(world.team).toHaveLength(12);
    expect(world.companies.filter((one) => one.onRecord)).toHaveLength(60);
    expect(world.outsiders.filter((one) => one.kind === 'contact')).toHaveLength(160);
    expect(world.outsiders.filter((one) => one.kind === 'lead')).toHaveLength(40);
    expect(world.deals).toHaveLength(70);
    expect(new Set(facts.map((one) => one.messageId)).size).toBeGreaterThan(3900);
  });

  test('has no address outside .example', () => {
    const domains = new Set(facts.flatMap((one) => one.participants.map((who) => who.domain)));
    expect([...domains].filter((domain) => !domain.endsWith('.example'))).toEqual([]);
  });

  test('is the same from the same seed', () => {
    const again = makeWorld(new Random(20_260_504), NOW);
    expect(again.outsiders.map((one) => one.email)).toEqual(world.outsiders.map((one) => one.email));
  });

  test('lies within nine months before its making, but for the logger whose clock is wrong', () => {
    const late = facts.filter((one) => (one.date.written ?? 0) > NOW);
    expect(late.map((one) => one.subject)).toEqual(['Clock of the logger']);
    expect(Math.min(...facts.map((one) => one.date.at))).toBeGreaterThan(NOW - 300 * 86_400_000);
  });

  test('does not say the same twice too often', () => {
    const own = facts.filter((one) => one.mailClass === 'person' && one.text.length > 80).map((one) => one.text.slice(0, 400));
    expect(new Set(own).size / own.length).toBeGreaterThan(0.6);
  });
});

describe('the facts of life are all there', () => {
  test.each([
    [
      'machine mail of every class',
      () =>
        (['newsletter', 'notice', 'auto-reply', 'bounce', 'calendar'] as const).every((mailClass) =>
          facts.some((one) => one.mailClass === mailClass),
        ),
    ],
    [
      'one email to eight people',
      () => facts.some((one) => one.subject === 'Round table on the storm gate' && one.participants.length === 9),
    ],
    ['400 recipients', () => facts.some((one) => one.participants.length > 400)],
    [
      'no date, no Message-ID, broken MIME',
      () =>
        facts.some((one) => one.date.doubt === 'missing') &&
        facts.some((one) => one.messageId === null) &&
        facts.some((one) => one.subject === 'Photo that broke off'),
    ],
    [
      'two emails that share a Message-ID',
      () =>
        facts
          .filter((one) => one.subject.startsWith('Copy machine'))
          .map((one) => one.messageId)
          .every((id, _, all) => id === all[0]),
    ],
    [
      'a subject in another script, and one with many marks',
      () =>
        facts.some((one) => one.subject.includes('潮位計')) &&
        facts.some((one) => one.subject.startsWith('AW: WG:') && one.baseSubject === 'Messwerte Schleuse'),
    ],
    [
      'the same email through a list and directly',
      () => new Set(facts.filter((one) => one.subject.includes('Barnacles')).map((one) => one.mailClass)).size === 2,
    ],
    [
      'forwarded inline and as attachment',
      () =>
        facts.some((one) => one.isForward && one.references.length > 0) &&
        facts.some((one) => one.attachments.some((file) => file.type === 'message/rfc822')),
    ],
    [
      'people whom we wrote to after a fair, of whom few answered',
      () => {
        const fair = facts.filter((one) => one.subject.includes('fair in Vardholm'));
        const theirs = fair.filter((one) => one.participants.some((who) => who.role === 'from' && who.domain !== 'quillmere.example'));
        return fair.length === 22 && theirs.length === 4;
      },
    ],
    [
      'a shared address that several answer',
      () =>
        new Set(
          facts
            .filter((one) => one.participants.some((who) => who.role === 'from' && who.address === world.shared))
            .map((one) => one.messageId),
        ).size > 5,
    ],
    [
      'private mail in a work mailbox',
      () =>
        ['dr-molar.example', 'larkfield-school.example', 'talentbridge.example'].every((domain) =>
          facts.some((one) => one.participants[0]?.domain === domain),
        ),
    ],
    [
      'two open deals with the same people, and a closed one beside a new one',
      () =>
        world.deals.some((one) => one.open && world.deals.some((other) => other !== one && other.open && other.company === one.company)) &&
        world.deals.some((one) => !one.open && world.deals.some((other) => other.open && other.company === one.company)),
    ],
    [
      'a reseller in deals of end customers',
      () => world.deals.some((one) => one.people.some((who) => who.company.type === 'reseller' && who.company !== one.company)),
    ],
    [
      'an account of four domains, and accounts that share one',
      () =>
        world.companies.some((one) => one.domains.length === 4) &&
        world.companies.filter((one) => one.domains[0] === 'northreach.example').length === 3,
    ],
    ['a colleague who left', () => world.team.some((one) => one.left)],
  ])('%s', (_, holds) => {
    expect(holds()).toBe(true);
  });
});
