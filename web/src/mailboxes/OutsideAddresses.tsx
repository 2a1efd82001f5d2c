import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { asked, answerKey } from '../api/asked';
import { call } from '../api/call';
import { Address, Button, Trouble } from '../parts/basics';
import { counted } from '../parts/numbers';

/** Addresses of mailboxes outside the own domains: an administrator says which of them are ours, and sees first what depends on it. */
export function OutsideAddresses() {
  const client = useQueryClient();
  const known = useQuery(asked('listTeamAddresses'));
  const say = useMutation({
    mutationFn: (body: { address: string; isOurs: boolean }) => call('setTeamAddress', { body }),
    onSuccess: (answer) => client.setQueryData(answerKey('listTeamAddresses'), answer),
  });
  if (known.data?.addresses.length === 0) return null;
  return (
    <section aria-label="Addresses outside your domains" className="mt-8">
      <h2 className="mb-1 text-lg">Addresses outside your domains</h2>
      <p className="mb-2 text-muted">
        Members entered these addresses for mailboxes. Confirm those that belong to your team: their mail then counts as yours, and no
        record is created for them.
      </p>
      <ul className="divide-y divide-line border-y border-line">
        {known.data?.addresses.map((address) => (
          <li
            key={`${address.address} ${address.mailbox}`}
            className="flex flex-wrap items-center gap-x-3 gap-y-1 px-1 py-1.5 sm:flex-nowrap"
          >
            <span className="min-w-0 grow">
              <Address>{address.address}</Address>
              <span className="block text-sm text-muted">
                {address.isOurs ? 'Confirmed' : 'Not confirmed'} · mailbox of {address.owner} · in {counted(address.emails, 'email')} ·{' '}
                {address.records === 0 ? 'in no record' : `of ${counted(address.records, 'contact or lead', 'contacts and leads')}`}
              </span>
            </span>
            <Button disabled={say.isPending} onClick={() => say.mutate({ address: address.address, isOurs: !address.isOurs })}>
              {address.isOurs ? 'Remove confirmation' : 'Confirm as yours'}
            </Button>
          </li>
        ))}
      </ul>
      <Trouble error={known.error ?? say.error} />
    </section>
  );
}
