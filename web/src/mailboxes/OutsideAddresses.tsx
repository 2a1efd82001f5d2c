import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { asked, answerKey } from '../api/asked';
import { call } from '../api/call';
import { Address, Button, Trouble } from '../parts/basics';
import { outsideAddresses as words } from './words';

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
    <section aria-label={words.addressesOutsideYourDomains} className="mt-8">
      <h2 className="mb-1 text-lg">{words.addressesOutsideYourDomains}</h2>
      <p className="mb-2 text-muted">{words.membersEnteredTheseAddresses}</p>
      <ul className="divide-y divide-line border-y border-line">
        {known.data?.addresses.map((address) => (
          <li
            key={`${address.address} ${address.mailbox}`}
            className="flex flex-wrap items-center gap-x-3 gap-y-1 px-1 py-1.5 sm:flex-nowrap"
          >
            <span className="min-w-0 grow">
              <Address>{address.address}</Address>
              <span className="block text-sm text-muted">
                {words.confirmedMailboxOfIn(
                  address.isOurs,
                  address.owner,
                  address.emails,
                  address.records === 0 ? words.inNoRecord : words.ofContactsAndLeads(address.records),
                )}
              </span>
            </span>
            <Button disabled={say.isPending} onClick={() => say.mutate({ address: address.address, isOurs: !address.isOurs })}>
              {address.isOurs ? words.removeConfirmation : words.confirmAsYours}
            </Button>
          </li>
        ))}
      </ul>
      <Trouble error={known.error ?? say.error} />
    </section>
  );
}
