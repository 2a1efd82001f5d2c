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
    expect(world.companies.filter((company) => company.onRecord)).toHaveLength(60);
    expect(world.outsiders.filter((outsider) => outsider.kind === 'contact')).toHaveLength(160);
    expect(world.outsiders.filter((outsider) => outsider.kind === 'lead')).toHaveLength(40);
    expect(world.deals).toHaveLength(70);
    expect(new Set(facts.map((fact) => fact.messageId)).size).toBeGreaterThan(3900);
  });

  test('has no address outside .example', () => {
    const domains = new Set(facts.flatMap((fact) => fact.participants.map((who) => who.domain)));
    expect([...domains].filter((domain) => !domain.endsWith('.example'))).toEqual([]);
  });

  test('is the same from the same seed', () => {
    const again = makeWorld(new Random(20_260_504), NOW);
    expect(again.outsiders.map((outsider) => outsider.email)).toEqual(world.outsiders.map((outsider) => outsider.email));
  });

  test('lies within nine months before its making, but for the logger whose clock is wrong', () => {
    const late = facts.filter((fact) => (fact.date.written ?? 0) > NOW);
    expect(late.map((item) => item.subject)).toEqual(['Clock of the logger']);
    expect(Math.min(...facts.map((fact) => fact.date.at))).toBeGreaterThan(NOW - 300 * 86_400_000);
  });

  test('does not say the same twice too often', () => {
    const own = facts.filter((fact) => fact.mailClass === 'person' && fact.text.length > 80).map((fact) => fact.text.slice(0, 400));
    expect(new Set(own).size / own.length).toBeGreaterThan(0.6);
  });
});

describe('the facts of life are all there', () => {
  test.each([
    [
      'machine mail of every class',
      () =>
        (['newsletter', 'notice', 'auto-reply', 'bounce', 'calendar'] as const).every((mailClass) =>
          facts.some((fact) => fact.mailClass === mailClass),
        ),
    ],
    [
      'one email to eight people',
      () => facts.some((fact) => fact.subject === 'Round table on the storm gate' && fact.participants.length === 9),
    ],
    ['400 recipients', () => facts.some((fact) => fact.participants.length > 400)],
    [
      'no date, no Message-ID, broken MIME',
      () =>
        facts.some((fact) => fact.date.doubt === 'missing') &&
        facts.some((fact) => fact.messageId === null) &&
        facts.some((fact) => fact.subject === 'Photo that broke off'),
    ],
    [
      'two emails that share a Message-ID',
      () =>
        facts
          .filter((fact) => fact.subject.startsWith('Copy machine'))
          .map((fact) => fact.messageId)
          .every((id, _, all) => id === all[0]),
    ],
    [
      'a subject in another script, and one with many marks',
      () =>
        facts.some((fact) => fact.subject.includes('潮位計')) &&
        facts.some((fact) => fact.subject.startsWith('AW: WG:') && fact.baseSubject === 'Messwerte Schleuse'),
    ],
    [
      'the same email through a list and directly',
      // People talk on that list: both copies are their author's.
      () => {
        const copies = facts.filter((fact) => fact.subject.includes('Barnacles'));
        return new Set(copies.map((fact) => fact.subject)).size === 2 && copies.every((fact) => fact.mailClass === 'person');
      },
    ],
    [
      'forwarded inline and as attachment',
      () =>
        facts.some((fact) => fact.isForward && fact.references.length > 0) &&
        facts.some((fact) => fact.attachments.some((file) => file.type === 'message/rfc822')),
    ],
    [
      'people whom we wrote to after a fair, of whom few answered',
      () => {
        const fair = facts.filter((fact) => fact.subject.includes('fair in Vardholm'));
        const theirs = fair.filter((item) => item.participants.some((who) => who.role === 'from' && who.domain !== 'quillmere.example'));
        return fair.length === 22 && theirs.length === 4;
      },
    ],
    [
      'a shared address that several answer',
      () =>
        new Set(
          facts
            .filter((fact) => fact.participants.some((who) => who.role === 'from' && who.address === world.shared))
            .map((fact) => fact.messageId),
        ).size > 5,
    ],
    [
      'private mail in a work mailbox',
      () =>
        ['dr-molar.example', 'larkfield-school.example', 'talentbridge.example'].every((domain) =>
          facts.some((fact) => fact.participants[0]?.domain === domain),
        ),
    ],
    [
      'two open deals with the same people, and a closed one beside a new one',
      () =>
        world.deals.some(
          (deal) => deal.open && world.deals.some((other) => other !== deal && other.open && other.company === deal.company),
        ) && world.deals.some((deal) => !deal.open && world.deals.some((other) => other.open && other.company === deal.company)),
    ],
    [
      'a reseller in deals of end customers',
      () => world.deals.some((deal) => deal.people.some((who) => who.company.type === 'reseller' && who.company !== deal.company)),
    ],
    [
      'an account of four domains, and accounts that share one',
      () =>
        world.companies.some((company) => company.domains.length === 4) &&
        world.companies.filter((company) => company.domains[0] === 'northreach.example').length === 3,
    ],
    ['a colleague who left', () => world.team.some((teammate) => teammate.left)],
  ])('%s', (_, holds) => {
    expect(holds()).toBe(true);
  });
});
