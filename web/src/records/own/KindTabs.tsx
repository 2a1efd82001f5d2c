import type { RecordKind } from '@fulvet/contract';
import { Link } from 'react-router';
import { useRecordSetup } from '../../api/queries';
import { clsx } from '../../parts/clsx';
import { KINDS, KIND_LABELS, listPath } from '../../parts/people';
import { recordsPage as texts } from '../words';

/** The lists of records: those of the kinds that every workspace has, then those of its own. */
export function KindTabs({
  kind,
  of,
  to = listPath,
  more,
}: {
  kind: RecordKind;
  of: string | undefined;
  to?: (kind: RecordKind, of?: string) => string;
  /** What stands behind them. */
  more?: { to: string; label: string; isHere: boolean };
}) {
  const setup = useRecordSetup();
  const tabs = [
    ...KINDS.map((value) => ({ key: value as string, to: to(value), label: KIND_LABELS[value].many, isHere: kind === value })),
    ...(setup.data?.kinds ?? []).map(({ key, plural }) => ({
      key: `own ${key}`,
      to: to('own', key),
      label: plural,
      isHere: kind === 'own' && of === key,
    })),
    ...(more ? [{ key: 'more', ...more }] : []),
  ];
  return (
    <nav aria-label={texts.kindsOfRecords} className={clsx('flex flex-wrap gap-1', more && 'mb-4')}>
      {tabs.map(({ key, to, label, isHere }) => (
        <Link
          key={key}
          to={to}
          aria-current={isHere ? 'page' : undefined}
          className={clsx(
            'rounded px-2.5 py-1 font-head text-lg',
            isHere ? 'bg-raised font-semibold shadow-[inset_0_-2px_0_var(--spruce)]' : 'text-muted hover:bg-sunk',
          )}
        >
          {label}
        </Link>
      ))}
    </nav>
  );
}
