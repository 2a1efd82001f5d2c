import { Modal } from '../parts/Modal';
import { keyList as words } from './panel/words';

const KEYS: [string, string][] = [
  [words.ctrlK, words.findPeopleCompaniesDeals],
  ['↑ ↓', words.moveInAList],
  ['Enter', words.openTheDecisionOf],
  ['D', words.decisionOfTheSelected],
  ['F', words.fileTheSelectedEmails],
  ['T', words.removeTheSelectedEmails],
  ['N', words.createRecordsFromThe],
  ['S', words.sealTheSelectedEmails],
  ['Space', words.selectInAList],
  ['1 … 9', words.atTheSortingDesk],
  [words.alt, words.moveTheSelectedDeal],
  ['O', words.keepOutTheDomain],
  ['H', words.openTheRecordOf],
  [words.altT, words.goToTheNotices],
  [words.esc, words.closeWhatIsOpen],
  ['?', words.helpOnThisPage],
];

export default function KeyList({ onClose }: { onClose: () => void }) {
  return (
    <Modal open onClose={onClose} title={words.keys}>
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
