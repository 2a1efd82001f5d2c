import type { Insights } from '@fulvet/contract';
import { Bars } from '../parts/Bars';
import { monthBars as words } from './words';

const month = new Intl.DateTimeFormat(undefined, { month: 'long', year: 'numeric' });
const shortMonth = new Intl.DateTimeFormat(undefined, { month: 'short' });
const SERIES = [
  { key: 'sent', label: words.sent, colour: 'var(--spruce)' },
  { key: 'received', label: words.received, colour: 'var(--slate)' },
];

/** Emails sent and received by month. */
export function MonthBars({ months }: { months: Insights['months'] }) {
  const rows = months.map(({ month: text, sent, received }) => {
    const date = new Date(`${text}-01T12:00:00`);
    return { label: shortMonth.format(date), title: month.format(date), values: { sent, received } };
  });
  return <Bars caption={words.emailsSentAndReceived} rows={rows} series={SERIES} height={110} />;
}
