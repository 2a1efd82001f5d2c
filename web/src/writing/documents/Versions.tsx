import type { DocumentDetail, DocumentVersion } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { useRef } from 'react';
import { call } from '../../api/call';
import { Button, Trouble } from '../../parts/basics';
import { clsx } from '../../parts/clsx';
import { Moment } from '../../parts/Moment';
import { useNotice } from '../../parts/Notices';
import { bytes } from '../../parts/numbers';
import { sendVersion, useRefreshDocuments } from './DocumentEditor';
import { versions as words } from './words';

/** The files of a document, the newest first. */
export function Versions({ document }: { document: DocumentDetail }) {
  const notice = useNotice();
  const refresh = useRefreshDocuments();
  const input = useRef<HTMLInputElement>(null);
  const add = useMutation({ mutationFn: (file: File) => sendVersion(document.id, file), onSuccess: refresh });
  const withdraw = useMutation({
    mutationFn: ({ number, withdrawn }: { number: number; withdrawn: boolean }) =>
      call('withdrawDocumentVersion', { id: document.id, number, body: { withdrawn } }),
    onSuccess: async (_, { number, withdrawn }) => {
      await refresh();
      notice(withdrawn ? words.withdrawnNow(number) : words.allowedNow(number), {
        label: words.undo,
        run: () => withdraw.mutate({ number, withdrawn: !withdrawn }),
      });
    },
  });
  return (
    <section aria-label={words.versions}>
      <h2 className="mb-1 text-lg">{words.versions}</h2>
      {document.versions.length === 0 && <p className="text-muted">{words.noVersion}</p>}
      <ul className="divide-y divide-line border-y border-line empty:hidden">
        {document.versions.map((version) => (
          <Version
            key={version.number}
            document={document}
            version={version}
            onWithdraw={(withdrawn) => withdraw.mutate({ number: version.number, withdrawn })}
          />
        ))}
      </ul>
      {document.isMine && (
        <p className="mt-1.5 flex flex-wrap items-center gap-2 text-muted">
          <Button disabled={add.isPending} onClick={() => input.current?.click()}>
            {add.isPending ? words.adding(add.variables.name) : words.addVersion}
          </Button>
          {document.versions.length > 0 && words.linksGoOn}
          <input
            ref={input}
            type="file"
            hidden
            aria-label={words.addVersion}
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              if (file) add.mutate(file);
              event.target.value = '';
            }}
          />
        </p>
      )}
      <Trouble error={add.error ?? withdraw.error} />
    </section>
  );
}

function Version({
  document,
  version,
  onWithdraw,
}: {
  document: DocumentDetail;
  version: DocumentVersion;
  onWithdraw: (withdrawn: boolean) => void;
}) {
  const { number, name, size, addedAt, addedBy, isWithdrawn } = version;
  const isInForce = number === document.current?.number && !document.isOver;
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-0.5 py-1.5">
      <span className={clsx('min-w-0 grow', isWithdrawn && 'text-muted')}>
        <span className="font-medium">{words.number(number)}</span>
        {isInForce && <span className="ml-2 text-spruce">{words.inForce}</span>}
        {isWithdrawn && <span className="ml-2">{words.withdrawn}</span>}
        <span className="block truncate text-sm text-muted">
          {name} · {bytes(size)} · <Moment at={addedAt} /> {words.by(addedBy)}
        </span>
      </span>
      <a
        className="flex min-h-8 items-center gap-1 text-spruce hover:underline"
        aria-label={words.download(name)}
        href={`/api/v1/documents/${document.id}/versions/${number}/file`}
        download
      >
        <Download size={15} />
      </a>
      {document.isMine && (
        <Button
          kind="quiet"
          aria-label={isWithdrawn ? words.allowVersion(number) : words.withdrawVersion(number)}
          onClick={() => onWithdraw(!isWithdrawn)}
        >
          {isWithdrawn ? words.allow : words.withdraw}
        </Button>
      )}
    </li>
  );
}
