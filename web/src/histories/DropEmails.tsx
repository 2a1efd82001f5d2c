import type { RecordKind } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { FileUp } from 'lucide-react';
import { useRef, useState } from 'react';
import type { ReactNode } from 'react';
import { call } from '../api/call';
import { upload } from '../api/client';
import { useRefreshAll, useSession } from '../api/queries';
import { Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { useNotice } from '../parts/Notices';
import { common } from '../parts/words';
import { useUndoRepair } from '../repairs/queries';
import { dropEmails as words } from './words';

const LOOK_MS = 400;
const MOST_FILES = 50;

interface Target {
  kind: RecordKind;
  id: number;
  name: string;
}

/** Where emails that are files are dropped, to be filed under a record. They come in like any mail: the copy of a mailbox that is connected later is the same email. */
export function DropEmails({ record, children }: { record: Target; children: ReactNode }) {
  const [over, setOver] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const take = useFiled(record);
  const put = (list: FileList | null): void => {
    if (list && list.length > 0) take.mutate([...list].slice(0, MOST_FILES));
  };
  return (
    <div
      className={clsx('min-w-0', over && 'rounded outline-2 outline-offset-4 outline-spruce outline-dashed')}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes('Files')) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => !event.currentTarget.contains(event.relatedTarget as Node | null) && setOver(false)}
      onDrop={(event) => {
        if (event.dataTransfer.files.length === 0) return;
        event.preventDefault();
        setOver(false);
        put(event.dataTransfer.files);
      }}
    >
      <p className="mb-1 flex flex-wrap items-center gap-1 text-sm text-muted">
        <button
          type="button"
          className="inline-flex min-h-6 items-center gap-1 text-spruce hover:underline disabled:opacity-50"
          disabled={take.isPending}
          onClick={() => picker.current?.click()}
        >
          <FileUp size={13} aria-hidden /> {words.addFiles}
        </button>
        {words.orDropThem}
      </p>
      {over && <p className="mb-2 font-medium text-spruce">{words.dropThem(record.name)}</p>}
      {take.isPending && (
        <p role="status" className="mb-2 text-muted">
          {words.reading}
        </p>
      )}
      <Trouble error={take.error} />
      {children}
      <input
        ref={picker}
        type="file"
        multiple
        accept=".eml,message/rfc822"
        className="sr-only"
        tabIndex={-1}
        aria-label={words.emailFiles}
        onChange={(event) => {
          put(event.target.files);
          event.target.value = '';
        }}
      />
    </div>
  );
}

const HEAD_BYTES = 64 * 1024;

/** Whether a file begins with the head of an email that says who it is from: any other text would come in as an email without one. */
async function looksLikeEmail(file: File): Promise<boolean> {
  const [head = ''] = (await file.slice(0, HEAD_BYTES).text()).split(/\r?\n\r?\n/);
  return /^[!-9;-~]+:/.test(head.replace(/^From .*\r?\n/, '')) && /^from:/im.test(head);
}

/** Takes files in as mail of the reader, and files what was in them under the record. */
function useFiled({ kind, id }: Target) {
  const me = useSession().data?.user?.email ?? '';
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndoRepair();
  return useMutation({
    mutationFn: async (files: readonly File[]) => {
      const looks = await Promise.all(files.map(looksLikeEmail));
      const sources = files.filter((_, at) => looks[at]);
      if (sources.length === 0) throw new Error(words.noEmailInThem);
      const { id: importId } = await call('createImport', { body: { mailbox: me } });
      for (const file of sources)
        await upload(`/imports/${importId}/files?name=${encodeURIComponent(file.name)}`, file, () => undefined).done;
      await call('startImport', { id: importId });
      for (;;) {
        const { state, message } = await call('getImport', { id: importId });
        if (state === 'failed' || state === 'cancelled') throw new Error(message || words.notRead);
        if (state === 'done') break;
        await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
      }
      const { items } = await call('listImportItems', { id: importId, limit: 1000 });
      const emails = [...new Set(items.flatMap(({ emailId }) => (emailId === null ? [] : [emailId])))];
      if (emails.length === 0) throw new Error(words.noEmailInThem);
      return call('repair', { body: { emails: emails.slice(0, 500), file: [{ kind, id }] } });
    },
    onSuccess: async (done) => {
      await refresh();
      notice(`${done.summary}.`, { label: common.undo, run: () => undo(done.id) });
    },
  });
}
