import type { NewPerson, Outsider, OwnKind, RepairRequest } from '@fulvet/contract';
import { Link } from 'react-router';
import { useRecordSetup } from '../api/queries';
import { useOutsiders, useRepair } from './queries';
import { Address, TextInput, Trouble, Waiting } from '../parts/basics';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { clsx } from '../parts/clsx';
import { Modal } from '../parts/Modal';
import { counted } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { Option, Select } from '../parts/Select';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { startDialog as words } from './words';

type Become = 'contact' | 'lead' | 'nothing';
interface Values {
  /** For each unknown participant, in order. */
  rows: Row[];
  deal: string;
  /** Key of the kind of another record, or empty. */
  ownKind: string;
  ownName: string;
}

interface Row {
  become: Become;
  name: string;
  title: string;
  company: string;
}

/** Starts records from emails: one row for each external person, filled in from what they wrote; and a deal, if there is to be one. */
export function StartDialog({ emails, onClose }: { emails: readonly number[]; onClose: () => void }) {
  const found = useOutsiders(emails);
  return (
    <Modal
      open
      wide
      onClose={onClose}
      title={words.createRecordsFrom(emails.length === 1 ? words.thisEmail : counted(emails.length, 'email'))}
    >
      {found.isPending && <Waiting what={words.readingWhoTakesPart} />}
      <Trouble error={found.error} />
      {found.data && <People emails={emails} people={found.data.people} subject={found.data.subject ?? ''} onClose={onClose} />}
    </Modal>
  );
}

function startOf(person: Outsider): Row {
  return {
    become: person.role || person.machine || person.keptOut ? 'nothing' : 'contact',
    name: person.name,
    title: person.title,
    // Of several that share the domain, the person on the spot knows which.
    company: person.accounts.length > 1 ? '' : (person.accounts[0]?.name ?? person.company),
  };
}

function People({
  emails,
  people,
  subject,
  onClose,
}: {
  emails: readonly number[];
  people: readonly Outsider[];
  subject: string;
  onClose: () => void;
}) {
  const unknown = people.filter((person) => person.record === null);
  const known = people.filter((person) => person.record !== null);
  const repair = useRepair();
  const kinds = useRecordSetup().data?.kinds ?? [];
  const accounts = new Map(
    people.flatMap((person) => (person.accounts.length === 1 ? person.accounts.map(({ id, name }) => [id, name] as const) : [])),
  );
  const [account = null] = accounts.size === 1 ? [...accounts].map(([id, name]) => ({ id, name })) : [];
  const form = useSentForm<unknown, Values>({
    values: { rows: unknown.map(startOf), deal: '', ownKind: '', ownName: subject },
    send: ({ rows, deal, ownKind, ownName }) =>
      repair.mutateAsync({
        emails: [...emails],
        reach: 'conversation',
        people: unknown.flatMap((item, at) => {
          const row = rows[at];
          return row && row.become !== 'nothing' ? [personOf(item, row)] : [];
        }),
        deal: deal.trim() ? { name: deal.trim(), accountId: account?.id ?? null, people: people.map((person) => person.address) } : null,
        own: ownKind
          ? ownOf(
              kinds.find(({ key }) => key === ownKind),
              ownName,
              account,
              people,
            )
          : null,
      }),
    onDone: onClose,
  });
  const { rows, deal, ownKind, ownName } = form.fields.watch();
  const own = kinds.find(({ key }) => key === ownKind);
  const chosen = rows.filter((row) => row.become !== 'nothing');
  return (
    <Form form={form} className="">
      {unknown.length === 0 && <p className="text-muted">{words.everyExternalParticipantHas}</p>}
      <ul className="space-y-3">
        {unknown.map((item, at) => {
          const become = rows[at]?.become ?? 'nothing';
          const off = become === 'nothing';
          return (
            <li key={item.address} className="border-t border-line pt-2 first:border-0 first:pt-0">
              <div className="mb-1 flex flex-wrap items-baseline gap-x-2 text-sm">
                <Address>{item.address}</Address>
                <span className="text-muted">{hintOf(item)}</span>
              </div>
              <div className="grid gap-1.5 sm:grid-cols-[7.5rem_1fr_1fr_1fr]">
                <Select
                  aria-label={words.whatBecomes(item.address)}
                  value={become}
                  onValue={(value) => form.fields.setValue(`rows.${at}.become`, value as Become)}
                >
                  <Option value="contact">{words.contact}</Option>
                  <Option value="lead">{words.lead}</Option>
                  <Option value="nothing">{words.nothing}</Option>
                </Select>
                <TextInput
                  aria-label={words.nameOf(item.address)}
                  placeholder={common.name}
                  readOnly={off}
                  aria-disabled={off || undefined}
                  className={clsx(off && 'opacity-50')}
                  {...form.fields.register(`rows.${at}.name`)}
                />
                <TextInput
                  aria-label={words.titleOf(item.address)}
                  placeholder={common.title}
                  readOnly={off}
                  aria-disabled={off || undefined}
                  className={clsx(off && 'opacity-50')}
                  {...form.fields.register(`rows.${at}.title`)}
                />
                {item.accounts.length > 1 && (
                  <datalist id={`accounts of ${item.address}`}>
                    {item.accounts.map(({ id, name }) => (
                      <option key={id} value={name} />
                    ))}
                  </datalist>
                )}
                <TextInput
                  list={item.accounts.length > 1 ? words.accountsOf(item.address) : undefined}
                  aria-label={words.companyOf(item.address)}
                  placeholder={become === 'lead' ? words.company : common.account}
                  readOnly={off}
                  aria-disabled={off || undefined}
                  className={clsx(off && 'opacity-50')}
                  {...form.fields.register(`rows.${at}.company`)}
                />
              </div>
            </li>
          );
        })}
      </ul>
      {known.length > 0 && (
        <p className="mt-3 text-sm text-muted">
          {filled(words.inTheRecords, {
            known: known.map((item, at) => (
              <span key={item.address}>
                {at > 0 && ', '}
                {item.record && (
                  <Link className="text-spruce hover:underline" to={recordPath(item.record.kind, item.record.id)}>
                    {item.record.name}
                  </Link>
                )}
              </span>
            )),
          })}
        </p>
      )}
      <div className="mt-3 mb-4 border-t border-line pt-3">
        <TextField
          form={form}
          name="deal"
          label={words.aDealBeginsWith}
          placeholder={words.itsNameEmptyFor}
          hint={account ? words.withThePeopleAbove(account.name) : words.withThePeopleAboveAnd}
        />
      </div>
      {kinds.length > 0 && (
        <div className="mb-4 grid items-start gap-3 border-t border-line pt-3 sm:grid-cols-[12rem_1fr]">
          <SelectField form={form} name="ownKind" label={words.anotherRecordBegins}>
            <Option value="">{words.none}</Option>
            {kinds.map(({ key, singular }) => (
              <Option key={key} value={key}>
                {singular}
              </Option>
            ))}
          </SelectField>
          {own && <TextField form={form} name="ownName" label={words.itsNameIs} hint={words.withAllOfThem(own.prefix)} />}
        </div>
      )}
      <FormEnd
        form={form}
        label={saveLabel(chosen.length, [...(deal.trim() ? [words.aDeal] : []), ...(own ? [`a ${own.singular.toLowerCase()}`] : [])])}
        disabled={(chosen.length === 0 && deal.trim() === '' && !own) || (own !== undefined && ownName.trim() === '')}
        onCancel={onClose}
      />
    </Form>
  );
}

/** The record of an own kind that begins with the emails, with what its kind has of those who take part. */
function ownOf(
  kind: OwnKind | undefined,
  name: string,
  account: { id: number } | null,
  people: readonly Outsider[],
): NonNullable<RepairRequest['own']> | null {
  if (!kind) return null;
  return {
    kind: kind.key,
    name: name.trim(),
    accountId: kind.hasAccount ? (account?.id ?? null) : null,
    people: kind.hasPeople ? people.map((person) => person.address) : [],
  };
}

function saveLabel(people: number, records: readonly string[]): string {
  const parts = [...(people > 0 ? [counted(people, 'person', 'people')] : []), ...records];
  return parts.length > 0 ? words.create(parts.join(' and ')) : words.createRecords;
}

function personOf(person: Outsider, { become, name, title, company }: Row): NewPerson {
  const wanted = company.trim();
  const known = person.accounts.find((account) => account.name === wanted);
  return {
    kind: become === 'lead' ? 'lead' : 'contact',
    address: person.address,
    name,
    title,
    phones: person.phones,
    account: wanted === '' ? null : known && become === 'contact' ? { id: known.id } : { name: wanted, domain: person.domain },
  };
}

function hintOf(person: Outsider): string {
  if (person.accounts.length > 1) return words.shareTheDomainSay(person.accounts.map(({ name }) => name).join(' and '));
  if (person.keptOut) return words.isKeptOut;
  if (person.role) return words.namesAFunctionNot;
  if (person.machine) return words.machinesWriteFromThere;
  if (person.nameConfidence === 0) return words.nameNotKnown;
  return person.nameConfidence < 1 ? words.nameGuessedSure(Math.round(person.nameConfidence * 100)) : '';
}
