import type { RecordDetail } from '@fulvet/contract';

/** What a field of a record says, as text; empty where it has no such field. */
export const fieldOf = ({ fields }: RecordDetail, wanted: string): string => fields.find(({ key }) => key === wanted)?.value ?? '';

/** Who is on a record, as it is sent to change it. */
export const peopleOn = (people: readonly Pick<RecordDetail['people'][number], 'kind' | 'id' | 'role'>[]) =>
  people.flatMap(({ kind, id, role }) => (kind === 'contact' || kind === 'lead' ? [{ kind, id, role }] : []));
