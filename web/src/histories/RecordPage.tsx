import type { RecordDetail, User } from '@fulvet/contract';
import { useState } from 'react';
import { Link, Navigate, useParams } from 'react-router';
import { useRecord } from '../api/queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { TextInput, Together, Trouble, Waiting } from '../parts/basics';
import { CopyText } from '../parts/CopyText';
import { Moment } from '../parts/Moment';
import { counted } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { Aside } from './Aside';
import { AddBeside } from '../records/AddBeside';
import { PeopleOnRecord } from '../records/PeopleOnRecord';
import { fieldOf } from '../records/partsOfRecord';
import { useKind } from '../records/own/useKind';
import { DealTeam } from '../sharing/DealTeam';
import { History } from './History';
import { useHistoryFilter } from './HistoryFilters';
import { DropEmails } from './DropEmails';
import { MailBeside } from './MailBeside';
import { InsightsPanel } from './InsightsPanel';
import { NewTask } from '../agenda/NewTask';
import { RecordTasks } from '../agenda/RecordTasks';
import { LogButton } from './LoggedEntry';
import { RecordReminders } from '../writing/RecordReminders';
import { RecordSeries, StartSeriesButton } from '../writing/series/RecordSeries';
import { WriteButton } from '../writing/WriteButtons';
import { RecordChanges } from '../records/RecordChanges';
import { RecordFields, useEditRecord } from '../records/RecordFields';
import { isKind } from '../parts/people';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { recordPage as texts } from './words';

/** A record: its conversation history first, what people look at before they write and its facts in a slim margin. */
export default function RecordPage({ user }: { user: User }) {
  const params = useParams();
  const id = Number(params.id);
  if (!isKind(params.kind) || !Number.isInteger(id)) return <Navigate to="/records" replace />;
  return <Loaded key={`${params.kind}${id}`} kind={params.kind} id={id} user={user} />;
}

function Loaded({ kind, id, user }: { kind: RecordDetail['kind']; id: number; user: User }) {
  const record = useRecord(kind, id);
  const [, setFilter] = useHistoryFilter();
  const listed = useKind(kind, record.data?.of);
  if (record.isPending) return <Waiting what={common.opening} />;
  if (record.isError) {
    return (
      <div className="p-6">
        <Trouble error={record.error} />
      </div>
    );
  }
  const { data } = record;
  const editable = user.role !== 'viewer';
  const source = { kind, id };
  const [person] = addressesOf(data);
  const within = kind === 'account' ? data.related.filter((item) => item.label !== 'Subsidiaries').flatMap((item) => item.records) : [];
  const history = (
    <History source={source} editable={editable} within={within.map((item) => ({ key: `${item.kind}:${item.id}`, name: item.name }))} />
  );
  return (
    <div className="px-4 pt-4 pb-16 sm:px-6">
      <nav className="mb-1 text-sm text-muted" aria-label={texts.whereThisIs}>
        <Link to={listed.path} className="hover:underline">
          {listed.many}
        </Link>
        {listed.own && <span className="ml-1.5 font-mono">{fieldOf(data, 'code')}</span>}
      </nav>
      <div className="flex flex-wrap items-start justify-between gap-x-4">
        <Name record={data} editable={editable} />
        {editable && (
          <div className="flex flex-wrap gap-1.5">
            <WriteButton record={{ kind, id }} to={addressesOf(data)} />
            {person && <StartSeriesButton to={person} />}
            <LogButton record={{ kind, id, name: data.name }} />
            <NewTask record={{ kind, id, name: data.name }} />
          </div>
        )}
      </div>
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_17rem]">
        {editable ? <DropEmails record={{ kind, id, name: data.name }}>{history}</DropEmails> : history}
        <Aside>
          <Together>
            {editable && person && <RecordSeries user={user} to={person} />}
            {editable && <RecordTasks kind={kind} id={id} />}
            {editable && <RecordReminders kind={kind} id={id} />}
            {editable && <MailBeside kind={kind} id={id} />}
            <InsightsPanel source={source} onPerson={(person) => setFilter({ person })} />
            <div className="mt-3">
              <RecordFields record={data} editable={editable} />
            </div>
            {(kind === 'deal' || listed.own?.hasPeople) && (
              <PeopleOnRecord record={data} noun={listed.one.toLowerCase()} editable={editable} />
            )}
            {kind === 'deal' && <DealTeam dealId={id} editable={editable} />}
            <Facts record={data} />
            {editable && <AddBeside record={data} />}
            <RecordChanges kind={kind} id={id} />
          </Together>
        </Aside>
      </div>
    </div>
  );
}

/** Where a person is written to first; others are chosen among the people of the record. */
function addressesOf(record: RecordDetail): { name: string; address: string }[] {
  if (record.kind !== 'contact' && record.kind !== 'lead') return [];
  const [address = ''] = fieldOf(record, 'emails').split(';');
  return address === '' ? [] : [{ name: record.name, address }];
}

function Name({ record, editable }: { record: RecordDetail; editable: boolean }) {
  const [open, setOpen] = useState(false);
  const edit = useEditRecord(record);
  const save = (name: string): void => {
    setOpen(false);
    if (name && name !== record.name) edit.mutate({ name });
  };
  return (
    <div className="mb-4">
      {open ? (
        <TextInput
          autoFocus
          aria-label={common.name}
          className="max-w-xl text-xl!"
          defaultValue={record.name}
          onBlur={(event) => save(event.target.value.trim())}
          onKeyDown={(event) => {
            if (event.key === 'Enter') save(event.currentTarget.value.trim());
            if (event.key === 'Escape') setOpen(false);
          }}
        />
      ) : (
        <h1 className="text-xl leading-tight break-words">
          {record.name}{' '}
          {editable && (
            <button
              type="button"
              className="align-middle font-sans text-sm font-normal text-spruce hover:underline"
              onClick={() => setOpen(true)}
            >
              {texts.rename}
            </button>
          )}
        </h1>
      )}
      {record.nameConfidence < 1 && (
        <p className="text-sm text-muted">
          {record.nameConfidence === 0 ? texts.theNameIsNot : texts.theNameIsGuessed(Math.round(record.nameConfidence * 100))}
        </p>
      )}
      <Trouble error={edit.error} />
    </div>
  );
}

function Facts({ record }: { record: RecordDetail }) {
  const docket = useDecisionPanel();
  const { origin } = record;
  return (
    <>
      {record.filingAddress && (
        <div className="mt-3 border-t border-line pt-2">
          <h2 className="text-muted">{texts.filingAddress}</h2>
          <CopyText text={record.filingAddress} label={texts.copyTheFilingAddress} />
          <p className="mt-1 text-muted">{texts.whatATeammateSends}</p>
        </div>
      )}
      {origin && (
        <p className="mt-3 border-t border-line pt-2 text-muted">
          {common.from}{' '}
          <button type="button" className="text-spruce hover:underline" onClick={() => docket.open(origin.emailId)}>
            {filled(texts.anEmail, { originAt: origin.at && <> {filled(texts.of, { originAt: <Moment at={origin.at} /> })}</> })}
          </button>
          {origin.rule === 'by hand' ? texts.startedByHand : origin.ruleText ? texts.by(origin.ruleText) : '.'}
        </p>
      )}
      {record.related.map((group) => (
        <section key={group.label} className="mt-4 border-t border-line pt-2" aria-label={group.label}>
          <h2 className="mb-1">{countedLabel(group.label, group.records.length)}</h2>
          <ul>
            {group.records.slice(0, 30).map((item) => (
              <li key={`${item.kind}${item.id}`}>
                <Link to={recordPath(item.kind, item.id)} className="block rounded py-0.5 hover:bg-sunk">
                  <span className="text-spruce">{item.name}</span> <span className="break-words text-muted">{item.detail}</span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}

const ONE: Record<string, string> = {
  Deals: 'deal',
  People: 'person',
  Subsidiaries: 'subsidiary',
  'Accounts before': texts.accountBefore,
  'Other records': texts.otherRecord,
};

function countedLabel(label: string, count: number): string {
  return counted(count, ONE[label] ?? label.toLowerCase(), label.toLowerCase());
}
