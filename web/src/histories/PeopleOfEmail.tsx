import type { ConcernedPerson, EmailDetail, User } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useState } from 'react';
import { Link } from 'react-router';
import { useRepair } from '../repairs/queries';
import { KeepOutDialog } from '../decision/KeepOutDialog';
import { Address, Button, Trouble, Waiting } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { recordPath } from '../parts/people';
import { useKeepOutOfMine } from '../decision/OwnKeepOuts';
import { filled } from '../parts/filled';
import { peopleOfEmail as words } from './words';

/** Whom an email concerns in the records; unknown people are added by one click. */
export function Concerned({ email, user }: { email: EmailDetail; user: User }) {
  const found = useQuery(asked('concernedPeople', { id: email.id }));
  return (
    <section aria-label={words.externalPeopleInThis} className="mt-4 border-t border-line pt-2">
      <h2 className="mb-1 text-muted">{words.externalPeopleInThis}</h2>
      {found.isPending && <Waiting what={words.lookingUp} />}
      <Trouble error={found.error} />
      {found.data?.people.length === 0 && <p className="text-muted">{words.thereAreNoExternal}</p>}
      <ul className="space-y-3">
        {found.data?.people.map((item) => (
          <Person key={item.address} person={item} email={email} user={user} />
        ))}
      </ul>
    </section>
  );
}

function Person({ person, email, user }: { person: ConcernedPerson; email: EmailDetail; user: User }) {
  const repair = useRepair();
  const keepOutOfMine = useKeepOutOfMine();
  const [keepOut, setKeepOut] = useState(false);
  const { record, accounts } = person;
  // Of several that share the domain, none is guessed.
  const [account = null] = accounts.length === 1 ? accounts : [];
  const add = (): void =>
    repair.mutate({
      emails: [email.id],
      people: [
        {
          kind: 'contact',
          address: person.address,
          name: person.name,
          title: person.title,
          phones: person.phones,
          account: account
            ? { id: account.id }
            : person.company && accounts.length === 0
              ? { name: person.company, domain: person.domain }
              : null,
        },
      ],
    });
  return (
    <li className={record ? '' : 'border-l-2 border-ochre pl-2.5'}>
      <p className="flex flex-wrap items-baseline gap-x-2">
        {record ? (
          <Link to={recordPath(record.kind, record.id)} className="font-medium text-spruce hover:underline">
            {record.name}
          </Link>
        ) : (
          <span className="font-medium">{person.name}</span>
        )}
        {person.title && <span>{person.title}</span>}
        {account && (
          <Link to={recordPath('account', account.id)} className="text-spruce hover:underline">
            {account.name}
          </Link>
        )}
        {!record && <span className="text-sm text-ochre">{person.keptOut ? 'kept out' : words.unknown}</span>}
      </p>
      <Address className="text-muted">{person.address}</Address>
      {person.phones.length > 0 && <span className="ml-2 font-mono text-[0.92em] text-muted">{person.phones.join(', ')}</span>}
      {person.deals.map((deal) => (
        <p key={deal.id}>
          <Link to={recordPath('deal', deal.id)} className="text-spruce hover:underline">
            {deal.name}
          </Link>{' '}
          <span className="text-muted">{deal.stage}</span>
        </p>
      ))}
      {person.meeting && (
        <p>{filled(words.nextMeeting, { meetingAt: <Moment at={person.meeting.at} />, summary: person.meeting.summary })}</p>
      )}
      <p className="text-sm text-muted">
        {person.lastContact
          ? filled(words.beforeThis, { lastContactAt: <Moment at={person.lastContact.at} />, colleague: person.lastContact.colleague })
          : words.theFirstEmailWith}
      </p>
      {!record && (
        <div className="mt-1 flex flex-wrap gap-1.5">
          {!person.role && !person.machine && !person.keptOut && (
            <Button kind="main" disabled={repair.isPending} onClick={add}>
              {words.add(person.name.includes('@') ? words.them : person.name)}
            </Button>
          )}
          {!person.keptOut && <Button onClick={() => keepOutOfMine.mutate(person.address)}>{words.keepOutOfMy}</Button>}
          {user.role === 'admin' && <Button onClick={() => setKeepOut(true)}>{words.keepOutForAll}</Button>}
        </div>
      )}
      <Trouble error={repair.error} />
      {keepOut && <KeepOutDialog address={person.address} onClose={() => setKeepOut(false)} />}
    </li>
  );
}
