import type { Workspace, WorkspaceChange } from '@fulvet/contract';
import { useState } from 'react';
import { call } from '../api/call';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { filled } from '../parts/filled';
import { Moment } from '../parts/Moment';
import { useSharing } from '../sharing/useSharing';
import { measuring as words } from './words';

const linesOf = (text: string): string[] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');

/** Whether openings of emails are counted at all: what recipients are told, who decided it, and whose are never counted. */
export function Measuring({ workspace: { measuring } }: { workspace: Workspace }) {
  const save = useSharing(
    (change: NonNullable<WorkspaceChange['measuring']>) => call('putWorkspace', { body: { measuring: change } }),
    ({ isOn }) => (isOn ? words.savedOn : words.savedOff),
  );
  const [notice, setNotice] = useState(measuring.notice);
  const [keepDays, setKeepDays] = useState(String(measuring.keepDays));
  const [never, setNever] = useState(measuring.never.join('\n'));
  const [ownRanges, setOwnRanges] = useState(measuring.ownRanges.join('\n'));
  const isNumber = /^[1-9]\d{0,2}$/.test(keepDays.trim()) && Number(keepDays) <= 730;
  const isMissing = notice.trim() === '';
  const put = (isOn: boolean): void => {
    if (!isNumber || (isOn && isMissing)) return;
    save.mutate({ isOn, notice, keepDays: Number(keepDays), never: linesOf(never), ownRanges: linesOf(ownRanges) });
  };
  return (
    <section aria-label={words.title}>
      <h2 className="text-lg">{words.title}</h2>
      <p className="mb-2 text-sm text-muted">{words.what}</p>
      <p className="mb-3">
        {measuring.isOn ? words.isOn : words.isOff}{' '}
        {measuring.isOn && measuring.decided && (
          <span className="text-muted">
            {filled(words.decidedBy, { name: measuring.decided.name, when: <Moment key="when" at={measuring.decided.at} /> })}
          </span>
        )}
      </p>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          put(measuring.isOn);
        }}
      >
        <Field label={words.notice} error={measuring.isOn && isMissing ? words.noticeIsMissing : undefined} hint={words.noticeHint}>
          <textarea
            rows={3}
            maxLength={2000}
            className="w-full rounded border border-line bg-raised px-2 py-1"
            value={notice}
            onChange={(event) => setNotice(event.target.value)}
          />
        </Field>
        <Field label={words.keepDays} error={isNumber ? undefined : words.notDays} hint={words.keepDaysHint}>
          <TextInput inputMode="numeric" className="w-24!" value={keepDays} onChange={(event) => setKeepDays(event.target.value)} />
        </Field>
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label={words.never} hint={words.neverHint}>
            <Lines value={never} onValue={setNever} />
          </Field>
          <Field label={words.ownRanges} hint={words.ownRangesHint}>
            <Lines value={ownRanges} onValue={setOwnRanges} />
          </Field>
        </div>
        <Trouble error={save.error} />
        <div className="flex flex-wrap gap-2">
          <Button type="submit" disabled={save.isPending || !isNumber || (measuring.isOn && isMissing)}>
            {words.save}
          </Button>
          <Button disabled={save.isPending || (!measuring.isOn && (isMissing || !isNumber))} onClick={() => put(!measuring.isOn)}>
            {measuring.isOn ? words.switchOff : words.switchOn}
          </Button>
        </div>
      </form>
    </section>
  );
}

const Lines = ({ value, onValue, ...rest }: { value: string; onValue: (value: string) => void }) => (
  <textarea
    {...rest}
    rows={4}
    className="tabular w-full rounded border border-line bg-raised px-2 py-1"
    value={value}
    onChange={(event) => onValue(event.target.value)}
  />
);
