import type { Random } from './random';
import { FAMILY, GIVEN, KINDS, PLACES, TITLES } from './words';

export interface Teammate {
  name: string;
  email: string;
  role: 'admin' | 'manager' | 'rep' | 'viewer';
  title: string;
  /** Left the company: the mailbox and the history stay. */
  left: boolean;
}

export interface Company {
  name: string;
  domains: string[];
  type: string;
  parent: string | null;
  owner: Teammate;
  /** Stands in the records; the others are met in mail only. */
  onRecord: boolean;
}

export interface Outsider {
  name: string;
  email: string;
  otherEmail: string | null;
  company: Company;
  title: string;
  phone: string;
  kind: 'contact' | 'lead' | 'unknown';
}

export interface DemoDeal {
  code: string;
  name: string;
  company: Company;
  owner: Teammate;
  stage: string;
  open: boolean;
  amount: number;
  people: Outsider[];
  openedOn?: string;
  closedOn: string | null;
}

export interface World {
  team: Teammate[];
  shared: string;
  companies: Company[];
  outsiders: Outsider[];
  deals: DemoDeal[];
}

export const OWN_DOMAIN = 'quillmere.example';
/** A made-up public mail provider; the rulebook of the demo names it as one. */
export const PROVIDER = 'driftpost.example';

const TEAM: [string, Teammate['role'], string, boolean?][] = [
  ['Hedda Quillmere', 'admin', 'Sales Operations'],
  ['Matteo Brandvold', 'manager', 'Head of Sales'],
  ['Nadia Okonjira', 'rep', 'Sales, Harbours'],
  ['Jonas Fenwhistle', 'rep', 'Sales, Water Boards'],
  ['Priya Vesterhus', 'rep', 'Sales, Aquaculture'],
  ['Tobias Calloway', 'rep', 'Sales, Dredging and Resellers'],
  ['Ines Marchetta', 'rep', 'Tender Desk'],
  ['Oluwaseun Thorngate', 'rep', 'Service Sales'],
  ['Freya Zandvoorde', 'rep', 'Inside Sales'],
  ['Kenji Moorcrest', 'rep', 'Application Engineering'],
  ['Astrid Pellworm', 'viewer', 'Production Planning'],
  ['Bruno Saltmarsh', 'rep', 'Sales, Research', true],
];

/** Stages of open deals, in order. */
export const STAGES = ['Enquiry', 'Site survey', 'Quoted', 'Negotiation', 'Order expected'];
const DAY = 86_400_000;

/** The made-up company, its customers and its deals. */
export function makeWorld(random: Random, now: number): World {
  const team = TEAM.map(([name, role, title, left]): Teammate => ({
    name,
    role,
    title,
    left: left ?? false,
    email: `${asciiOf(name).split(' ').join('.')}@${OWN_DOMAIN}`,
  }));
  const reps = team.filter((teammate) => teammate.role === 'rep' || teammate.role === 'manager');
  const companies = makeCompanies(random, reps);
  const outsiders = makeOutsiders(random, companies);
  return { team, shared: `sales@${OWN_DOMAIN}`, companies, outsiders, deals: makeDeals(random, companies, outsiders, now) };
}

function makeCompanies(random: Random, reps: readonly Teammate[]): Company[] {
  const combinations = random.shuffled(
    PLACES.flatMap((place, at) => [0, 3].map((shift) => ({ place, kind: KINDS[(at + shift) % KINDS.length] ?? KINDS[0] }))),
  );
  const companies = combinations.slice(0, 70).map(({ place, kind }, at): Company => {
    const slug = asciiOf(place).replace(/\s+/g, '-');
    return {
      name: `${place} ${kind.suffix}`,
      domains: [`${slug}-${kind.tail}.example`],
      type: kind.type,
      parent: null,
      owner: reps[at % reps.length] ?? reps[0]!,
      onRecord: at < 57,
    };
  });
  const holding: Company = {
    name: 'Northreach Ports Holding',
    domains: ['northreach.example'],
    type: 'harbour authority',
    parent: null,
    owner: reps[0]!,
    onRecord: true,
  };
  const daughter = (name: string): Company => ({
    name,
    domains: ['northreach.example'],
    type: 'harbour authority',
    parent: holding.name,
    owner: reps[1]!,
    onRecord: true,
  });
  const first = companies[0];
  // One account with four domains, and departments under sub-domains.
  if (first)
    first.domains.push(...['survey', 'dredge', 'pilots'].map((tail) => `${first.domains[0]?.split('.')[0] ?? 'x'}-${tail}.example`));
  return [holding, daughter('Northreach Container Quays'), daughter('Northreach Ferry Berths'), ...companies];
}

function makeOutsiders(random: Random, companies: readonly Company[]): Outsider[] {
  const used = new Set<string>();
  const outsiders: Outsider[] = [];
  const add = (company: Company, kind: Outsider['kind']): void => {
    for (;;) {
      const name = `${random.pick(GIVEN)} ${random.pick(FAMILY)}`;
      if (used.has(name)) continue;
      used.add(name);
      const local = asciiOf(name)
        .split(' ')
        .join(random.pick(['.', '.', '.', '_', '-']));
      const department = company === companies[3] && random.chance(0.5) ? 'lab.' : '';
      outsiders.push({
        name,
        email: `${local}@${department}${random.pick(company.domains)}`,
        otherEmail: null,
        company,
        title: random.pick(TITLES),
        phone: `+99 ${random.int(20, 89)} ${random.int(1000, 9999)} ${random.int(100, 999)}`,
        kind,
      });
      return;
    }
  };
  const onRecord = companies.filter((company) => company.onRecord);
  for (const company of onRecord) for (let at = 0; at < (random.chance(0.6) ? 3 : 2); at += 1) add(company, 'contact');
  while (outsiders.length < 160) add(random.pick(onRecord), 'contact');
  for (const company of companies.filter((item) => !item.onRecord)) for (let at = 0; at < 2; at += 1) add(company, 'unknown');
  const strangers = companies.filter((company) => !company.onRecord);
  for (let at = 0; at < 40; at += 1)
    add(
      {
        ...random.pick(strangers),
        name: `${PLACES[at % PLACES.length] ?? ''} ${random.pick(['Marina', 'Yacht Club', 'Salt Works', 'Ferries', 'Oyster Beds'])}`,
        domains: [
          `${asciiOf(PLACES[at % PLACES.length] ?? '').replace(/\s+/g, '-')}-${['marina', 'club', 'works'][at % 3] ?? 'x'}.example`,
        ],
        onRecord: false,
      },
      'lead',
    );
  return outsiders;
}

function makeDeals(random: Random, companies: readonly Company[], outsiders: readonly Outsider[], now: number): DemoDeal[] {
  const deals: DemoDeal[] = [];
  const peopleOf = (company: Company): Outsider[] =>
    outsiders.filter((outsider) => outsider.company === company && outsider.kind === 'contact');
  const add = (company: Company, more: Partial<DemoDeal> = {}): void => {
    const open = more.open ?? random.chance(0.62);
    const closedOn = open ? null : new Date(now - random.int(10, 200) * DAY).toISOString().slice(0, 10);
    const people = peopleOf(company);
    deals.push({
      code: `QH-${2040 + deals.length}`,
      name: `${company.name.split(' ').slice(0, 2).join(' ')}: ${random.pick(['tide gauges', 'river network', 'cage monitoring', 'service contract', 'telemetry', 'spare sensors', 'survey buoys'])}`,
      company,
      owner: company.owner,
      stage: open ? random.pick(STAGES) : random.pick(['Won', 'Lost']),
      open,
      amount: random.int(8, 240) * 500,
      people: random.shuffled(people).slice(0, Math.max(1, people.length - 1)),
      closedOn,
      ...more,
    });
  };
  const onRecord = companies.filter((company) => company.onRecord && company.type !== 'reseller');
  for (const company of onRecord.slice(0, 48)) add(company);
  // Two open deals with the same people; a closed one and a new one.
  for (const company of onRecord.slice(4, 10)) add(company, { open: true, people: peopleOf(company) });
  for (const company of onRecord.slice(10, 16)) {
    add(company, { open: false, closedOn: new Date(now - 120 * DAY).toISOString().slice(0, 10), people: peopleOf(company) });
  }
  // A reseller's people sit in the deals of end customers.
  const resellers = outsiders.filter((outsider) => outsider.company.type === 'reseller' && outsider.kind === 'contact');
  for (const deal of deals.slice(20, 26)) deal.people.push(random.pick(resellers));
  while (deals.length < 70) add(random.pick(onRecord));
  return deals;
}

/** Lower-case ASCII of a name. */
export function asciiOf(name: string): string {
  return name
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/ø/g, 'o')
    .toLowerCase();
}
