import { Link, useLocation } from 'react-router';
import { counted } from '../parts/numbers';
import { useDraft, usePilot } from '../rulebook/queries';

/** Pages that show the draft themselves. */
const SHOW_IT = ['/keep-out', '/take-in', '/match', '/create', '/share', '/versions', '/who-we-are'];

/** What is under way with the rules, on every page of an administrator: a draft that is not in force yet, a pilot. */
export function Underway() {
  const { pathname } = useLocation();
  const draft = useDraft().data;
  const pilot = usePilot().data?.pilot ?? null;
  const changes = draft && draft.revision > 0 ? draft.differences.length : 0;
  const showsDraft = changes > 0 && !SHOW_IT.includes(pathname);
  const showsPilot = pilot !== null && pathname !== '/versions';
  if (!showsDraft && !showsPilot) return null;
  return (
    <div
      role="region"
      aria-label="Rules under way"
      className="flex flex-wrap items-center gap-x-5 gap-y-0.5 border-b border-line bg-raised px-4 py-1.5 text-sm sm:px-6"
    >
      {showsDraft && (
        <span>
          <strong>Draft</strong>: {counted(changes, 'change')}, not in force
          {draft?.by ? `, last edited by ${draft.by}` : ''}.{' '}
          <Link to="/versions" className="text-spruce underline">
            Open the draft
          </Link>
        </span>
      )}
      {showsPilot && (
        <span>
          <strong>Pilot</strong> of version {pilot.version} in {counted(pilot.mailboxes.length, 'mailbox', 'mailboxes')}.{' '}
          <Link to="/versions" className="text-spruce underline">
            Open the pilot
          </Link>
        </span>
      )}
    </div>
  );
}
