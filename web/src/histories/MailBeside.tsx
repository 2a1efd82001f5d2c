import type { EmailRow, RecordKind } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { Moment } from '../parts/Moment';
import { nameOf } from '../parts/people';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { common } from '../parts/words';
import { useRepair } from '../repairs/queries';
import { mailBeside as words } from './words';

/** The reader's own mail with the people of a record that is not filed under it. The key F files the one at hand. */
export function MailBeside({ kind, id }: { kind: RecordKind; id: number }) {
  const emails = useQuery(asked('getMailBeside', { kind, id })).data?.emails ?? [];
  const repair = useRepair();
  if (emails.length === 0) return null;
  const file = (email: EmailRow): void => repair.mutate({ emails: [email.id], file: [{ kind, id }] });
  return (
    <section className="mb-3 border-l-2 border-line pl-2" aria-label={words.yourMailNotHere}>
      <h2>{words.yourMailNotHere}</h2>
      <p className="text-sm text-muted">{words.onlyYou}</p>
      <ul>
        {emails.map((email) => (
          <Line key={email.id} email={email} isBusy={repair.isPending} onFile={() => file(email)} />
        ))}
      </ul>
    </section>
  );
}

function Line({ email, isBusy, onFile }: { email: EmailRow; isBusy: boolean; onFile: () => void }) {
  const decision = useDecisionPanel();
  const subject = email.content?.subject || common.noSubject;
  return (
    <li className="py-1">
      <button
        type="button"
        className="block w-full min-w-0 text-left hover:bg-sunk"
        onClick={() => decision.open(email.id)}
        onKeyDown={(event) => {
          if (event.key.toLowerCase() !== 'f' || event.ctrlKey || event.metaKey || event.altKey || isBusy) return;
          event.preventDefault();
          onFile();
        }}
      >
        <span className="flex gap-2">
          <span className="min-w-0 grow truncate">{subject}</span>
          <Moment at={email.at} className="tabular text-sm whitespace-nowrap text-muted" />
        </span>
        {email.content && (
          <span className="block truncate text-sm text-muted">
            {email.content.from ? nameOf(email.content.from) : ''}: {email.content.preview}
          </span>
        )}
      </button>
      <button
        type="button"
        className="text-sm text-spruce hover:underline disabled:opacity-50"
        aria-label={words.fileIt(subject)}
        disabled={isBusy}
        onClick={onFile}
      >
        {words.fileHere} <kbd className="font-mono text-xs text-muted">F</kbd>
      </button>
    </li>
  );
}
