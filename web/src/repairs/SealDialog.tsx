import type { PinReach } from '@fulvet/contract';
import { useState } from 'react';
import { useRepair } from './queries';
import { Button, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { counted } from '../parts/numbers';
import { ReachChoice } from './ReachChoice';
import { common } from '../parts/words';
import { sealDialog as words } from './words';

/** Seals emails: no one but those who use their mailboxes learns that they exist. */
export function SealDialog({ emails, onClose }: { emails: readonly number[]; onClose: () => void }) {
  const [reach, setReach] = useState<PinReach>('conversation');
  const repair = useRepair();
  return (
    <Modal open onClose={onClose} title={words.seal(emails.length === 1 ? 'it' : counted(emails.length, 'email'))}>
      <ReachChoice value={reach} onChange={setReach} reaches={['email', 'onward', 'conversation']} many={emails.length > 1} />
      <p className="text-muted">{words.itLeavesEveryHistory}</p>
      <Trouble error={repair.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>{common.cancel}</Button>
        <Button
          autoFocus
          kind="main"
          disabled={repair.isPending}
          onClick={() => repair.mutate({ emails: [...emails], reach, seal: true }, { onSuccess: onClose })}
        >
          {words.sealForThisEmail(emails.length === 1 ? (reach === 'email' ? words.thisEmail : words.it) : counted(emails.length, 'email'))}
        </Button>
      </div>
    </Modal>
  );
}
