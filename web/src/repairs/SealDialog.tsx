import type { PinReach } from '@fulvet/contract';
import { useState } from 'react';
import { useRepair } from './queries';
import { Button, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { counted } from '../parts/numbers';
import { ReachChoice } from './ReachChoice';

/** Seals emails: no one but those who use their mailboxes learns that they exist. */
export function SealDialog({ emails, onClose }: { emails: readonly number[]; onClose: () => void }) {
  const [reach, setReach] = useState<PinReach>('conversation');
  const repair = useRepair();
  return (
    <Modal open onClose={onClose} title={`Seal ${emails.length === 1 ? 'it' : counted(emails.length, 'email')}`}>
      <ReachChoice value={reach} onChange={setReach} reaches={['email', 'onward', 'conversation']} many={emails.length > 1} />
      <p className="text-muted">
        It leaves every history and count. No one but those who use its mailboxes learns that it exists, administrators included. You can
        unseal it in its decision panel.
      </p>
      <Trouble error={repair.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          autoFocus
          kind="main"
          disabled={repair.isPending}
          onClick={() => repair.mutate({ emails: [...emails], reach, seal: true }, { onSuccess: onClose })}
        >
          Seal {emails.length === 1 ? (reach === 'email' ? 'this email' : 'it') : counted(emails.length, 'email')}
        </Button>
      </div>
    </Modal>
  );
}
