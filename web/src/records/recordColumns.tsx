import type { OwnField, RecordKind, RecordRow } from '@fulvet/contract';
import { Moment } from '../parts/Moment';
import { count } from '../parts/numbers';
import type { Column } from '../parts/table/useColumns';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { recordColumns as words } from './words';

type RecordColumn = Column<RecordRow>;

const DAY = 86_400_000;

/** Days since the last email, or null without any. */
export function quietDays(row: Pick<RecordRow, 'lastContactAt'>, now: number): number | null {
  return row.lastContactAt === null ? null : Math.max(0, Math.floor((now - Date.parse(row.lastContactAt)) / DAY));
}

const NAME: RecordColumn = {
  key: 'name',
  label: common.name,
  sort: 'name',
  width: 'minmax(10rem,2fr)',
  isFixed: true,
  cell: (row) => <span className="font-medium">{row.name}</span>,
};
const OWNER: RecordColumn = { key: 'owner', label: common.owner, sort: 'owner', width: 'minmax(6rem,1fr)', cell: (row) => row.owner };
const ACCOUNT: RecordColumn = {
  key: 'account',
  label: common.account,
  sort: 'account',
  width: 'minmax(8rem,1.3fr)',
  cell: (row) => row.account?.name,
};
const mono = (label: string): RecordColumn => ({
  key: 'addresses',
  label,
  sort: 'addresses',
  width: 'minmax(8rem,1.5fr)',
  cell: (row) => <span className="font-mono text-sm text-muted">{row.addresses.join(', ')}</span>,
});

/** What is computed from mail, alike for every kind. */
const MAIL: RecordColumn[] = [
  { key: 'in', label: words.in, sort: 'in', width: '3.2rem', cell: (row) => count(row.emailsIn), end: true },
  { key: 'out', label: words.out, sort: 'out', width: '3.2rem', cell: (row) => count(row.emailsOut), end: true },
  {
    key: 'unanswered',
    label: words.unanswered,
    sort: 'unanswered',
    width: 'minmax(6rem,8.5rem)',
    cell: (row) =>
      row.unanswered > 0 && (
        <span className="font-medium text-ochre">
          {row.unanswered}
          {row.unansweredSince && (
            <span className="ml-1 font-normal text-muted">
              {filled(words.since, { unansweredSince: <Moment at={row.unansweredSince} /> })}
            </span>
          )}
        </span>
      ),
  },
  {
    key: 'last',
    label: words.lastEmail,
    sort: 'lastEmail',
    width: '5.6rem',
    cell: (row) => row.lastEmailAt && <Moment at={row.lastEmailAt} />,
    end: true,
  },
  {
    key: 'by',
    label: words.by,
    sort: 'by',
    width: 'minmax(5rem,1fr)',
    cell: (row) =>
      row.lastBy && (
        <span className="text-muted">
          {row.lastDirection === 'sent' ? '→' : '←'} {row.lastBy}
        </span>
      ),
  },
  { key: 'quiet', label: words.daysQuiet, sort: 'quiet', width: '5.2rem', cell: (row) => quietDays(row, Date.now()), end: true },
];

const CODE: RecordColumn = {
  key: 'code',
  label: common.code,
  sort: 'code',
  width: '5.5rem',
  cell: (row) => <span className="font-mono text-sm">{row.code}</span>,
};
const STAGE: RecordColumn = {
  key: 'stage',
  label: common.stage,
  sort: 'stage',
  width: 'minmax(6rem,0.9fr)',
  cell: (row) => <span className={row.open ? '' : 'text-muted'}>{row.stage}</span>,
};

const OF_KIND: Record<RecordKind, RecordColumn[]> = {
  account: [
    NAME,
    mono(words.domains),
    { key: 'type', label: words.type, sort: 'stage', width: 'minmax(5rem,0.8fr)', cell: (row) => row.stage },
    OWNER,
  ],
  contact: [
    NAME,
    ACCOUNT,
    mono(words.addresses),
    { key: 'title', label: common.title, sort: 'detail', width: 'minmax(6rem,1fr)', cell: (row) => row.detail },
    OWNER,
  ],
  lead: [
    NAME,
    { key: 'detail', label: words.companyAndStatus, sort: 'detail', width: 'minmax(8rem,1.3fr)', cell: (row) => row.detail },
    mono(words.addresses),
    OWNER,
  ],
  deal: [
    CODE,
    NAME,
    ACCOUNT,
    STAGE,
    {
      key: 'amount',
      label: common.amount,
      sort: 'amount',
      width: '7rem',
      cell: (row) => row.amount !== null && `${count(row.amount)} ${row.currency ?? ''}`,
      end: true,
    },
    OWNER,
  ],
  own: [
    { ...CODE, label: words.number, width: '6.5rem' },
    NAME,
    ACCOUNT,
    { ...STAGE, label: words.state, width: 'minmax(8rem,1fr)' },
    OWNER,
  ],
};

/** The columns of a kind: its fields, what its mail comes to, and the fields that the workspace has added. */
export function columnsFor(kind: RecordKind, own: readonly OwnField[]): RecordColumn[] {
  return [
    ...OF_KIND[kind],
    ...MAIL,
    ...own.map((field): RecordColumn => ({
      key: `own:${field.key}`,
      label: field.label,
      sort: `own:${field.key}`,
      width: 'minmax(5rem,0.9fr)',
      cell: (row) => row.own[field.key],
      end: field.type === 'number',
    })),
  ];
}
