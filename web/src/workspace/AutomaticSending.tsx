import type { AutomaticSending as Settings, Workspace } from '@fulvet/contract';
import { useState } from 'react';
import { call } from '../api/call';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { useSharing } from '../sharing/useSharing';
import { holidayLines, readHolidays } from './holidays';
import { automaticSending as words } from './words';

/** What holds for emails that are sent by themselves: one switch for all, how many a day, and on which days no one works. */
export function AutomaticSending({ workspace: { automatic } }: { workspace: Workspace }) {
  const save = useSharing(
    (settings: Settings) => call('putWorkspace', { body: { automatic: settings } }),
    ({ isHeld }) => (isHeld ? words.heldNow : words.saved),
  );
  const [perDay, setPerDay] = useState(String(automatic.perDay));
  const [pause, setPause] = useState(String(automatic.pauseSeconds));
  const [holidays, setHolidays] = useState(holidayLines(automatic.holidays));
  const read = readHolidays(holidays);
  const isSeconds = /^\d{1,4}$/.test(pause.trim()) && Number(pause) <= 3600;
  const isNumber = /^[1-9]\d{0,3}$/.test(perDay.trim());
  return (
    <section aria-label={words.title}>
      <h2 className="text-lg">{words.title}</h2>
      <p className="mb-2 text-sm text-muted">{words.what}</p>
      <p className="mb-3">
        {automatic.isHeld ? <strong className="font-semibold text-ochre">{words.isHeld}</strong> : words.goesOn}{' '}
        <Button disabled={save.isPending} onClick={() => save.mutate({ ...automatic, isHeld: !automatic.isHeld })}>
          {automatic.isHeld ? words.goOn : words.hold}
        </Button>
      </p>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (isNumber && isSeconds && read.wrong === null)
            save.mutate({ ...automatic, perDay: Number(perDay), pauseSeconds: Number(pause), holidays: read.holidays });
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label={words.perDay} error={isNumber ? undefined : words.notANumber} hint={words.perDayHint}>
            <TextInput inputMode="numeric" className="w-24!" value={perDay} onChange={(event) => setPerDay(event.target.value)} />
          </Field>
          <Field label={words.pause} error={isSeconds ? undefined : words.notSeconds} hint={words.pauseHint}>
            <TextInput inputMode="numeric" className="w-24!" value={pause} onChange={(event) => setPause(event.target.value)} />
          </Field>
        </div>
        <Field label={words.holidays} error={read.wrong === null ? undefined : words.wrongLine(read.wrong)} hint={words.holidaysHint}>
          <textarea
            rows={5}
            className="tabular w-full rounded border border-line bg-raised px-2 py-1"
            value={holidays}
            onChange={(event) => setHolidays(event.target.value)}
          />
        </Field>
        <Trouble error={save.error} />
        <Button type="submit" disabled={save.isPending || !isNumber || !isSeconds || read.wrong !== null}>
          {words.save}
        </Button>
      </form>
    </section>
  );
}
