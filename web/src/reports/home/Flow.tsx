import { useQuery } from '@tanstack/react-query';
import { asked } from '../../api/asked';
import { Bars } from '../../parts/Bars';
import { flow as words } from './words';

const WEEKS = 12;
const DAY = 86_400_000;
const day = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' });
const SERIES = [
  { key: 'filed', label: words.filed, colour: 'var(--moss)' },
  { key: 'waiting', label: words.waiting, colour: 'var(--ochre)' },
  { key: 'unfiled', label: words.unfiled, colour: 'var(--slate)' },
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
      title: words.to(day.format(first), day.format(last)),
      from,
      last,
      values: { filed, waiting, unfiled, 'kept out': keptOut },
    };
  });
  return (
    <section aria-label={words.mailOfWeeks(WEEKS)}>
      <h2 className="mb-1 text-lg">{words.mailOfTheLast(WEEKS)}</h2>
      <Bars
        caption={words.emailsByWeekAnd(WEEKS)}
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
