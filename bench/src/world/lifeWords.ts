export const DAY = 86_400_000;

/** The same life has the same dates on every day. */
export const NOW = Date.UTC(2026, 9, 1, 9);
export const US = ['rep@quillmere.example', 'other@quillmere.example'];
export const DOMAINS = ['fish.example', 'dredge.example', 'harbour.example', 'group.example', 'freemail.example'];
export const PEOPLE = ['ida', 'nil', 'lea', 'ravi', 'una', 'bo'].flatMap((name) => DOMAINS.map((domain) => `${name}@${domain}`));

export const NAMES: Record<string, string> = {
  ida: 'Ida Brandt',
  nil: 'Nil Strand',
  lea: 'Lea Ost',
  ravi: 'Ravi Sen',
  una: 'Una Hartwig',
  bo: 'Bo Lind',
};

export const MATTERS = ['Gauges for the lock', 'Survey buoys', 'Order QH-1', 'About QH 2 again', 'Invoice 7', 'Berths', 'Tide tables'];
export const DEALS = ['Gauges for the lock', 'Survey buoys', 'Tide tables', 'Harbour berths'];
export const KINDS = ['contact', 'lead', 'account', 'deal'] as const;
