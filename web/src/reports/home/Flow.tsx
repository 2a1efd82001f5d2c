import { useQuery } from '@tanstack/react-query';
import { asked } from '../../api/asked';
import { Bars } from '../../parts/Bars';

const WEEKS = 12;
const DAY = 86_400_000;
const day = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' });
const SERIES = [
  { key: 'filed', label: 'filed', colour: 'var(--moss)' },
  { key: 'waiting', label: 'waiting', colour: 'var(--ochre)' },
  { key: 'unfiled', label: 'unfiled', colour: 'var(--slate)' },
  { key: 'kept out', label: 'kept out', colour: 'var(--brick)' },
];

/** Emails of the last weeks by outcome. */
export function Flow() {
  const flow = useQuery(asked('getMailFlow', { weeks: WEEKS }));
  if (!flow.data) return <div className="h-56" />;
  const rows = flow.data.weeks.map(({ from, filed, waiting, unfiled, keptOut }) => {
    const first = new Date(`${from}T12:00:00`);
    const last = new Date(first.getTime() + 6 * DAY);
    return {
      label: day.format(first),
      title: `${day.format(first)} to ${day.format(last)}`,
      from,
      last,
      values: { filed, waiting, unfiled, 'kept out': keptOut },
    };
  });
  return (
    <section aria-label={`Mail of ${WEEKS} weeks`}>
      <h2 className="mb-1 text-lg">Mail of the last {WEEKS} weeks</h2>
      <Bars
        caption={`Emails by week and outcome, last ${WEEKS} weeks`}
        rows={rows}
        series={SERIES}
        to={(row, outcome) => {
          const week = rows.find(({ title }) => title === row.title);
          return `/all-mail?outcome=${encodeURIComponent(outcome)}&from=${week?.from ?? ''}&until=${week?.last.toISOString().slice(0, 10) ?? ''}`;
        }}
      />
    </section>
  );
}
