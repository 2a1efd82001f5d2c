import type { Insights } from '@fulvet/contract';
import { Bars } from '../parts/Bars';

const month = new Intl.DateTimeFormat(undefined, { month: 'long', year: 'numeric' });
const shortMonth = new Intl.DateTimeFormat(undefined, { month: 'short' });
const SERIES = [
  { key: 'sent', label: 'sent', colour: 'var(--spruce)' },
  { key: 'received', label: 'received', colour: 'var(--slate)' },
];

/** Emails sent and received by month. */
export function MonthBars({ months }: { months: Insights['months'] }) {
  const rows = months.map(({ month: text, sent, received }) => {
    const date = new Date(`${text}-01T12:00:00`);
    return { label: shortMonth.format(date), title: month.format(date), values: { sent, received } };
  });
  return <Bars caption="Emails sent and received by month" rows={rows} series={SERIES} height={110} />;
}
