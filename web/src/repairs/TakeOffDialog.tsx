import type { Filing, PinReach } from '@fulvet/contract';
import { useState } from 'react';
import { useRepair } from './queries';
import { Button, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { counted } from '../parts/numbers';
import { KIND_LABELS } from '../parts/people';
import { ReachChoice } from './ReachChoice';
import { takeOffDialog as words } from './words';

/** Takes emails off a record, or off every one. */
export function TakeOffDialog({
  emails,
  filings,
  onClose,
}: {
  emails: readonly number[];
  filings: readonly Filing[];
  onClose: () => void;
}) {
  const [reach, setReach] = useState<PinReach>('conversation');
  const repair = useRepair();
  const takeOff = (kind: Filing['kind'] | null, id: number | null): void =>
    repair.mutate({ emails: [...emails], reach, takeOff: [{ kind, id }] }, { onSuccess: onClose });
  return (
    <Modal open onClose={onClose} title={words.takeOff(emails.length === 1 ? 'it' : counted(emails.length, 'email'))}>
      <ReachChoice value={reach} onChange={setReach} reaches={['email', 'onward', 'soFar', 'conversation']} many={emails.length > 1} />
      <ul className="space-y-1">
        {filings.map((filing, at) => (
          <li key={`${filing.kind}${filing.id}`}>
            <Button autoFocus={at === 0} className="w-full" disabled={repair.isPending} onClick={() => takeOff(filing.kind, filing.id)}>
              <span className="w-16 text-left text-muted">{KIND_LABELS[filing.kind].one}</span>{' '}
              <span className="truncate">{filing.name}</span>
            </Button>
          </li>
        ))}
        <li>
          <Button autoFocus={filings.length === 0} className="w-full" disabled={repair.isPending} onClick={() => takeOff(null, null)}>
            <span className="w-16 text-left text-muted">{words.all}</span> {words.everyRecordLeaveIt}
          </Button>
        </li>
      </ul>
      <Trouble error={repair.error} />
      <p className="mt-2 text-sm text-muted">{words.unfiledMailIsSeen}</p>
    </Modal>
  );
}
