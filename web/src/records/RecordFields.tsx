import type { RecordDetail, RecordFieldValue } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answerKey } from '../api/asked';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { call } from '../api/call';
import { useRecordSetup, useRefreshAll, useTeam } from '../api/queries';
import { TextInput, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { recordPath } from '../parts/people';
import { RecordPicker } from '../parts/RecordPicker';
import { Option, Select } from '../parts/Select';
import { common } from '../parts/words';
import { useCreating } from './useCreating';
import { recordFields as texts } from './words';

/** Saves fields of a record; the notice takes it back. */
export function useEditRecord({ kind, id }: Pick<RecordDetail, 'kind' | 'id'>) {
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  return useMutation({
    mutationFn: (values: Record<string, string>) => call('editRecord', { kind, id, body: { values } }),
    onSuccess: async (record) => {
      client.setQueryData(answerKey('getRecord', { kind, id }), record);
      await refresh();
      notice(texts.saved, undo(record.undo));
    },
  });
}

/** The fields of a record, each edited in place: click or Enter to change it, Enter to save, Esc to leave it. */
export function RecordFields({ record, editable }: { record: RecordDetail; editable: boolean }) {
  const edit = useEditRecord(record);
  const [open, setOpen] = useState<string | null>(null);
  const save = (field: RecordFieldValue, value: string): void => {
    setOpen(null);
    if (value !== field.value) edit.mutate({ [field.key]: value });
  };
  return (
    <>
      <dl className="grid grid-cols-[5rem_1fr] gap-x-2 gap-y-0.5 border-t border-line pt-2">
        {record.fields.map((field) => (
          <div key={field.key} className="contents">
            <dt className="py-0.5 break-words text-muted">{field.label}</dt>
            <dd className="min-w-0">
              {open === field.key ? (
                <Editor field={field} onSave={(value) => save(field, value)} onLeave={() => setOpen(null)} />
              ) : (
                <Shown
                  field={field}
                  editable={editable && !(record.kind === 'own' && field.key === 'code')}
                  onEdit={() => setOpen(field.key)}
                />
              )}
            </dd>
          </div>
        ))}
      </dl>
      <Trouble error={edit.error} />
    </>
  );
}

function Shown({ field, editable, onEdit }: { field: RecordFieldValue; editable: boolean; onEdit: () => void }) {
  const words = clsx('min-w-0', field.mono ? 'font-mono text-[0.92em] wrap-anywhere' : 'break-words');
  const value =
    field.input === 'list' ? (
      field.value
        .split(';')
        .filter(Boolean)
        .map((part) => (
          <span key={part} className="block">
            {part}
          </span>
        ))
    ) : field.link ? (
      <Link className="text-spruce hover:underline" to={recordPath(field.link.kind, field.link.id)}>
        {field.shown}
      </Link>
    ) : (
      field.shown
    );
  if (!editable) return <span className={words}>{value}</span>;
  return (
    <span className="group flex items-start gap-1">
      {field.link ? <span className={clsx('px-1', words)}>{value}</span> : null}
      <button
        type="button"
        aria-label={texts.change(field.label, field.shown ? `: ${field.shown}` : '')}
        className={clsx('min-h-5 grow rounded px-1 text-left hover:bg-sunk', words, !field.value && 'text-muted')}
        onClick={onEdit}
      >
        {field.link ? (
          <span className="text-xs text-muted opacity-0 group-hover:opacity-100">{texts.changeSmall}</span>
        ) : field.value ? (
          value
        ) : (
          '–'
        )}
      </button>
    </span>
  );
}

function Editor({ field, onSave, onLeave }: { field: RecordFieldValue; onSave: (value: string) => void; onLeave: () => void }) {
  const team = useTeam();
  const setup = useRecordSetup();
  const left = useRef(false);
  const creating = useCreating('account', async ({ name }) => onSave(name));
  const choose = (options: readonly { value: string; label: string }[]) => (
    <Select autoFocus aria-label={field.label} value={field.value} openAtOnce onValue={onSave} onLeave={onLeave}>
      {options.map((item) => (
        <Option key={item.value} value={item.value}>
          {item.label}
        </Option>
      ))}
    </Select>
  );
  const plain = (values: readonly string[]) => choose([{ value: '', label: '–' }, ...values.map((value) => ({ value, label: value }))]);
  switch (field.input) {
    case 'choice':
      return plain(field.choices);
    case 'yesNo':
      return field.key === 'open'
        ? choose([
            { value: 'yes', label: texts.yes },
            { value: 'no', label: texts.no },
          ])
        : plain(['yes', 'no']);
    case 'stage':
      return plain([...new Set([...(setup.data?.stages ?? []).map((stage) => stage.name), field.value].filter(Boolean))]);
    case 'state':
      return choose(field.choices.map((value) => ({ value, label: value })));
    case 'member':
      return choose([
        { value: '', label: common.noOne },
        ...(team.data?.members ?? []).map((member) => ({ value: member.email, label: member.name })),
      ]);
    case 'account':
      return (
        <span className="flex gap-2">
          <RecordPicker
            label={common.account}
            creating={creating}
            only="account"
            openAtOnce
            extra={[{ label: texts.noAccount, choose: () => onSave('') }]}
            onPick={(picked) => onSave(picked.name)}
            onClose={onLeave}
          >
            <button type="button" className="rounded border border-line bg-raised px-1.5">
              {field.shown || common.choose}
            </button>
          </RecordPicker>
        </span>
      );
    default:
      return (
        <TextInput
          autoFocus
          aria-label={field.label}
          type={field.input === 'date' ? 'date' : 'text'}
          inputMode={field.input === 'number' ? 'decimal' : undefined}
          title={field.input === 'list' ? texts.severalWithBetweenThem : undefined}
          defaultValue={field.value}
          onBlur={(event) => !left.current && onSave(event.target.value.trim())}
          onKeyDown={(event) => {
            if (event.key === 'Enter') onSave(event.currentTarget.value.trim());
            if (event.key !== 'Escape') return;
            left.current = true;
            onLeave();
          }}
        />
      );
  }
}
