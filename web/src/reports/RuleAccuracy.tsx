import type { RuleAccuracyRow } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { Link } from 'react-router';
import { Empty, Trouble } from '../parts/basics';
import { count } from '../parts/numbers';
import { DataTable } from '../parts/table/DataTable';
import type { Column } from '../parts/table/useColumns';
import { common } from '../parts/words';
import { ruleAccuracy as words } from './words';

/** How often each rule that files was right, by what people corrected by hand. Each figure opens its emails. */
export function RuleAccuracy() {
  const found = useQuery(asked('listRuleAccuracy'));
  const rules = found.data?.rules ?? [];
  return (
    <section aria-label={words.howOftenEachRule} className="mb-8">
      <h2 className="text-lg">{words.howOftenEachRule}</h2>
      <Trouble error={found.error} />
      {found.data && rules.length === 0 && <Empty title={words.nothingFiledYet}>{words.rulesAreListedHere}</Empty>}
      {rules.length > 0 && (
        <div className="max-w-4xl">
          <DataTable
            name="rule-accuracy"
            label={words.howOftenEachRule}
            columns={COLUMNS}
            rows={rules}
            rowKey={(row) => row.rule}
            least="36rem"
            heading={<p className="text-sm text-muted">{words.emailsOf90Days}</p>}
          />
        </div>
      )}
    </section>
  );
}

const emailsOf = ({ rule, since }: RuleAccuracyRow): string => `/all-mail?rule=${encodeURIComponent(rule)}&from=${since}`;

const COLUMNS: readonly Column<RuleAccuracyRow>[] = [
  { key: 'rule', label: words.rule, width: 'minmax(12rem, 2fr)', isFixed: true, cell: ({ name }) => name },
  {
    key: 'kinds',
    label: words.filesUnder,
    width: 'minmax(7rem, 1fr)',
    cell: ({ kinds }) => <span className="text-muted">{kinds.join(', ')}</span>,
  },
  {
    key: 'emails',
    label: common.emailsSmall,
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
    label: words.corrected,
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
  { key: 'right', label: words.right, width: '5rem', end: true, cell: rightShare },
];

/** Never rounded up to all, where something was corrected. */
function rightShare({ filed, corrected }: RuleAccuracyRow): string {
  if (corrected === 0) return '100 %';
  return `${(Math.floor((1 - corrected / filed) * 1000) / 10).toFixed(1)} %`;
}
