import type { Filing, RecordKind } from '@fulvet/contract';
import { RULES } from '@fulvet/core';
import { BriefcaseBusiness, Building2, Sprout, UserRound } from 'lucide-react';
import type { LucideIcon } from 'lucide-react';
import { Link } from 'react-router';
import { clsx } from '../parts/clsx';
import { OwnIcon } from '../parts/OwnIcon';
import { KIND_LABELS, recordPath } from '../parts/people';
import { filings as words } from './words';

const ICONS: Record<Exclude<RecordKind, 'own'>, LucideIcon> = {
  account: Building2,
  contact: UserRound,
  lead: Sprout,
  deal: BriefcaseBusiness,
};

/** The records that an email stands under. */
export function Filings({ filings, most }: { filings: readonly Filing[]; most?: number }) {
  const shown = most === undefined ? filings : filings.slice(0, most);
  return (
    <span className="flex min-w-0 flex-wrap gap-1">
      {shown.map((item) => {
        const Icon = item.kind === 'own' ? null : ICONS[item.kind];
        return (
          <Link
            key={`${item.kind}${item.id}`}
            to={recordPath(item.kind, item.id)}
            title={`${words.createdByThisEmail(KIND_LABELS[item.kind].one, item.name, item.created)}${item.rule === RULES.principal ? words.principal : ''}`}
            className={clsx(
              'inline-flex max-w-56 items-center gap-1 rounded border bg-raised px-1.5 text-sm hover:border-muted',
              item.rule === RULES.principal ? 'border-spruce font-medium' : 'border-line',
            )}
            onClick={(event) => event.stopPropagation()}
          >
            {Icon ? (
              <Icon size={12} aria-label={KIND_LABELS[item.kind].one} className="shrink-0 text-muted" />
            ) : (
              <OwnIcon name={item.name} size={12} />
            )}
            <span className="truncate">{item.name}</span>
            {item.created && <span className="text-xs text-moss">{words.new}</span>}
          </Link>
        );
      })}
      {shown.length < filings.length && <span className="text-sm text-muted">+{filings.length - shown.length}</span>}
    </span>
  );
}
