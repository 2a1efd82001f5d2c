import type { EachProposal, RecordKind } from '@fulvet/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { useRecordSetup, useSession, useTeam } from '../api/queries';
import { Address, TextInput, Trouble, Waiting } from '../parts/basics';
import { Form, FormEnd, SelectField, TextField, TickField } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { Modal } from '../parts/Modal';
import { counted } from '../parts/numbers';
import { KIND_LABELS, KINDS, recordPath } from '../parts/people';
import { Option, Select } from '../parts/Select';
import type { EachValues, Fate } from './eachRequest';
import { eachRequest, rowOf } from './eachRequest';
import { useEachProposal, useRepair } from './queries';
import { eachDialog as words } from './words';

/** Starts one record for each external person or company of the chosen emails; what may be there already stands first. */
export function EachDialog({ emails, onClose }: { emails: readonly number[]; onClose: () => void }) {
  const setup = useRecordSetup().data;
  const [what, setWhat] = useState('deal');
  const [per, setPer] = useState<'person' | 'company'>('company');
  const own = setup?.kinds.find(({ key }) => `own:${key}` === what) ?? null;
  const kind: RecordKind = own ? 'own' : (what as RecordKind);
  const found = useEachProposal(emails, { per, kind, ...(own ? { of: own.key } : {}) });
  const isChoice = kind === 'deal' || kind === 'own';
  return (
    <Modal open wide onClose={onClose} title={words.oneForEachOf(counted(emails.length, 'email'))}>
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <span>{words.one}</span>
        <Select aria-label={words.whatBegins} fit="words" value={what} onValue={setWhat}>
          {KINDS.map((option) => (
            <Option key={option} value={option}>
              {KIND_LABELS[option].one.toLowerCase()}
            </Option>
          ))}
          {(setup?.kinds ?? []).map(({ key, singular }) => (
            <Option key={key} value={`own:${key}`}>
              {singular.toLowerCase()}
            </Option>
          ))}
        </Select>
        <span>{words.forEach}</span>
        {isChoice ? (
          <Select aria-label={words.forWhat} fit="words" value={per} onValue={(value) => setPer(value as 'person' | 'company')}>
            <Option value="company">{words.company}</Option>
            <Option value="person">{words.person}</Option>
          </Select>
        ) : (
          <span>{kind === 'account' ? words.company : words.person}</span>
        )}
      </div>
      {found.isPending && <Waiting what={words.readingWhoTakesPart} />}
      <Trouble error={found.error} />
      {found.data && !found.isPlaceholderData && (
        <Entries key={`${what} ${per}`} emails={emails} kind={kind} ownKey={own?.key} {...found.data} onClose={onClose} />
      )}
    </Modal>
  );
}

function Entries({
  emails,
  kind,
  ownKey,
  entries,
  left,
  onClose,
}: {
  emails: readonly number[];
  kind: RecordKind;
  ownKey: string | undefined;
  entries: readonly EachProposal[];
  left: number;
  onClose: () => void;
}) {
  const repair = useRepair();
  const setup = useRecordSetup().data;
  const session = useSession();
  const team = useTeam().data?.members ?? [];
  const own = setup?.kinds.find(({ key }) => key === ownKey) ?? null;
  const stages = kind === 'deal' ? (setup?.stages ?? []) : (own?.states ?? []);
  const isTogether = kind === 'deal' || kind === 'own';
  const form = useSentForm<unknown, EachValues>({
    values: {
      rows: entries.map(rowOf),
      stage: stages.find(({ open }) => open)?.name ?? '',
      owner: session.data?.user?.email ?? '',
      suffix: '',
      withOthers: true,
    },
    send: (values) => repair.mutateAsync(eachRequest(emails, kind, own, entries, values)),
    onDone: onClose,
  });
  const rows = form.fields.watch('rows');
  const created = rows.filter(({ fate }) => fate === 'new').length;
  const filed = rows.filter(({ fate }) => fate !== 'new' && fate !== 'nothing').length;
  if (entries.length === 0) return <p className="text-muted">{words.noExternalPerson}</p>;
  const setAll = (fate: 'new' | 'nothing'): void =>
    rows.forEach((_, at) => {
      const entry = entries[at];
      if (entry && (fate === 'nothing' || entry.unfit === null)) form.fields.setValue(`rows.${at}.fate`, fate);
    });
  return (
    <Form form={form} className="">
      <div className="mb-3 grid items-start gap-3 border-t border-line pt-3 sm:grid-cols-3">
        {stages.length > 0 && (
          <SelectField form={form} name="stage" label={kind === 'deal' ? words.stage : words.state}>
            {stages.map(({ name }) => (
              <Option key={name} value={name}>
                {name}
              </Option>
            ))}
          </SelectField>
        )}
        <SelectField form={form} name="owner" label={words.owner}>
          {kind !== 'own' && <Option value="">{words.noOne}</Option>}
          {team
            .filter(({ active }) => active)
            .map(({ email, name }) => (
              <Option key={email} value={email}>
                {name}
              </Option>
            ))}
        </SelectField>
        {isTogether && <TextField form={form} name="suffix" label={words.addedToEachName} placeholder={words.suchAs} />}
      </div>
      {kind !== 'lead' && (
        <TickField form={form} name="withOthers" label={kind === 'contact' ? words.withAccounts : words.withPeopleAndAccounts} />
      )}
      <div className="mt-3 flex flex-wrap items-baseline gap-x-3 border-t border-line pt-2 text-sm">
        <span className="mr-auto text-muted">
          {words.proposed(entries.length, entries.filter(({ alike, unfit }) => unfit === null && alike.length > 0).length, left)}
        </span>
        <button type="button" className="text-spruce hover:underline" onClick={() => setAll('new')}>
          {words.allNew}
        </button>
        <button type="button" className="text-spruce hover:underline" onClick={() => setAll('nothing')}>
          {words.noneOfThem}
        </button>
      </div>
      <ul className="mb-3" aria-label={words.proposals}>
        {entries.map((entry, at) => (
          <li key={entry.key} className="grid items-start gap-x-2 gap-y-1 border-b border-line py-1.5 sm:grid-cols-[1fr_13rem]">
            <div className="min-w-0">
              <TextInput
                aria-label={words.nameOf(entry.key)}
                readOnly={rows[at]?.fate !== 'new'}
                className={rows[at]?.fate === 'new' ? 'w-full' : 'w-full opacity-60'}
                {...form.fields.register(`rows.${at}.name`)}
              />
              <p className="mt-0.5 truncate text-sm text-muted">
                {entry.people[0] && <Address>{entry.people[0].address}</Address>}
                {` · ${[...(entry.people.length > 1 ? [words.more(entry.people.length - 1)] : []), counted(entry.emails, 'email'), ...(entry.unfit ? [entry.unfit] : [])].join(' · ')}`}
              </p>
              {entry.alike.map((item) => (
                <p key={`${item.kind}:${item.id}`} className="truncate text-sm">
                  <Link className="text-spruce hover:underline" to={recordPath(item.kind, item.id)}>
                    {item.name}
                  </Link>{' '}
                  <span className="text-muted">{[item.because, item.detail].filter(Boolean).join(' · ')}</span>
                </p>
              ))}
            </div>
            <Select
              aria-label={words.whatBecomes(entry.name)}
              value={rows[at]?.fate ?? 'nothing'}
              onValue={(value) => form.fields.setValue(`rows.${at}.fate`, value as Fate)}
            >
              <Option value="new">{words.create}</Option>
              {entry.alike.map((item) => (
                <Option key={`${item.kind}:${item.id}`} value={`${item.kind}:${item.id}`}>
                  {words.fileUnder(item.name)}
                </Option>
              ))}
              <Option value="nothing">{words.nothing}</Option>
            </Select>
          </li>
        ))}
      </ul>
      <FormEnd
        form={form}
        label={words.save(
          created === 0 ? '' : own ? counted(created, own.singular.toLowerCase(), own.plural.toLowerCase()) : counted(created, kind),
          filed,
        )}
        disabled={created + filed === 0 || rows.some(({ fate, name }) => fate === 'new' && name.trim() === '')}
        onCancel={onClose}
      />
    </Form>
  );
}
