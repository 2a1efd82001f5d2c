export type RecordKind = 'contact' | 'lead' | 'account' | 'deal';

export const RECORD_KINDS = ['contact', 'lead', 'account', 'deal'] as const;
