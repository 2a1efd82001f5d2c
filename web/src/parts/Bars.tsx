import { lazy, Suspense, useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { BarRow, BarSeries } from './barRows';
import { Button } from './basics';
import { clsx } from './clsx';
import { count } from './numbers';
import { bars as texts } from './words';

const BarsChart = lazy(() => import('./BarsChart'));

/** Bars stacked by series, with a legend, and the same figures as a table for whoever prefers or needs it. */
export function Bars({
  caption,
  rows,
  series,
  height = 190,
  to,
}: {
  /** What the chart shows, in a sentence. */
  caption: string;
  rows: readonly BarRow[];
  series: readonly BarSeries[];
  height?: number;
  /** Where a figure leads. */
  to?: (row: BarRow, key: string) => string;
}) {
  const [asTable, setAsTable] = useState(false);
  const idle = useIdle();
  const total = (key: string): number => rows.reduce((sum, row) => sum + (row.values[key] ?? 0), 0);
  return (
    <figure>
      <figcaption className="mb-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm text-muted">
        {series.map(({ key, label, colour }) => (
          <span key={key} className="tabular flex items-center gap-1.5">
            <span aria-hidden className="size-2.5" style={{ background: colour }} />
            {label} {count(total(key))}
          </span>
        ))}
        <Button kind="quiet" className="ml-auto min-h-7!" aria-pressed={asTable} onClick={() => setAsTable(!asTable)}>
          {asTable ? texts.showAsChart : texts.showAsTable}
        </Button>
      </figcaption>
      {!asTable && (
        <div aria-hidden style={{ height }}>
          {idle && (
            <Suspense fallback={null}>
              <BarsChart rows={rows} series={series} height={height} plain={false} to={to} />
            </Suspense>
          )}
        </div>
      )}
      <div className={clsx(asTable ? 'overflow-x-auto' : 'sr-only')}>
        <table className="tabular w-full text-sm">
          <caption className="sr-only">{caption}</caption>
          <thead className="text-left text-muted">
            <tr>
              <td />
              {series.map(({ key, label }) => (
                <th key={key} scope="col" className="px-2 text-right font-normal">
                  {label}
                </th>
              ))}
            </tr>
          </thead>
          <tbody className="divide-y divide-line border-y border-line">
            {rows.map((row) => (
              <tr key={row.title}>
                <th scope="row" className="py-1 text-left font-normal">
                  {row.title}
                </th>
                {series.map(({ key }) => {
                  const value = row.values[key] ?? 0;
                  return (
                    <td key={key} className="px-2 text-right">
                      {to && asTable && value > 0 ? (
                        <Link className="hover:underline" to={to(row, key)}>
                          {count(value)}
                        </Link>
                      ) : (
                        count(value)
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </figure>
  );
}

/** Small bars without axes, said in words to those who do not see them. */
export function SmallBars({
  caption,
  rows,
  series,
  width,
  height,
}: {
  caption: string;
  rows: readonly BarRow[];
  series: BarSeries;
  width: number;
  height: number;
}) {
  return (
    <div role="img" aria-label={caption} className="max-w-full" style={{ width, height }}>
      <div aria-hidden>
        <Suspense fallback={null}>
          <BarsChart rows={rows} series={[series]} height={height} plain />
        </Suspense>
      </div>
    </div>
  );
}

/** True once the page has nothing more urgent to do: the program that draws charts is large, and no page waits for it. */
function useIdle(): boolean {
  const [idle, setIdle] = useState(false);
  useEffect(() => {
    // Not every browser says when it is idle.
    if (!('requestIdleCallback' in window)) return setIdle(true);
    const asked = window.requestIdleCallback(() => setIdle(true));
    return () => window.cancelIdleCallback(asked);
  }, []);
  return idle;
}
