import type { RecordDetail } from '@fulvet/contract';
import { Link, Navigate, useParams } from 'react-router';
import { useRecord } from '../api/queries';
import { useDocket } from '../frame/useDocket';
import { Trouble, Waiting } from '../parts/basics';
import { CopyText } from '../parts/CopyText';
import { Moment } from '../parts/Moment';
import { counted } from '../parts/numbers';
import { KIND_LABELS, recordPath } from '../parts/people';
import { History } from './History';
import { isKind } from './RecordsPage';

/** A record: its conversation history first, its facts in a slim margin. */
export default function RecordPage() {
  const params = useParams();
  const id = Number(params.id);
  if (!isKind(params.kind) || !Number.isInteger(id)) return <Navigate to="/histories" replace />;
  return <Loaded key={`${params.kind}${id}`} kind={params.kind} id={id} />;
}

function Loaded({ kind, id }: { kind: RecordDetail['kind']; id: number }) {
  const record = useRecord(kind, id);
  if (record.isPending) return <Waiting what="Opening" />;
  if (record.isError) {
    return (
      <div className="p-6">
        <Trouble error={record.error} />
      </div>
    );
  }
  const { data } = record;
  return (
    <div className="px-4 pt-4 pb-16 sm:px-6">
      <nav className="mb-1 text-sm text-muted" aria-label="Where this is">
        <Link to={`/histories/${kind}`} className="hover:underline">
          {KIND_LABELS[kind].many}
        </Link>
      </nav>
      <h1 className="mb-4 text-xl leading-tight">{data.name}</h1>
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_17rem]">
        <History kind={kind} id={id} emails={data.emails} conversations={data.conversations} />
        <Margin record={data} />
      </div>
    </div>
  );
}

function Margin({ record }: { record: RecordDetail }) {
  const docket = useDocket();
  return (
    <aside aria-label="Facts" className="text-sm lg:sticky lg:top-4 lg:self-start">
      <dl className="grid grid-cols-[4.5rem_1fr] gap-x-2 gap-y-1 border-t border-line pt-2">
        {record.facts.map((fact, at) => (
          <div key={`${fact.label}${fact.value}`} className="contents">
            <dt className="text-muted">{record.facts[at - 1]?.label === fact.label ? '' : fact.label}</dt>
            <dd className={fact.mono ? 'font-mono text-[0.92em] break-all' : 'break-words'}>
              {fact.link ? (
                <Link className="text-spruce hover:underline" to={recordPath(fact.link.kind, fact.link.id)}>
                  {fact.value}
                </Link>
              ) : (
                fact.value
              )}
            </dd>
          </div>
        ))}
      </dl>
      {record.filingAddress && (
        <div className="mt-3 border-t border-line pt-2">
          <h2 className="text-muted">Filing address</h2>
          <CopyText text={record.filingAddress} label="Copy the filing address" />
          <p className="mt-1 text-muted">What a teammate sends there in Bcc, or forwards, is filed here.</p>
        </div>
      )}
      {record.origin && (
        <p className="mt-3 border-t border-line pt-2 text-muted">
          Created by Fulvet from{' '}
          <button type="button" className="text-spruce hover:underline" onClick={() => record.origin && docket.open(record.origin.emailId)}>
            an email{record.origin.at && <> of {<Moment at={record.origin.at} />}</>}
          </button>
          .
        </p>
      )}
      {record.related.map((group) => (
        <section key={group.label} className="mt-4 border-t border-line pt-2" aria-label={group.label}>
          <h2 className="mb-1">
            {counted(
              group.records.length,
              group.label
                .toLowerCase()
                .replace(/ies$/, 'y')
                .replace(/^people$/, 'person')
                .replace(/s$/, ''),
              group.label.toLowerCase(),
            )}
          </h2>
          <ul>
            {group.records.slice(0, 30).map((one) => (
              <li key={one.id}>
                <Link to={recordPath(one.kind, one.id)} className="block rounded py-0.5 hover:bg-sunk">
                  <span className="text-spruce">{one.name}</span> <span className="break-words text-muted">{one.detail}</span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </aside>
  );
}
