import type { Insights } from '@fulvet/contract';
import { counted } from '../parts/numbers';

const month = new Intl.DateTimeFormat(undefined, { month: 'long', year: 'numeric' });
const shortMonth = new Intl.DateTimeFormat(undefined, { month: 'short' });
const HALF = 26;

/** Emails by month, ours above the line and theirs below. Told in words to those who do not see it. */
export function MonthBars({ months }: { months: Insights['months'] }) {
  const most = Math.max(1, ...months.flatMap((item) => [item.sent, item.received]));
  const width = 240;
  const step = width / Math.max(1, months.length);
  const tall = (value: number): number => (value === 0 ? 0 : Math.max(1.5, (value / most) * HALF));
  const sum = (key: 'sent' | 'received'): number => months.reduce((all, item) => all + item[key], 0);
  const label = `${counted(sum('sent'), 'email')} sent and ${counted(sum('received'), 'email')} received in ${months.length} months`;
  return (
    <figure>
      <svg viewBox={`0 0 ${width} ${HALF * 2 + 14}`} role="img" aria-label={label} className="block w-full">
        {months.map((item, at) => (
          <g key={item.month}>
            <title>{`${month.format(dateOf(item.month))}: ${item.sent} sent, ${item.received} received`}</title>
            <rect x={at * step} y={0} width={step} height={HALF * 2} fill="transparent" />
            <rect x={at * step + 2} y={HALF - tall(item.sent)} width={step - 4} height={tall(item.sent)} fill="var(--spruce)" />
            <rect
              x={at * step + 2}
              y={HALF + 1}
              width={step - 4}
              height={tall(item.received)}
              fill="none"
              stroke="var(--muted)"
              strokeWidth={item.received > 0 ? 1 : 0}
            />
            {at % 3 === 0 && (
              <text x={at * step + 2} y={HALF * 2 + 12} fontSize={9} fill="var(--muted)">
                {shortMonth.format(dateOf(item.month))}
              </text>
            )}
          </g>
        ))}
        <line x1={0} y1={HALF + 0.5} x2={width} y2={HALF + 0.5} stroke="var(--line)" />
      </svg>
      <figcaption className="tabular flex gap-3 text-xs text-muted">
        <span>
          <span aria-hidden className="mr-1 inline-block size-2 bg-spruce" />
          {sum('sent')} sent
        </span>
        <span>
          <span aria-hidden className="mr-1 inline-block size-2 border border-muted" />
          {sum('received')} received
        </span>
      </figcaption>
    </figure>
  );
}

const dateOf = (text: string): Date => new Date(`${text}-01T12:00:00`);
