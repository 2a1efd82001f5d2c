import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { useNavigate } from 'react-router';
import type { BarRow, BarSeries } from './barRows';
import { count } from './numbers';

const TEXT = { fontSize: 11.5, fill: 'var(--muted)' };

/** Bars stacked by series, drawn. What they say is in the table beside them. */
export default function BarsChart({
  rows,
  series,
  height,
  plain,
  to,
}: {
  rows: readonly BarRow[];
  series: readonly BarSeries[];
  height: number;
  plain: boolean;
  to?: ((row: BarRow, key: string) => string) | undefined;
}) {
  const go = useNavigate();
  const data = rows.map((row) => ({ ...row.values, row, label: row.label }));
  return (
    <ResponsiveContainer width="100%" height={height} initialDimension={{ width: 600, height }}>
      <BarChart
        accessibilityLayer={false}
        data={data}
        barCategoryGap={plain ? 1 : '18%'}
        margin={plain ? { top: 0, right: 0, bottom: 0, left: 0 } : { top: 4, right: 4, bottom: 0, left: -18 }}
      >
        {!plain && <CartesianGrid vertical={false} stroke="var(--line)" />}
        {!plain && <XAxis dataKey="label" tick={TEXT} tickLine={false} axisLine={{ stroke: 'var(--line)' }} minTickGap={16} />}
        {!plain && <YAxis tick={TEXT} tickLine={false} axisLine={false} allowDecimals={false} width={52} />}
        <Tooltip
          cursor={{ fill: 'var(--sunk)' }}
          isAnimationActive={false}
          labelFormatter={(_, items) => (items[0]?.payload as { row: BarRow } | undefined)?.row.title ?? ''}
          formatter={(value) => count(Number(value))}
          itemStyle={{ color: 'var(--ink)', padding: 0 }}
          contentStyle={{
            background: 'var(--raised)',
            border: '1px solid var(--line)',
            borderRadius: 4,
            fontSize: 12.5,
            padding: '4px 8px',
          }}
        />
        {series.map(({ key, label, colour }) => (
          <Bar
            key={key}
            dataKey={key}
            name={label}
            stackId="all"
            fill={colour}
            isAnimationActive={false}
            {...(to
              ? {
                  className: 'cursor-pointer',
                  onClick: (bar: { payload?: { row: BarRow } }) => bar.payload && void go(to(bar.payload.row, key)),
                }
              : {})}
          />
        ))}
      </BarChart>
    </ResponsiveContainer>
  );
}
