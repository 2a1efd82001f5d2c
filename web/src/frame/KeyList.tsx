import { Modal } from '../parts/Modal';

const KEYS: [string, string][] = [
  ['Ctrl K', 'Find people, companies, deals, emails and pages'],
  ['↑ ↓', 'Move in a list'],
  ['Enter', 'Open the decision of an email, or a record'],
  ['D', 'Decision of the selected email'],
  ['F', 'File the emails at hand under a record'],
  ['T', 'Take them off a record'],
  ['N', 'Start records from them'],
  ['S', 'Seal them: for you alone'],
  ['Space', 'Choose in a list; Shift and arrows for a range'],
  ['1 … 9', 'At the sorting desk: this one; 0 none, L leave, K skip, A always so'],
  ['Alt ← →', 'Move a deal to another stage'],
  ['O', 'Keep out the sender’s domain of the email at hand'],
  ['H', 'Go to the history that the email at hand stands in'],
  ['Esc', 'Close what is open'],
  ['?', 'This list'],
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
