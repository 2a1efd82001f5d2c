import type { RecordKind, RecordsPreview } from '@fulvet/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { askedFor } from '../api/asked';
import { useMemo, useRef, useState } from 'react';
import { Link, Navigate, useParams, useSearchParams } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Page, Trouble, Waiting } from '../parts/basics';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { count, counted } from '../parts/numbers';
import { isKind } from '../parts/people';
import { Option, Select } from '../parts/Select';
import { filled } from '../parts/filled';
import { DataTable } from '../parts/table/DataTable';
import type { Column } from '../parts/table/useColumns';
import { recordsImportPage as texts } from './words';
import { useKind } from './own/useKind';

/** Import of records: choose a file, look at what it would do, map columns, then confirm. */
export default function RecordsImportPage() {
  const { kind } = useParams();
  const [search] = useSearchParams();
  if (!isKind(kind)) return <Navigate to="/records" replace />;
  return <Import key={kind} kind={kind} of={search.get('of') ?? undefined} />;
}

function Import({ kind, of }: { kind: RecordKind; of: string | undefined }) {
  const [file, setFile] = useState<{ name: string; text: string } | null>(null);
  const [mapping, setMapping] = useState<Record<string, string>>({});
  const [done, setDone] = useState<RecordsPreview | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  const format = file && /^\ufeff?\s*BEGIN:VCARD/i.test(file.text) ? ('vcard' as const) : ('csv' as const);
  const request = { format, text: file?.text ?? '', mapping, ...(of === undefined ? {} : { of }) };
  const listed = useKind(kind, of);
  const preview = useQuery({
    ...askedFor([file?.name, file?.text.length, mapping], 'previewRecords', { kind, body: request }),
    enabled: file !== null && done === null,
    placeholderData: (before) => before,
  });
  const confirm = useMutation({
    mutationFn: () => call('importRecords', { kind, body: request }),
    onSuccess: async (result) => {
      setDone(result);
      await refresh();
      notice(texts.createdUpdatedTheirPast(result.counts.create, result.counts.update), undo(result.undo));
    },
  });
  const take = async (chosen: File | undefined): Promise<void> => {
    if (!chosen) return;
    setDone(null);
    setMapping({});
    setFile({ name: chosen.name, text: await textOf(chosen) });
  };
  const shown = done ?? preview.data;
  const many = listed.many.toLowerCase();
  const willDo = (shown?.counts.create ?? 0) + (shown?.counts.update ?? 0);
  return (
    <Page title={texts.import(many)} purpose={texts.recordsFromACsv} wide>
      <div
        className="mb-4 flex max-w-3xl flex-wrap items-center gap-3 rounded-md border-2 border-dashed border-line px-4 py-4"
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => {
          event.preventDefault();
          void take(event.dataTransfer.files[0]);
        }}
      >
        <span className="grow">{file ? <strong>{file.name}</strong> : texts.dropACsvFile(kind === 'contact')}</span>
        <input
          ref={picker}
          type="file"
          accept=".csv,.txt,.tsv,.vcf,text/csv,text/vcard"
          className="sr-only"
          aria-label={texts.fileOfRecords}
          tabIndex={-1}
          onChange={(event) => void take(event.target.files?.[0])}
        />
        <Button onClick={() => picker.current?.click()}>{file ? texts.chooseAnother : texts.chooseAFile}</Button>
      </div>
      <Trouble error={preview.error ?? confirm.error} />
      {file && !shown && preview.isFetching && <Waiting what={texts.readingTheFile} />}
      {shown && (
        <div className="space-y-6">
          <p className="tabular text-lg" role="status">
            {filled(texts.createdUpdatedTheSame, {
              done: done ? texts.done : texts.wouldDo,
              create: counted(shown.counts.create, 'record'),
              update: count(shown.counts.update),
              same: count(shown.counts.same),
              bad: <span className={shown.counts.bad > 0 ? 'text-brick' : ''}>{texts.lineNotTaken(shown.counts.bad)}</span>,
            })}
          </p>
          {done ? (
            <Link to={listed.path} className="text-spruce hover:underline">
              {texts.toThe(many)}
            </Link>
          ) : (
            <Button kind="main" disabled={willDo === 0 || confirm.isPending} onClick={() => confirm.mutate()}>
              {confirm.isPending ? texts.importing : texts.importForMany(willDo, many)}
            </Button>
          )}
          {!done && <Columns preview={shown} mapping={mapping} onMap={setMapping} />}
          <BadLines preview={shown} />
          <Sample kind={kind} preview={shown} />
        </div>
      )}
    </Page>
  );
}

function Columns({
  preview,
  mapping,
  onMap,
}: {
  preview: RecordsPreview;
  mapping: Record<string, string>;
  onMap: (mapping: Record<string, string>) => void;
}) {
  return (
    <section aria-label={texts.columns}>
      <h2 className="mb-1 text-lg">{texts.columns}</h2>
      <ul className="flex max-w-4xl flex-wrap gap-x-6 gap-y-1.5">
        {preview.columns.map((column) => (
          <li key={column.header}>
            <label className="flex items-center gap-2">
              <span className="font-mono text-sm">{column.header || texts.noHeader}</span> →
              <Select
                fit="words"
                aria-label={texts.fieldFor(column.header || texts.theColumnWithoutA)}
                value={column.field ?? ''}
                onValue={(value) => onMap({ ...mapping, [column.header]: value })}
              >
                <Option value="">{texts.leaveOut}</Option>
                {preview.fields.map((field) => (
                  <Option key={field.name} value={field.name}>
                    {field.name.replace('_', ' ')}
                  </Option>
                ))}
              </Select>
            </label>
          </li>
        ))}
      </ul>
    </section>
  );
}

function BadLines({ preview }: { preview: RecordsPreview }) {
  return (
    <>
      <Lines
        title={texts.notTaken}
        label={texts.linesThatAreSkipped}
        lines={preview.bad}
        more={preview.counts.bad - preview.bad.length}
        wrong
      />
      <Lines title={texts.worthKnowing} label={texts.linesWithARemark} lines={preview.warnings} />
    </>
  );
}

function Lines({
  title,
  label,
  lines,
  more = 0,
  wrong = false,
}: {
  title: string;
  label: string;
  lines: RecordsPreview['bad'];
  more?: number;
  wrong?: boolean;
}) {
  if (lines.length === 0) return null;
  return (
    <section aria-label={label}>
      <h2 className="mb-1 text-lg">{title}</h2>
      <ul className="max-w-4xl divide-y divide-line border-y border-line">
        {lines.map((line) => (
          <li key={`${line.line}${line.reason}`} className="flex gap-3 px-1 py-1">
            <span className="tabular w-16 shrink-0 text-muted">{texts.line(line.line)}</span>
            <span className={wrong ? 'text-brick' : ''}>{line.reason}</span>
          </li>
        ))}
      </ul>
      {more > 0 && <p className="mt-1 text-muted">{texts.andMore(more)}</p>}
    </section>
  );
}

const ACTIONS = { create: texts.created, update: texts.updated, same: texts.stays } as const;

function Sample({ kind, preview }: { kind: RecordKind; preview: RecordsPreview }) {
  const columns = useMemo((): readonly Column<RecordsPreview['sample'][number]>[] => {
    const fields = preview.fields.filter((field) => preview.columns.some((column) => column.field === field.name));
    return [
      {
        key: 'line',
        label: texts.lineHead,
        width: '4.5rem',
        isFixed: true,
        cell: ({ line }) => <span className="text-muted">{line}</span>,
      },
      { key: 'action', label: texts.whatHappens, width: '8rem', cell: ({ action }) => ACTIONS[action] },
      ...fields.map(({ name }) => ({
        key: `field ${name}`,
        label: name.replace('_', ' '),
        width: 'minmax(7rem,1fr)',
        cell: ({ values }: RecordsPreview['sample'][number]) => <span className="block truncate">{values[name]}</span>,
      })),
    ];
  }, [preview]);
  if (preview.sample.length === 0) return null;
  return (
    <section aria-label={texts.theFirstLines}>
      <DataTable
        name={`import.${kind}`}
        label={texts.theFirstLines}
        heading={<h2 className="text-lg">{texts.theFirstLinesAs}</h2>}
        columns={columns}
        rows={preview.sample}
        rowKey={({ line }) => String(line)}
        least={`${columns.length * 8}rem`}
      />
    </section>
  );
}

/** UTF-8, or Windows-1252 where it is none. */
async function textOf(file: File): Promise<string> {
  const content = await file.arrayBuffer();
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(content);
  } catch {
    return new TextDecoder('windows-1252').decode(content);
  }
}
