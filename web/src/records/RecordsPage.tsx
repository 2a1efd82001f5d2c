import type { OwnField, RecordKind, User } from '@fulvet/contract';
import { useState } from 'react';
import { useParams } from 'react-router';
import type { RecordFilter } from '../api/queries';
import { useRecordSetup, useRecords, useTeam } from '../api/queries';
import { Button, Empty, Purpose, TextInput, Trouble, Waiting } from '../parts/basics';
import { counted } from '../parts/numbers';
import { isKind } from '../parts/people';
import { useAddressBar } from '../parts/useAddressBar';
import { FilterBar } from '../parts/FilterBar';
import { DealBoard } from './DealBoard';
import { HandOver } from './HandOver';
import { NewRecord } from './NewRecord';
import { KindTabs } from './own/KindTabs';
import type { ListedKind } from './own/useKind';
import { useKind } from './own/useKind';
import { MoreOfRecords } from './MoreOfRecords';
import { RecordTable } from './RecordTable';
import { RecordViews } from './RecordViews';
import { Option, Select } from '../parts/Select';
import { common } from '../parts/words';
import { WriteToThese } from '../writing/bulk/WriteToThese';
import { recordsPage as texts } from './words';

const FILTERS = ['text', 'origin', 'open', 'stage', 'owner', 'unanswered', 'quiet', 'own'] as const;

const NO_FIELDS: readonly OwnField[] = [];

/** Accounts, contacts, leads or deals, with the mail that stands under them; deals also by stage. */
export default function RecordsPage({ user }: { user: User }) {
  const params = useParams();
  const kind: RecordKind = isKind(params.kind) ? params.kind : 'account';
  const [search, set] = useAddressBar();
  const [creating, setCreating] = useState(false);
  const setup = useRecordSetup();
  const of = kind === 'own' ? (search.get('of') ?? setup.data?.kinds[0]?.key) : undefined;
  const listed = useKind(kind, of);
  const own = (setup.data?.ownFields[kind] ?? NO_FIELDS).filter((field) => of === undefined || field.of === of);
  const filter: RecordFilter = Object.fromEntries(FILTERS.flatMap((name) => (search.get(name) ? [[name, search.get(name) ?? '']] : [])));
  const isBoard = kind === 'deal' && search.get('as') === 'board';
  const editable = user.role !== 'viewer';
  return (
    <div className="flex h-screen flex-col max-md:h-[calc(100vh-3rem)]">
      <header className="flex flex-wrap items-center gap-x-1.5 gap-y-2 px-3 pt-4 pb-2">
        <h1 className="sr-only">{listed.many}</h1>
        <div className="min-w-0 grow basis-80">
          <KindTabs kind={kind} of={of} />
          <div className="px-2.5">
            <Purpose>{texts.peopleCompaniesAndDeals}</Purpose>
          </div>
        </div>
        {kind === 'deal' && (
          <div role="group" aria-label={texts.showAs} className="flex gap-0.5">
            <Button kind={isBoard ? 'quiet' : 'plain'} aria-pressed={!isBoard} onClick={() => set({ as: '' })}>
              {texts.table}
            </Button>
            <Button kind={isBoard ? 'plain' : 'quiet'} aria-pressed={isBoard} onClick={() => set({ as: 'board' })}>
              {texts.board}
            </Button>
          </div>
        )}
        <RecordViews kind={kind} of={of} />
        {editable && (kind === 'contact' || kind === 'lead') && <WriteToThese kind={kind} filter={filter} />}
        {editable && <Button onClick={() => setCreating(true)}>{texts.new}</Button>}
        {editable && <MoreOfRecords kind={kind} of={of} user={user} filter={filter} order={orderOf(kind, search)} />}
      </header>
      <Filters kind={kind} listed={listed} filter={filter} set={set} own={own} editable={editable} />
      {isBoard ? (
        <DealBoard filter={filter} editable={editable} />
      ) : (
        <Table kind={kind} of={of} listed={listed} filter={filter} own={own} />
      )}
      {creating && <NewRecord kind={kind} own={listed.own} onClose={() => setCreating(false)} />}
    </div>
  );
}

/** The newest of a kind of one's own come first; else names go from A to Z. @returns the column, and whether it descends */
function orderOf(kind: RecordKind, search: URLSearchParams): readonly [sort: string, descending: string] {
  const sort = search.get('sort');
  return sort === null && kind === 'own' ? ['created', 'yes'] : [sort ?? 'name', search.get('descending') ?? 'no'];
}

function Table({
  kind,
  of,
  listed,
  filter,
  own,
}: {
  kind: RecordKind;
  of: string | undefined;
  listed: ListedKind;
  filter: RecordFilter;
  own: readonly OwnField[];
}) {
  const [search, set] = useAddressBar();
  const [sort, descending] = orderOf(kind, search);
  const records = useRecords(kind, { ...filter, ...(of === undefined ? {} : { of }), sort, descending });
  const rows = records.data?.pages.flatMap((page) => page.records) ?? [];
  const filtered = Object.keys(filter).length > 0;
  if (records.isError) return <Trouble error={records.error} />;
  if (records.isPending) return <Waiting what={texts.fetching} />;
  if (rows.length === 0)
    return (
      <Empty title={filtered ? texts.noFits(listed.one.toLowerCase()) : texts.noYet(listed.many.toLowerCase())}>
        {filtered ? common.removeAFilterTo : kind === 'own' ? texts.startOneFromAn : texts.importThemFromCsv}
      </Empty>
    );
  return (
    <>
      <RecordTable
        kind={kind}
        rows={rows}
        own={own}
        said={counted(records.data.pages[0]?.total ?? 0, listed.one.toLowerCase(), listed.many.toLowerCase())}
        label={listed.many}
        sort={sort}
        descending={descending === 'yes'}
        onSort={(column, down) => set({ sort: column, descending: down ? 'yes' : 'no' })}
        more={() => void (records.hasNextPage && !records.isFetchingNextPage && records.fetchNextPage())}
      />
    </>
  );
}

function Filters({
  kind,
  listed,
  filter,
  set,
  own,
  editable,
}: {
  editable: boolean;
  kind: RecordKind;
  listed: ListedKind;
  filter: RecordFilter;
  set: (values: Record<string, string>) => void;
  own: readonly OwnField[];
}) {
  const team = useTeam();
  const setup = useRecordSetup();
  const choices = own.filter((field) => field.type === 'choice' || field.type === 'yesNo');
  return (
    <FilterBar
      label={texts.filter(listed.many.toLowerCase())}
      used={Object.keys(filter).filter((name) => name !== 'text').length}
      search={
        <TextInput
          aria-label={texts.find(listed.many.toLowerCase())}
          placeholder={texts.nameAddressDomainCode}
          className="w-52!"
          value={filter.text ?? ''}
          onChange={(event) => set({ text: event.target.value })}
        />
      }
    >
      <Select aria-label={common.owner} fit="words" value={filter.owner ?? ''} onValue={(value) => set({ owner: value })}>
        <Option value="">{texts.anyOwner}</Option>
        <Option value="nobody">{texts.noOwner}</Option>
        {team.data?.members.map((member) => (
          <Option key={member.id} value={member.id}>
            {member.name}
          </Option>
        ))}
      </Select>
      {kind === 'deal' || kind === 'own' ? (
        <>
          <Select aria-label={texts.openOrClosed} fit="words" value={filter.open ?? ''} onValue={(value) => set({ open: value })}>
            <Option value="">{texts.openAndClosed}</Option>
            <Option value="yes">{texts.open}</Option>
            <Option value="no">{texts.closed}</Option>
          </Select>
          <Select
            aria-label={kind === 'own' ? texts.state : common.stage}
            fit="words"
            value={filter.stage ?? ''}
            onValue={(value) => set({ stage: value })}
          >
            <Option value="">{kind === 'own' ? texts.anyState : texts.anyStage}</Option>
            {(kind === 'own' ? listed.own?.states : setup.data?.stages)?.map((stage) => (
              <Option value={stage.name} key={stage.name}>
                {stage.name}
              </Option>
            ))}
          </Select>
        </>
      ) : (
        <Select aria-label={texts.madeBy} fit="words" value={filter.origin ?? ''} onValue={(value) => set({ origin: value })}>
          <Option value="">{texts.createdByAnyone}</Option>
          <Option value="fulvet">{texts.createdFromMail}</Option>
          <Option value="people">{texts.enteredByPeople}</Option>
        </Select>
      )}
      <Select aria-label={texts.quietFor} fit="words" value={filter.quiet ?? ''} onValue={(value) => set({ quiet: value })}>
        <Option value="">{texts.quietOrNot}</Option>
        {['7', '14', '30', '90'].map((days) => (
          <Option key={days} value={days}>
            {texts.daysQuiet(days)}
          </Option>
        ))}
      </Select>
      <label className="flex items-center gap-1 text-sm">
        <input
          type="checkbox"
          checked={filter.unanswered === 'yes'}
          onChange={(event) => set({ unanswered: event.target.checked ? 'yes' : '' })}
        />{' '}
        {texts.unanswered}
      </label>
      {choices.map((field) => (
        <Select
          key={field.key}
          aria-label={field.label}
          fit="words"
          value={filter.own?.startsWith(`${field.key}:`) ? filter.own : ''}
          onValue={(value) => set({ own: value })}
        >
          <Option value="">{texts.any(field.label)}</Option>
          {(field.type === 'yesNo' ? ['yes', 'no'] : field.choices).map((choice) => (
            <Option key={choice} value={`${field.key}:${choice}`}>
              {field.label}: {choice}
            </Option>
          ))}
        </Select>
      ))}
      {editable && /^\d+$/.test(filter.owner ?? '') && team.data && (
        <HandOver kind={kind} from={Number(filter.owner)} members={team.data.members} />
      )}
      {Object.keys(filter).length > 0 && (
        <Button kind="quiet" onClick={() => set(Object.fromEntries(FILTERS.map((name) => [name, ''])))}>
          {texts.clearFilters}
        </Button>
      )}
    </FilterBar>
  );
}
