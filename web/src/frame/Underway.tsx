import { Link, useLocation } from 'react-router';
import { counted } from '../parts/numbers';
import { useDraft, usePilot } from '../rulebook/queries';
import { filled } from '../parts/filled';
import { underway as words } from './words';

/** Pages that show the pilot themselves; those that show the draft. */
const SHOW_PILOT = ['/keep-out', '/take-in', '/match', '/create', '/share', '/versions'];
const SHOW_DRAFT = [...SHOW_PILOT, '/who-we-are'];

/** What is under way with the rules, at the lower edge of every page of an administrator: a draft that is not in force yet, a pilot. */
export function Underway() {
  const { pathname } = useLocation();
  const draft = useDraft().data;
  const pilot = usePilot().data?.pilot ?? null;
  const changes = draft && draft.revision > 0 ? draft.differences.length : 0;
  const showsDraft = changes > 0 && !SHOW_DRAFT.includes(pathname);
  const showsPilot = pilot !== null && !SHOW_PILOT.includes(pathname);
  if (!showsDraft && !showsPilot) return null;
  return (
    <div
      role="region"
      aria-label={words.rulesUnderWay}
      className="sticky bottom-0 z-10 flex flex-wrap items-center gap-x-5 gap-y-0.5 border-t border-line bg-raised px-4 py-1.5 text-sm sm:px-6"
    >
      {showsDraft && (
        <span>
          {filled(words.notInForce, {
            draft: <strong>{words.draft}</strong>,
            changes: counted(changes, 'change'),
            draftBy: draft?.by ? words.lastEditedBy(draft.by) : '',
            openThe: (
              <Link to="/versions" className="text-spruce underline">
                {words.openTheDraft}
              </Link>
            ),
          })}
        </span>
      )}
      {showsPilot && (
        <span>
          {filled(words.ofVersionIn, {
            pilot: <strong>{words.pilot}</strong>,
            version: pilot.version,
            manyMailboxes: counted(pilot.mailboxes.length, 'mailbox', 'mailboxes'),
            openThe: (
              <Link to="/versions" className="text-spruce underline">
                {words.openThePilot}
              </Link>
            ),
          })}
        </span>
      )}
    </div>
  );
}
