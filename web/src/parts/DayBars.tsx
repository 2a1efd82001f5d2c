import { SmallBars } from './Bars';
import { common, dayBars as words } from './words';

const DAY = 86_400_000;
const dayName = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' });

/** Emails a day as small bars, the last one today. */
export function DayBars({ perDay, width = 150, height = 26 }: { perDay: readonly number[]; width?: number; height?: number }) {
  const most = Math.max(0, ...perDay);
  const total = perDay.reduce((sum, value) => sum + value, 0);
  const rows = perDay.map((emails, at) => {
    const title = dayName.format(new Date(Date.now() - (perDay.length - 1 - at) * DAY));
    return { label: title, title, values: { emails } };
  });
  return (
    <SmallBars
      caption={words.emailInDaysAt(total, perDay.length, most)}
      rows={rows}
      series={{ key: 'emails', label: common.emailsSmall, colour: 'var(--spruce)' }}
      width={width}
      height={height}
    />
  );
}
