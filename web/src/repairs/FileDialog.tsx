import type { Filing, PinReach } from '@fulvet/contract';
import { useState } from 'react';
import { useRepair } from './queries';
import { Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { counted } from '../parts/numbers';
import { LikelyList } from './LikelyList';
import { ReachChoice } from './ReachChoice';
import { fileDialog as words } from './words';

/** Files emails under a record, or moves them there from another. */
export function FileDialog({ emails, from = null, onClose }: { emails: readonly number[]; from?: Filing | null; onClose: () => void }) {
  const [reach, setReach] = useState<PinReach>('conversation');
  const repair = useRepair();
  const [first = 0] = emails;
  const what = emails.length === 1 ? 'it' : counted(emails.length, 'email');
  return (
    <Modal open onClose={onClose} title={from ? words.moveFromTo(what, from.name) : words.fileUnder(what)}>
      <ReachChoice value={reach} onChange={setReach} reaches={['email', 'conversation']} many={emails.length > 1} />
      <LikelyList
        emailId={first}
        without={from ? [`${from.kind}:${from.id}`] : []}
        onPick={({ kind, id }) =>
          repair.mutate(
            { emails: [...emails], reach, file: [{ kind, id }], takeOff: from ? [{ kind: from.kind, id: from.id }] : [] },
            { onSuccess: onClose },
          )
        }
      />
      <Trouble error={repair.error} />
      <p className="mt-2 text-sm text-muted">{words.theRulesOfThe}</p>
    </Modal>
  );
}
