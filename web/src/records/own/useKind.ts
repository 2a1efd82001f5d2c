import type { OwnKind, RecordKind } from '@fulvet/contract';
import { useRecordSetup } from '../../api/queries';
import { KIND_LABELS, listPath } from '../../parts/people';

/** How the records of a list are called, and where they are listed. */
export interface ListedKind {
  one: string;
  many: string;
  /** The list of these records. */
  path: string;
  /** Of records of an own kind: the kind, once it is loaded. */
  own: OwnKind | null;
}

/** @param of key of a kind that the workspace defines, for records of own kinds */
export function useKind(kind: RecordKind, of: string | null | undefined): ListedKind {
  const setup = useRecordSetup();
  const own = kind === 'own' ? (setup.data?.kinds.find(({ key }) => key === of) ?? null) : null;
  if (!own) return { ...KIND_LABELS[kind], path: listPath(kind, kind === 'own' && of ? of : undefined), own };
  return { one: own.singular, many: own.plural, path: listPath(kind, own.key), own };
}
