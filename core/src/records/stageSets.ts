/** A set of stages for deals of one purpose. */
export interface StageSet {
  key: string;
  /** What deals of these stages are about. */
  purpose: string;
  stages: readonly { name: string; open: boolean }[];
}

const stages = (open: readonly string[], closed: readonly string[]): StageSet['stages'] => [
  ...open.map((name) => ({ name, open: true })),
  ...closed.map((name) => ({ name, open: false })),
];

/** Sets to begin with; each ends with the stages at which a deal is closed. */
export const STAGE_SETS: readonly StageSet[] = [
  { key: 'projects', purpose: 'Selling projects', stages: stages(['Asked', 'Visited', 'Quoted', 'Negotiated'], ['Won', 'Lost']) },
  {
    key: 'subscriptions',
    purpose: 'Selling subscriptions',
    stages: stages(['Interested', 'Shown', 'On trial', 'Price agreed'], ['Won', 'Lost']),
  },
  { key: 'renewals', purpose: 'Renewing contracts', stages: stages(['Due soon', 'Talked', 'Offered'], ['Renewed', 'Ended']) },
  {
    key: 'suppliers',
    purpose: 'Finding suppliers',
    stages: stages(['Needed', 'Inquired', 'Offers in', 'Compared'], ['Ordered', 'Dropped']),
  },
  { key: 'partners', purpose: 'Winning partners', stages: stages(['Met', 'Talked', 'Terms sent'], ['Signed', 'Stopped']) },
  { key: 'hiring', purpose: 'Hiring people', stages: stages(['Applied', 'Talked', 'Invited', 'Offered'], ['Hired', 'Declined']) },
];

/** The stages of a set where others are set already: one of the same name keeps its id, so that its deals stay at it. */
export function withStageSet<S extends { id: number | null; name: string }>(
  known: readonly S[],
  set: StageSet,
): { id: number | null; name: string; open: boolean }[] {
  const ids = new Map(known.map(({ id, name }) => [name.trim().toLowerCase(), id]));
  return set.stages.map((stage) => ({ id: ids.get(stage.name.toLowerCase()) ?? null, ...stage }));
}
