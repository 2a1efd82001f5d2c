import type { Outgoing } from '@fulvet/contract';
import { Paperclip } from 'lucide-react';
import { useRef } from 'react';
import { bytes } from '../parts/numbers';
import { RecordChips } from '../parts/RecordChips';
import { Option, Select } from '../parts/Select';
import { TakeOffButton } from '../parts/TakeOffButton';
import { useOutgoingPreview } from './queries';
import type { Draft } from './useDraft';
import { filing as words } from './words';

const REMIND_DAYS = [1, 3, 7, 14, 28];

/** How the email will be filed and what may be overlooked, before it is sent; and its files. */
export function FilingMargin({ draft }: { draft: Draft }) {
  const { content, stored } = draft;
  const preview = useOutgoingPreview(stored.id, stored.revision).data;
  const { how, records } = content.filing;
  const choose = (next: Partial<Outgoing['filing']>): void => draft.change({ filing: { ...content.filing, ...next } });
  return (
    <div className="mt-3 space-y-3 overflow-y-auto text-sm lg:mt-0">
      <section aria-label={words.howItWillBeFiled}>
        <h3 className="mb-1">{words.howItWillBeFiled}</h3>
        <Select aria-label={words.howItWillBeFiled} value={how} onValue={(value) => choose({ how: value as Outgoing['filing']['how'] })}>
          <Option value="rules">{words.asTheRulesSay}</Option>
          <Option value="records">{words.underChosenRecords}</Option>
          <Option value="none">{words.doNotFile}</Option>
        </Select>
        {how === 'records' && (
          <div className="mt-1.5">
            <RecordChips chosen={records} onChange={(next) => choose({ records: next })} />
          </div>
        )}
        {preview && (
          <p className="mt-1.5 text-muted" role="status">
            {preview.sentence}
          </p>
        )}
      </section>
      {preview && preview.warnings.length > 0 && (
        <section aria-label={words.beforeYouSend}>
          <h3 className="mb-1">{words.beforeYouSend}</h3>
          <ul className="space-y-1">
            {preview.warnings.map(({ code, text }) => (
              <li key={code + text} className="border-l-2 border-ochre pl-2 wrap-anywhere">
                {text}
              </li>
            ))}
          </ul>
        </section>
      )}
      <section aria-label={words.reminder}>
        <h3 className="mb-1">{words.reminder}</h3>
        <Select
          aria-label={words.reminder}
          value={content.remindDays ?? ''}
          onValue={(value) => draft.change({ remindDays: value === '' ? null : Number(value) })}
        >
          <Option value="">{words.noReminder}</Option>
          {REMIND_DAYS.map((days) => (
            <Option key={days} value={days}>
              {words.afterDays(days)}
            </Option>
          ))}
        </Select>
      </section>
      {preview?.measuring && (
        <section aria-label={words.openings}>
          <h3 className="mb-1">{words.openings}</h3>
          <label className="flex min-h-7 items-center gap-1.5">
            <input
              type="checkbox"
              checked={content.measured && preview.measuring.why === ''}
              disabled={preview.measuring.why !== ''}
              onChange={(event) => draft.change({ measured: event.target.checked })}
            />
            {words.countOpenings}
          </label>
          <p className="text-muted">{preview.measuring.why || (content.measured && words.recipientIsTold)}</p>
        </section>
      )}
      <Files draft={draft} />
    </div>
  );
}

function Files({ draft }: { draft: Draft }) {
  const { stored, attaching } = draft;
  const input = useRef<HTMLInputElement>(null);
  return (
    <section aria-label={words.files}>
      <h3 className="mb-1">{words.files}</h3>
      <ul>
        {stored.files
          .filter(({ inline }) => !inline)
          .map((file) => (
            <li key={file.id} className="flex items-center gap-1">
              <span className="min-w-0 grow truncate">
                {file.name} <span className="text-muted">{bytes(file.size)}</span>
              </span>
              <TakeOffButton label={words.removeFile(file.name)} onClick={() => draft.removeFile(file.id)} />
            </li>
          ))}
      </ul>
      {attaching !== null && <p className="text-muted">{words.attaching(attaching)}</p>}
      <button type="button" className="flex min-h-7 items-center gap-1 text-spruce hover:underline" onClick={() => input.current?.click()}>
        <Paperclip size={13} /> {words.attachFiles}
      </button>
      <span className="text-muted">{words.dropFilesHere}</span>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label={words.attachFiles}
        onChange={(event) => {
          draft.attach([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
    </section>
  );
}
