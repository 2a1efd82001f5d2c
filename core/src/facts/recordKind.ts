/** The kinds of records: the four that every workspace has, and those that it defines itself (`own`). Every other list of kinds comes from this. */
export const RECORD_KINDS = ['contact', 'lead', 'account', 'deal', 'own'] as const;

export type RecordKind = (typeof RECORD_KINDS)[number];
