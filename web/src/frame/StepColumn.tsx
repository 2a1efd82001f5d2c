import type { LineCounts, User } from '@fulvet/contract';
import { NavLink } from 'react-router';
import { useLine } from '../api/queries';
import { clsx } from '../parts/clsx';
import { counted } from '../parts/numbers';
import { common } from '../parts/words';
import { stepColumn as texts } from './words';

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
      label: common.mailboxes,
      volume: l.came,
      note: l.mailboxBacklog > 0 ? texts.toRead(l.mailboxBacklog) : texts.in30Days(l.came),
      wants: l.mailboxTrouble > 0 ? texts.inTrouble(l.mailboxTrouble) : l.undecided > 0 ? texts.notDecided(l.undecided) : undefined,
    },
    { to: '/keep-out', label: common.keepOut, volume: afterKeepOut, note: texts.keptOut(l.keptOut) },
    {
      to: '/take-in',
      label: texts.takeIn,
      volume: afterTakeIn,
      note: l.leftToOwner > 0 ? texts.leftUnfiled(l.leftToOwner) : texts.takenIn(afterTakeIn),
    },
    {
      to: '/match',
      label: texts.match,
      volume: filed,
      note: texts.unfiled(l.unfiled),
      wants: l.questions > 0 ? counted(l.questions, 'question') : undefined,
    },
    { to: '/create', label: common.create, volume: filed, note: texts.created(l.created) },
    { to: '/share', label: texts.share, volume: filed, note: texts.seenByAll(l.shared) },
    { to: '/records', label: common.records, volume: filed, note: texts.withNewMail(l.histories) },
  ];
}

/** The paths above the groups in the column of someone who is not an administrator. */
export const shortSteps = (user: User): readonly string[] =>
  user.role === 'viewer' ? ['/records'] : ['/my-mail', '/desk', '/records', '/mailboxes'];

/** The column of a rep: their mail, the questions for them, records, mailboxes. */
function shortRows(user: User, all: readonly StepRow[], questions: number): StepRow[] {
  const own: StepRow[] = [
    { to: '/my-mail', label: texts.myMail, volume: 0, note: texts.fromYourMailboxes },
    {
      to: '/desk',
      label: texts.sortingDesk,
      volume: 0,
      note: questions === 0 ? texts.noQuestions : '',
      wants: questions > 0 ? texts.forYou(questions) : undefined,
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
    <nav aria-label={texts.steps} className="relative">
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
