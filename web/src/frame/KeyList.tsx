import { Modal } from '../parts/Modal';

const KEYS: [string, string][] = [
  ['Ctrl K', 'Find people, companies, deals, emails and pages'],
  ['↑ ↓', 'Move in a list'],
  ['Enter', 'Open the decision of an email, or a record'],
  ['D', 'Decision of the selected email'],
  ['F', 'File the selected emails under a record'],
  ['T', 'Remove the selected emails from a record'],
  ['N', 'Create records from the selected emails'],
  ['S', 'Seal the selected emails: only you see them'],
  ['Space', 'Select in a list; Shift and arrows for a range'],
  ['1 … 9', 'At the sorting desk: choose this answer; 0 none, L leave unfiled, K skip, A always'],
  ['Alt ← →', 'Move the selected deal to another stage'],
  ['O', 'Keep out the domain of the selected email’s sender'],
  ['H', 'Open the record of the selected email'],
  ['Alt T', 'Go to the notices, with Undo'],
  ['Esc', 'Close what is open'],
  ['?', 'Help on this page'],
];

export default function KeyList({ onClose }: { onClose: () => void }) {
  return (
    <Modal open onClose={onClose} title="Keys">
      <dl className="grid grid-cols-[7rem_1fr] gap-y-2">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="rounded border border-line bg-sunk px-1.5 py-0.5 font-mono text-sm">{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
