import type { EmailDetail } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { ChevronRight } from 'lucide-react';
import { useState } from 'react';
import { Button, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import type { PickedRecord } from '../parts/RecordPicker';
import { RecordPicker } from '../parts/RecordPicker';
import { filled } from '../parts/filled';
import { explained as words } from './words';

/** What the decision leaves open: why not another record, what nearly happened, what would have to change. Worked out when asked. */
export function Explained({ email }: { email: EmailDetail }) {
  const [open, setOpen] = useState(false);
  const [about, setAbout] = useState<PickedRecord | null>(null);
  return (
    <section aria-label={words.explainedFurther} className="mt-1 border-t border-line pt-2 text-sm">
      <div className="flex flex-wrap gap-2">
        <RecordPicker label={words.whyIsItNot} onPick={setAbout}>
          <Button>{words.whyNotUnder}</Button>
        </RecordPicker>
        {email.content && (
          <Button aria-expanded={open} onClick={() => setOpen(!open)}>
            <ChevronRight aria-hidden size={15} className={clsx('transition-transform', open && 'rotate-90')} />
            {words.whatWouldChangeIt}
          </Button>
        )}
      </div>
      {about && <WhyNot key={`${about.kind}${about.id}`} emailId={email.id} record={about} />}
      {open && <Otherwise emailId={email.id} />}
    </section>
  );
}

function WhyNot({ emailId, record }: { emailId: number; record: PickedRecord }) {
  const { data, error, isPending } = useQuery(asked('whyNot', { id: emailId, kind: record.kind, record: record.id }));
  return (
    <div aria-live="polite" className="mt-2 rounded border border-line bg-sunk px-3 py-2">
      <h4 className="font-medium">
        {data?.filed ? words.itIsFiledUnder : words.whyNotUnderLabel} {record.name}
        {data?.filed ? '.' : '?'}
      </h4>
      {isPending && <p className="text-muted">{words.workingItOut}</p>}
      <Trouble error={error} />
      <ul>
        {data?.reasons.map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
      </ul>
      {data && !data.filed && data.changes.length > 0 && (
        <>
          <p className="mt-2 font-medium">{words.itWouldBeIf}</p>
          <ul className="list-disc pl-5">
            {data.changes.map((change) => (
              <li key={change}>{change}</li>
            ))}
          </ul>
        </>
      )}
      {data && !data.filed && data.changes.length === 0 && <p className="mt-1 text-muted">{words.noSingleChangeOf}</p>}
    </div>
  );
}

function Otherwise({ emailId }: { emailId: number }) {
  const { data, error, isPending } = useQuery(asked('explainEmail', { id: emailId }));
  if (isPending) return <p className="mt-2 text-muted">{words.workingItOut}</p>;
  if (error) return <Trouble error={error} />;
  return (
    <div className="mt-2 rounded border border-line bg-sunk px-3 py-2">
      <h4 className="font-medium">{words.whatYouCouldChange}</h4>
      {data.changes.length === 0 && <p className="text-muted">{words.removingAnySingleRule}</p>}
      <ul>
        {data.changes.map(({ change, then }) => (
          <li key={change} className="mt-1">
            {filled(words.if, { change, then: <span className="text-muted">{then}</span> })}
          </li>
        ))}
      </ul>
      <h4 className="mt-2 font-medium">{words.rulesThatAlmostApplied}</h4>
      {data.nearly.length === 0 && <p className="text-muted">{words.noRuleMissedIt}</p>}
      <ul>
        {data.nearly.map((item) => (
          <li key={item.step + item.rule} className="mt-1">
            {item.step}: {item.text}
          </li>
        ))}
      </ul>
    </div>
  );
}
