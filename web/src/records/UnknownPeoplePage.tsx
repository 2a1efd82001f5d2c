import type { NewPerson, UnknownPerson, UnknownPeopleGroup, User } from '@fulvet/contract';
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useState } from 'react';
import { Link } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Address, Button, Empty, Page, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { useAddressBar } from '../parts/useAddressBar';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { unknownPeoplePage as words } from './words';

/** People and external companies with whom mail goes both ways and who are in no record; the chosen ones become records. */
export default function UnknownPeoplePage({ user }: { user: User }) {
  const [params, set] = useAddressBar();
  const days = params.get('days') ?? '365';
  const whose = params.get('whose') ?? 'all';
  const found = useQuery({
    ...asked('listUnknownPeople', { days, whose }),
    placeholderData: keepPreviousData,
  });
  const [joins, setJoins] = useState<Readonly<Record<string, number>>>({});
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [become, setBecome] = useState<'contact' | 'lead'>('contact');
  const refresh = useRefreshAll();
  const notice = useNotice();
  const groups = found.data?.groups ?? [];
  const picked = groups.flatMap((group) =>
    group.people.filter((person) => chosen.has(person.address)).map((person) => ({ group, person })),
  );
  const undo = async (id: number): Promise<void> => {
    const undone = await call('undoRepair', { id });
    await refresh();
    notice(
      undone.kept.length > 0 ? words.undoneExcept(undone.kept.map((item) => `${item.name} (${item.because})`).join(', ')) : words.undone,
    );
  };
  const start = useMutation({
    mutationFn: () =>
      call('repair', {
        body: {
          emails: [...new Set(picked.map(({ person }) => person.lastEmailId))],
          people: picked.map(({ group, person }) => recordOf(group, person, become, joinedBy(group, joins))),
        },
      }),
    onSuccess: async (done) => {
      setChosen(new Set());
      await refresh();
      notice(words.recordStartedPastMail(done.created.length), {
        label: common.undo,
        run: () => undo(done.id),
      });
    },
  });
  const toggle = (addresses: readonly string[]): void =>
    setChosen((all) => {
      const next = new Set(all);
      const take = addresses.some((address) => !next.has(address));
      for (const address of addresses)
        if (take) next.add(address);
        else next.delete(address);
      return next;
    });
  return (
    <Page title={words.unknownPeople} purpose={words.externalPeopleWhoWrite}>
      <p className="mb-3 text-muted">
        {filled(words.mailInBothDirections, {
          days: (
            <Choice
              label={words.days}
              value={days}
              options={[
                { value: '30', label: '30 days' },
                { value: '90', label: '90 days' },
                { value: '365', label: '12 months' },
                { value: '1825', label: '5 years' },
              ]}
              onChange={(value) => set({ days: value })}
            />
          ),
          mailOf: (
            <Choice
              label={words.mailOf}
              value={whose}
              options={[
                { value: 'all', label: words.allMailThatYou },
                { value: 'mine', label: words.yourOwnMailboxes },
              ]}
              onChange={(value) => set({ whose: value })}
            />
          ),
        })}
      </p>
      {found.isPending && <Waiting what={words.sweepingTheMail} />}
      <Trouble error={found.error ?? start.error} />
      {found.data && groups.length === 0 && <Empty title={words.noUnknownPeople}>{words.everyoneWithMailIn}</Empty>}
      {picked.length > 0 && user.role !== 'viewer' && (
        <div className="sticky top-2 z-10 mb-3 flex flex-wrap items-center gap-2 rounded border border-line bg-raised px-3 py-2 shadow">
          <span className="grow">{words.peopleChosenTheyBecome(picked.length)}</span>
          <Choice
            label={words.theyBecome}
            value={become}
            options={[
              { value: 'contact', label: words.contacts, hint: words.withAnAccountOf },
              { value: 'lead', label: words.leads },
            ]}
            onChange={setBecome}
          />
          <Button kind="main" disabled={start.isPending} onClick={() => start.mutate()}>
            {words.start(counted(picked.length, become))}
          </Button>
        </div>
      )}
      <ul className="space-y-3">
        {groups.map((group) => (
          <Group
            key={group.domain}
            group={group}
            joined={joinedBy(group, joins)}
            join={(id) => setJoins((all) => ({ ...all, [group.domain]: id }))}
            chosen={chosen}
            toggle={toggle}
          />
        ))}
      </ul>
    </Page>
  );
}

/** The account that contacts of a group join: its only one, or the one that was chosen. */
const joinedBy = (group: UnknownPeopleGroup, joins: Readonly<Record<string, number>>): number | undefined =>
  group.accounts.length === 1 ? group.accounts[0]?.id : joins[group.domain];

/** @param joined the account of a contact, where there is one */
function recordOf(group: UnknownPeopleGroup, person: UnknownPerson, kind: 'contact' | 'lead', joined: number | undefined): NewPerson {
  const { address, name, title, phones } = person;
  const ofCompany = group.company ? { name: group.company, domain: group.domain } : null;
  // Of several accounts that share the domain none is guessed.
  const isOpen = kind === 'contact' && group.accounts.length > 0;
  const account = isOpen ? (joined === undefined ? null : { id: joined }) : ofCompany;
  return { kind, address, name, title, phones, account };
}

function Group({
  group,
  joined,
  join,
  chosen,
  toggle,
}: {
  group: UnknownPeopleGroup;
  joined: number | undefined;
  join: (accountId: number) => void;
  chosen: ReadonlySet<string>;
  toggle: (addresses: readonly string[]) => void;
}) {
  const docket = useDecisionPanel();
  const addresses = group.people.map((person) => person.address);
  return (
    <li className="border-t border-line pt-2">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <label className="flex items-baseline gap-2">
          <input
            type="checkbox"
            aria-label={words.everyoneAt(group.company || words.publicProviders)}
            checked={addresses.every((address) => chosen.has(address))}
            onChange={() => toggle(addresses)}
          />
          <span className="font-head text-lg font-semibold">{group.company || words.addressesAtPublicMail}</span>
        </label>
        {group.domain && (
          <Link className="font-mono text-sm text-muted hover:underline" to={`/domains/${group.domain}`}>
            {group.domain}
          </Link>
        )}
        {group.accounts.length === 1 &&
          group.accounts.map(({ id, name }) => (
            <Link key={id} className="text-sm text-spruce hover:underline" to={recordPath('account', id)}>
              {words.joins(name)}
            </Link>
          ))}
        {group.accounts.length > 1 && (
          <span className="text-sm text-muted">
            {filled(words.accountsShareTheDomain, {
              manyAccounts: group.accounts.length,
              domain: (
                <Choice
                  label={words.accountOfContactsAt(group.domain)}
                  value={String(joined ?? '')}
                  options={group.accounts.map(({ id, name }) => ({ value: String(id), label: name }))}
                  shown={joined === undefined ? words.noneOfThem : undefined}
                  onChange={(id) => join(Number(id))}
                />
              ),
            })}
          </span>
        )}
        {group.accounts.length === 0 && group.domain && <span className="text-sm text-muted">{words.aNewAccount}</span>}
      </div>
      <ul>
        {group.people.map((person) => (
          <li
            key={person.address}
            className="grid items-baseline gap-x-3 py-0.5 pl-6 sm:grid-cols-[auto_minmax(9rem,1fr)_minmax(10rem,1.4fr)_8rem_minmax(8rem,1fr)_5rem]"
          >
            <input
              type="checkbox"
              aria-label={person.name}
              checked={chosen.has(person.address)}
              onChange={() => toggle([person.address])}
            />
            <span className="truncate font-medium">
              {person.name}
              {person.title && <span className="font-normal text-muted">, {person.title}</span>}
            </span>
            <Address className="text-muted">{person.address}</Address>
            <span className="tabular text-sm">{words.sentGot(person.sent, person.received)}</span>
            <span className="truncate text-sm text-muted">{person.colleagues.map((it) => it.name).join(', ')}</span>
            <button
              type="button"
              className="text-right text-sm text-spruce hover:underline"
              onClick={() => docket.open(person.lastEmailId)}
            >
              <Moment at={person.lastAt} />
            </button>
          </li>
        ))}
      </ul>
    </li>
  );
}
