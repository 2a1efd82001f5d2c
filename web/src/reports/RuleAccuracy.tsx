import type { RuleAccuracyRow } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { Link } from 'react-router';
import { Empty, Trouble } from '../parts/basics';
import { count } from '../parts/numbers';

/** How often each rule that files was right, by what people corrected by hand. Each figure opens its emails. */
export function RuleAccuracy() {
  const found = useQuery(asked('listRuleAccuracy'));
  const rules = found.data?.rules ?? [];
  return (
    <section aria-label="How often each rule was right" className="mb-8">
      <h2 className="text-lg">How often each rule was right</h2>
      <p className="mb-2 text-sm text-muted">
        Emails of 90 days, by the rule that filed them. An email counts as corrected when someone removed it from the record, or moved it.
      </p>
      <Trouble error={found.error} />
      {found.data && rules.length === 0 && <Empty title="Nothing filed yet">Rules are listed here once they have filed email.</Empty>}
      {rules.length > 0 && (
        <div className="overflow-x-auto">
          <table className="tabular w-full max-w-4xl min-w-[36rem] text-sm">
            <thead className="text-left text-muted">
              <tr>
                <th className="py-1 pr-3 font-normal">rule</th>
                <th className="pr-3 font-normal">files under</th>
                <th className="pr-3 text-right font-normal">emails</th>
                <th className="pr-3 text-right font-normal">corrected</th>
                <th className="text-right font-normal">right</th>
              </tr>
            </thead>
            <tbody className="divide-y divide-line border-y border-line">
              {rules.map((row) => (
                <RuleLine key={row.rule} row={row} />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function RuleLine({ row }: { row: RuleAccuracyRow }) {
  const emails = `/all-mail?rule=${encodeURIComponent(row.rule)}&from=${row.since}`;
  return (
    <tr>
      <td className="py-1.5 pr-3">{row.name}</td>
      <td className="pr-3 text-muted">{row.kinds.join(', ')}</td>
      <td className="pr-3 text-right">
        <Link className="hover:underline" to={emails}>
          {count(row.filed)}
        </Link>
      </td>
      <td className="pr-3 text-right">
        {row.corrected === 0 ? (
          <span className="text-muted">0</span>
        ) : (
          <Link className="font-semibold text-brick hover:underline" to={`${emails}&corrected=yes`}>
            {count(row.corrected)}
          </Link>
        )}
      </td>
      <td className="text-right">{rightShare(row)}</td>
    </tr>
  );
}

/** Never rounded up to all, where something was corrected. */
function rightShare({ filed, corrected }: RuleAccuracyRow): string {
  if (corrected === 0) return '100 %';
  return `${(Math.floor((1 - corrected / filed) * 1000) / 10).toFixed(1)} %`;
}
