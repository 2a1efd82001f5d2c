import type { RecordKind, User } from '@fulvet/contract';
import { Link } from 'react-router';
import { queryOf } from '../api/client';
import type { RecordFilter } from '../api/queries';
import { common } from '../parts/words';
import { recordsPage as texts } from './words';

/** What is done less often: bring records, take them along, tidy them up. */
export function MoreOfRecords({
  kind,
  of,
  user,
  filter,
  order: [sort, descending],
}: {
  kind: RecordKind;
  of: string | undefined;
  user: User;
  filter: RecordFilter;
  /** The column, and whether it descends. */
  order: readonly [sort: string, descending: string];
}) {
  const ofKind = of === undefined ? '' : `?of=${of}`;
  const link = 'rounded border border-line bg-raised px-2.5 py-1.5 text-sm hover:border-muted';
  return (
    <>
      {kind !== 'deal' && kind !== 'own' && (
        <Link to={`/duplicates/${kind}`} className={link}>
          {texts.duplicates}
        </Link>
      )}
      <Link to={`/records/${kind}/import${ofKind}`} className={link}>
        {common.import}
      </Link>
      <a
        href={`/api/v1/records/${kind}/export${queryOf({ ...filter, ...(of === undefined ? {} : { of }), sort, descending, columns: 'list' })}`}
        download
        className={link}
      >
        {texts.export}
      </a>
      {user.role === 'admin' && (
        <Link to={`/record-setup/${kind}${ofKind}`} className={link}>
          {texts.fields}
        </Link>
      )}
    </>
  );
}
