import type { LineCounts, User } from '@fulvet/contract';
import { NavLink } from 'react-router';
import { useLine } from '../api/queries';
import { clsx } from '../parts/clsx';
import { count, counted } from '../parts/numbers';

interface StepRow {
  to: string;
  label: string;
  /** Emails that go on from this step. */
  volume: number;
  /** What leaves or happens here, in words. */
  note: string;
  wants?: string | undefined;
}

function rows(line: LineCounts | undefined): StepRow[] {
  const l = line ?? {
    came: 0,
    keptOut: 0,
    leftToOwner: 0,
    unfiled: 0,
    waiting: 0,
    filed: 0,
    created: 0,
    shared: 0,
    undecided: 0,
    mailboxes: 0,
    mailboxTrouble: 0,
    mailboxBacklog: 0,
    histories: 0,
    questions: 0,
  };
  const afterKeepOut = l.came - l.keptOut;
  const afterTakeIn = afterKeepOut - l.leftToOwner;
  const filed = l.filed + l.waiting;
  return [
    {
      to: '/mailboxes',
      label: 'Mailboxes',
      volume: l.came,
      note: l.mailboxBacklog > 0 ? `${count(l.mailboxBacklog)} to read` : `${count(l.came)} in 30 days`,
      wants:
        l.mailboxTrouble > 0 ? `${count(l.mailboxTrouble)} in trouble` : l.undecided > 0 ? `${count(l.undecided)} not decided` : undefined,
    },
    { to: '/keep-out', label: 'Keep out', volume: afterKeepOut, note: `${count(l.keptOut)} kept out` },
    {
      to: '/take-in',
      label: 'Take in',
      volume: afterTakeIn,
      note: l.leftToOwner > 0 ? `${count(l.leftToOwner)} left unfiled` : `${count(afterTakeIn)} taken in`,
    },
    {
      to: '/match',
      label: 'Match',
      volume: filed,
      note: `${count(l.unfiled)} unfiled`,
      wants: l.questions > 0 ? counted(l.questions, 'question') : undefined,
    },
    { to: '/create', label: 'Create', volume: filed, note: `${count(l.created)} created` },
    { to: '/share', label: 'Share', volume: filed, note: `${count(l.shared)} seen by all` },
    { to: '/records', label: 'Records', volume: filed, note: `${count(l.histories)} with new mail` },
  ];
}

/** The paths above the groups in the column of someone who is not an administrator. */
export const shortSteps = (user: User): readonly string[] =>
  user.role === 'viewer' ? ['/records'] : ['/my-mail', '/desk', '/records', '/mailboxes'];

/** The column of a rep: their mail, the questions for them, records, mailboxes. */
function shortRows(user: User, all: readonly StepRow[], questions: number): StepRow[] {
  const own: StepRow[] = [
    { to: '/my-mail', label: 'My mail', volume: 0, note: 'from your mailboxes' },
    {
      to: '/desk',
      label: 'Sorting desk',
      volume: 0,
      note: questions === 0 ? 'no questions' : '',
      wants: questions > 0 ? `${count(questions)} for you` : undefined,
    },
    ...all,
  ];
  return shortSteps(user).flatMap((path) => own.filter((row) => row.to === path));
}

const BAND_MAX = 26;
const ROW = 46;

/** The steps of the mail from top to bottom, and the band of mail that runs down through them. */
export function StepColumn({ user, onGo }: { user: User; onGo?: () => void }) {
  const line = useLine();
  const all = rows(line.data);
  const steps = user.role === 'admin' ? all : shortRows(user, all, line.data?.questions ?? 0);
  const most = Math.max(1, all[0]?.volume ?? 1);
  const widths = steps.map((row) => (row.volume === 0 ? 0.8 : Math.max(1.5, (row.volume / most) * BAND_MAX)));
  return (
    <nav aria-label="Steps" className="relative">
      <ul>
        {steps.map((row) => (
          <li key={row.to} style={{ height: ROW }}>
            <NavLink
              to={row.to}
              {...(onGo ? { onClick: onGo } : {})}
              className={({ isActive }) =>
                clsx(
                  'relative flex h-full items-center pr-2 hover:bg-sunk',
                  user.role === 'admin' ? 'pl-12' : 'pl-4',
                  isActive && 'bg-raised',
                )
              }
            >
              {({ isActive }) => (
                <span className={clsx('block min-w-0 border-l-2 pl-2.5', isActive ? 'border-spruce' : 'border-transparent')}>
                  <span className="block font-head leading-tight font-semibold">{row.label}</span>
                  <span className="tabular block truncate text-xs text-muted">
                    {row.note}
                    {row.wants && <span className="ml-1.5 font-semibold text-ochre">◖ {row.wants}</span>}
                  </span>
                </span>
              )}
            </NavLink>
          </li>
        ))}
      </ul>
      {user.role === 'admin' && <Band widths={widths} />}
    </nav>
  );
}

/** The band: as wide at each step as the mail that goes on from there. */
function Band({ widths }: { widths: readonly number[] }) {
  const x = 24;
  const points = widths.map((width, at) => ({ y: at * ROW + ROW / 2, half: width / 2 }));
  const first = points[0];
  const last = points.at(-1);
  if (!first || !last) return null;
  const side = (sign: 1 | -1, list: typeof points): string =>
    list
      .map((point, at) => {
        const before = list[at - 1];
        const edge = x + sign * point.half;
        if (!before) return `${edge},${point.y}`;
        const middle = (before.y + point.y) / 2;
        return `C${x + sign * before.half},${middle} ${edge},${middle} ${edge},${point.y}`;
      })
      .join(' ');
  const path = `M${x + first.half},0 L${side(1, points)} L${x + last.half},${last.y + ROW / 2} L${x - last.half},${last.y + ROW / 2} L${side(-1, [...points].reverse())} L${x - first.half},0 Z`;
  return (
    <svg aria-hidden className="pointer-events-none absolute top-0 left-0" width={48} height={widths.length * ROW}>
      <path d={path} fill="var(--spruce)" opacity={0.2} />
      {points.map((point) => (
        <circle key={point.y} cx={x} cy={point.y} r={3.2} fill="var(--paper)" stroke="var(--spruce)" strokeWidth={1.8} />
      ))}
    </svg>
  );
}
