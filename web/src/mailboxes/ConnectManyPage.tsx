import type { Answer } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { Check, Circle, LoaderCircle, X } from 'lucide-react';
import { useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { call } from '../api/call';
import { useMailbox } from './queries';
import { useRefreshAll } from '../api/queries';
import { Address, Button, Page, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Form } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { useAddressBar } from '../parts/useAddressBar';
import { common } from '../parts/words';
import { DataTable } from '../parts/table/DataTable';
import type { Column } from '../parts/table/useColumns';
import { filled } from '../parts/filled';
import { connectManyPage as words } from './words';

const SAMPLE = words.addressPasswordOwnerSales;

/** Many mailboxes at once from a CSV; each then runs its own checks, side by side. */
export default function ConnectManyPage() {
  const [params] = useSearchParams();
  const ids = (params.get('ids') ?? '').split(',').map(Number).filter(Boolean);
  return (
    <Page title={words.connectManyMailboxes} purpose={words.connectsAllMailboxesOf} wide>
      {ids.length > 0 ? <Progressing ids={ids} /> : <FromList />}
    </Page>
  );
}

function FromList() {
  const picker = useRef<HTMLInputElement>(null);
  const [, setBar] = useAddressBar();
  /** What the server found in the list, and in which: another list is looked through before it is connected. */
  const [found, setFound] = useState<{ of: string; rows: Answer<'connectMany'>['rows'] } | null>(null);
  const form = useSentForm({
    values: { text: '' },
    send: ({ text }) => call('connectMany', { body: { text, commit: found?.of === text && problemsIn(found.rows).length === 0 } }),
    onDone: ({ rows, done }, { text }) => {
      if (done) setBar({ ids: rows.map((row) => row.mailboxId).join(',') });
      else setFound({ of: text, rows });
    },
  });
  const text = form.fields.watch('text');
  const rows = found?.of === text ? found.rows : null;
  const problems = problemsIn(rows ?? []);
  const ready = rows && problems.length === 0 ? rows.length : 0;
  return (
    <div className="grid gap-x-10 gap-y-6 lg:grid-cols-2">
      <Form form={form} className="" label={words.mailboxesToConnect}>
        <p className="mb-2 max-w-prose">
          {filled(words.oneMailboxALine, {
            address: <code className="font-mono text-[0.92em]">address</code>,
            password: <code className="font-mono text-[0.92em]">password</code>,
            ownerKind: (
              <code className="font-mono text-[0.92em]">
                owner, kind, user, aliases, imap_host, imap_port, smtp_host, smtp_port, security
              </code>
            ),
          })}
        </p>
        <textarea
          aria-label={words.listOfMailboxesAs}
          className="h-56 w-full rounded border border-line bg-raised p-2 font-mono text-sm"
          spellCheck={false}
          placeholder={SAMPLE}
          {...form.fields.register('text')}
        />
        <div className="mt-2 flex flex-wrap gap-2">
          <input
            ref={picker}
            type="file"
            accept=".csv,.txt,text/csv"
            className="sr-only"
            tabIndex={-1}
            aria-label={words.csvFile}
            onChange={(event) => void event.target.files?.[0]?.text().then((read) => form.fields.setValue('text', read))}
          />
          <Button onClick={() => picker.current?.click()}>{words.chooseAFile}</Button>
          <Button kind="main" type="submit" disabled={text.trim() === '' || form.pending}>
            {form.pending ? common.looking : ready > 0 ? words.connectMailboxes(ready) : words.lookThroughTheList}
          </Button>
        </div>
        <Trouble error={form.error} />
      </Form>
      {rows && (
        <section aria-label={words.whatIsInThe}>
          <p className="mb-2 font-medium" role="status">
            {problems.length === 0 ? words.mailboxesAreReadyTo(ready) : words.linesNeedACorrection(problems.length)}
          </p>
          <ul className="divide-y divide-line border-y border-line">
            {rows.map((row) => (
              <li key={row.line} className="flex gap-3 px-1 py-1">
                <span className="tabular w-10 shrink-0 text-right text-muted">{row.line}</span>
                <span className="min-w-0">
                  <Address>{row.address || words.noAddress}</Address>
                  {row.problem && <span className="block text-brick">{row.problem}</span>}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

const problemsIn = (rows: Answer<'connectMany'>['rows']) => rows.filter((row) => row.problem !== null);

function Progressing({ ids }: { ids: readonly number[] }) {
  const refresh = useRefreshAll();
  const start = useMutation({
    mutationFn: async () => {
      let started = 0;
      for (const id of ids) {
        const mailbox = await call('getMailbox', { id });
        if (!mailbox.checked || mailbox.state !== 'connecting') continue;
        await call('startMailbox', { id });
        started += 1;
      }
      await refresh();
      return started;
    },
  });
  return (
    <>
      <p className="mb-3 max-w-prose text-muted">{words.eachRunsItsOwn}</p>
      <DataTable
        name="connect-many"
        label={words.mailboxesToConnect}
        columns={COLUMNS}
        rows={ids.map((id) => ({ id }))}
        rowKey={({ id }) => String(id)}
        least="36rem"
      />
      <div className="mt-3 flex items-center gap-3">
        <Button kind="main" disabled={start.isPending} onClick={() => start.mutate()}>
          {words.startThoseThatPassed}
        </Button>
        {start.isSuccess && <span role="status">{words.mailboxesStarted(start.data)}</span>}
      </div>
      <Trouble error={start.error} />
    </>
  );
}

interface Connecting {
  id: number;
}

const COLUMNS: readonly Column<Connecting>[] = [
  { key: 'mailbox', label: common.mailbox, width: 'minmax(12rem,1fr)', isFixed: true, cell: ({ id }) => <ItsAddress id={id} /> },
  { key: 'checks', label: words.checks, width: '10rem', cell: ({ id }) => <ItsChecks id={id} /> },
  { key: 'howFar', label: words.howFar, width: 'minmax(12rem,2fr)', cell: ({ id }) => <HowFar id={id} /> },
];

function ItsAddress({ id }: Connecting) {
  const mailbox = useMailbox(id);
  if (!mailbox.data) return <span className="text-muted">{mailbox.isError ? words.thisMailboxNoLonger : common.looking}</span>;
  return (
    <Link to={`/mailboxes/connect/${id}`} className="text-spruce hover:underline">
      <Address>{mailbox.data.address}</Address>
    </Link>
  );
}

function ItsChecks({ id }: Connecting) {
  const checks = useMailbox(id).data?.checks ?? [];
  return (
    <span className="flex gap-1">
      {checks.map((check) => {
        const Icon = { waiting: Circle, running: LoaderCircle, passed: Check, failed: X }[check.state];
        const colour = { waiting: 'text-muted', running: 'text-spruce', passed: 'text-moss', failed: 'text-brick' }[check.state];
        const said = words.checkIs(check.title, check.state);
        return (
          <span key={check.step} title={said} className={colour}>
            <Icon size={15} role="img" aria-label={said} className={clsx(check.state === 'running' && 'animate-spin')} />
          </span>
        );
      })}
    </span>
  );
}

function HowFar({ id }: Connecting) {
  const { data } = useMailbox(id);
  const failed = data?.checks.find((check) => check.state === 'failed');
  if (!failed) return data?.health?.state ?? '';
  return (
    <>
      <span className="font-medium text-brick">{failed.message}.</span> <span className="text-muted">{failed.remedy}</span>
    </>
  );
}
