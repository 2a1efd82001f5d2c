import { counted } from './numbers';

const DAY = 86_400_000;
const dayName = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' });

/** Emails a day as small bars, the last one today. Told in words to those who do not see it. */
export function DayBars({ perDay, width = 150, height = 26 }: { perDay: readonly number[]; width?: number; height?: number }) {
  const most = Math.max(1, ...perDay);
  const step = width / perDay.length;
  const total = perDay.reduce((sum, value) => sum + value, 0);
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`${counted(total, 'email')} in ${perDay.length} days, at most ${most} a day`}
      className="block max-w-full"
    >
      <line x1={0} y1={height - 0.5} x2={width} y2={height - 0.5} stroke="var(--line)" />
      {perDay.map((value, at) => {
        const tall = value === 0 ? 0 : Math.max(1.5, (value / most) * (height - 2));
        return (
          <g key={at}>
            <title>{`${dayName.format(new Date(Date.now() - (perDay.length - 1 - at) * DAY))}: ${counted(value, 'email')}`}</title>
            <rect x={at * step} y={0} width={step} height={height} fill="transparent" />
            <rect
              x={at * step + 0.5}
              y={height - tall - 1}
              width={Math.max(1, step - 1.2)}
              height={tall}
              fill="var(--spruce)"
              opacity={0.75}
            />
          </g>
        );
      })}
    </svg>
  );
}
