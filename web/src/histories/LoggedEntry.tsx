import type { Activity, RecordKind } from '@fulvet/contract';
import { NotebookPen } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button } from '../parts/basics';
import { filled } from '../parts/filled';
import { exactMoment, Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { recordPath } from '../parts/people';
import { activityDirections, activityKinds, logged as words } from './words';

const LogActivity = lazy(() => import('./LogActivity'));

/** Opens what is needed to log contact with a record. */
export function LogButton({ record }: { record: { kind: RecordKind; id: number; name: string } }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>
        <NotebookPen size={14} /> {words.logContact}
      </Button>
      {open && (
        <Suspense>
          <LogActivity records={[record]} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  );
}

/** Contact that is not mail, as a member wrote it down. */
export function LoggedEntry({ entry }: { entry: Activity }) {
  const [changing, setChanging] = useState(false);
  const refresh = useRefreshAll();
  const notice = useNotice();
  const put = async (removed: boolean): Promise<void> => {
    await call('removeActivity', { id: entry.id, body: { removed } });
    await refresh();
  };
  const remove = async (): Promise<void> => {
    await put(true);
    notice(words.removed, { label: words.undo, run: () => put(false) });
  };
  return (
    <article aria-label={activityKinds[entry.kind]} className="rounded-md border border-dashed border-line bg-raised px-3 py-2">
      <div className="flex items-baseline gap-3">
        <span className="min-w-0 grow">
          <span className="font-head text-[15px] font-semibold">{activityKinds[entry.kind]}</span>
          {entry.direction && <span className="ml-2 text-sm text-muted">{activityDirections[entry.direction]}</span>}
        </span>
        <span className="tabular text-sm whitespace-nowrap text-muted">
          <Moment at={entry.at} />
        </span>
      </div>
      <p className="mt-0.5 break-words whitespace-pre-wrap">{entry.text}</p>
      <p className="mt-1 flex flex-wrap items-center gap-x-3 text-sm text-muted">
        {entry.records.map(({ kind, id, name }) => (
          <Link key={`${kind}${id}`} to={recordPath(kind, id)} className="text-spruce hover:underline">
            {name}
          </Link>
        ))}
        <span>{filled(words.loggedBy, { name: entry.writer, when: <Moment key="when" at={entry.writtenAt} /> })}</span>
        {entry.isPrivate && <span>{words.onlyYou}</span>}
        {entry.isMine && (
          <span className="ml-auto flex">
            <Button kind="quiet" onClick={() => setChanging(true)}>
              {words.change}
            </Button>
            <Button kind="quiet" onClick={() => void remove()}>
              {words.removeEntry}
            </Button>
          </span>
        )}
      </p>
      {entry.changes.length > 0 && (
        <details className="text-sm text-muted">
          <summary className="min-h-7 cursor-pointer">{words.changedTimes(entry.changes.length)}</summary>
          <ol className="space-y-1">
            {entry.changes.map(({ at, before }) => (
              <li key={at} className="border-l-2 border-line pl-2">
                {words.before} {exactMoment(at)}: {activityKinds[before.kind]}, {exactMoment(before.at)}
                <span className="block break-words whitespace-pre-wrap">{before.text}</span>
              </li>
            ))}
          </ol>
        </details>
      )}
      {changing && (
        <Suspense>
          <LogActivity entry={entry} records={entry.records} onClose={() => setChanging(false)} />
        </Suspense>
      )}
    </article>
  );
}
