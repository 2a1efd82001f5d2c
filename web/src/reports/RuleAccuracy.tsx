import type { RuleAccuracyRow } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { Link } from 'react-router';
import { Empty, Trouble } from '../parts/basics';
import { count } from '../parts/numbers';
import { DataTable } from '../parts/table/DataTable';
import type { Column } from '../parts/table/useColumns';

/** How often each rule that files was right, by what people corrected by hand. Each figure opens its emails. */
export function RuleAccuracy() {
  const found = useQuery(asked('listRuleAccuracy'));
  const rules = found.data?.rules ?? [];
  return (
    <section aria-label="How often each rule was right" className="mb-8">
      <h2 className="text-lg">How often each rule was right</h2>
      <Trouble error={found.error} />
      {found.data && rules.length === 0 && <Empty title="Nothing filed yet">Rules are listed here once they have filed email.</Empty>}
      {rules.length > 0 && (
        <div className="max-w-4xl">
          <DataTable
            name="rule-accuracy"
            label="How often each rule was right"
            columns={COLUMNS}
            rows={rules}
            rowKey={(row) => row.rule}
            least="36rem"
            heading={
              <p className="text-sm text-muted">
                Emails of 90 days, by the rule that filed them. An email counts as corrected when someone removed it from the record, or
                moved it.
              </p>
            }
          />
        </div>
      )}
    </section>
  );
}

const emailsOf = ({ rule, since }: RuleAccuracyRow): string => `/all-mail?rule=${encodeURIComponent(rule)}&from=${since}`;

const COLUMNS: readonly Column<RuleAccuracyRow>[] = [
  { key: 'rule', label: 'rule', width: 'minmax(12rem, 2fr)', isFixed: true, cell: ({ name }) => name },
  {
    key: 'kinds',
    label: 'files under',
    width: 'minmax(7rem, 1fr)',
    cell: ({ kinds }) => <span className="text-muted">{kinds.join(', ')}</span>,
  },
  {
    key: 'emails',
    label: 'emails',
    width: '6rem',
    end: true,
    cell: (row) => (
      <Link className="hover:underline" to={emailsOf(row)}>
        {count(row.filed)}
      </Link>
    ),
  },
  {
    key: 'corrected',
    label: 'corrected',
    width: '6rem',
    end: true,
    cell: (row) =>
      row.corrected === 0 ? (
        <span className="text-muted">0</span>
      ) : (
        <Link className="font-semibold text-brick hover:underline" to={`${emailsOf(row)}&corrected=yes`}>
          {count(row.corrected)}
        </Link>
      ),
  },
  { key: 'right', label: 'right', width: '5rem', end: true, cell: rightShare },
];

/** Never rounded up to all, where something was corrected. */
function rightShare({ filed, corrected }: RuleAccuracyRow): string {
  if (corrected === 0) return '100 %';
  return `${(Math.floor((1 - corrected / filed) * 1000) / 10).toFixed(1)} %`;
}
