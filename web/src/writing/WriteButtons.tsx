import type { RecordKind } from '@fulvet/contract';
import { PenLine, Reply } from 'lucide-react';
import { Button } from '../parts/basics';
import { useWrite } from './useWrite';
import { writeButtons as words } from './words';

const KINDS = [
  { kind: 'answer', label: words.answer },
  { kind: 'answer all', label: words.answerAll },
  { kind: 'forward', label: words.forward },
] as const;

/** Answers an email, or forwards it. */
export function AnswerButtons({ emailId }: { emailId: number }) {
  const { write, pending } = useWrite();
  return (
    <div className="mt-2 flex flex-wrap gap-1.5">
      {KINDS.map(({ kind, label }) => (
        <Button key={kind} disabled={pending} onClick={() => write({ kind, emailId })}>
          {label}
        </Button>
      ))}
    </div>
  );
}

/** Begins an email from a record, to its address where it has one. */
export function WriteButton({
  record,
  to,
}: {
  record: { kind: RecordKind; id: number } | null;
  to: readonly { name: string; address: string }[];
}) {
  const { write, pending } = useWrite();
  return (
    <Button disabled={pending} onClick={() => write({ record, to: [...to] })}>
      <PenLine size={14} /> {words.writeEmail}
    </Button>
  );
}

/** Answers an email of a record's history: the answer is filed under that record. */
export function AnswerFromHistory({ emailId, record }: { emailId: number; record: { kind: RecordKind; id: number } | null }) {
  const { write, pending } = useWrite();
  return (
    <Button
      kind="quiet"
      className="min-h-6! px-1!"
      aria-label={words.answerThisEmail}
      title={words.answer}
      disabled={pending}
      onClick={() => write({ kind: 'answer', emailId, record })}
    >
      <Reply size={15} />
    </Button>
  );
}
