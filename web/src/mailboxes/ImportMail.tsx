import type { Mailbox, User } from '@fulvet/contract';
import { FileUp } from 'lucide-react';
import { useId, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { upload } from '../api/client';
import { call } from '../api/call';
import { useRefreshAll, useTeam } from '../api/queries';
import { Button, Progress, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { faultsOf } from '../parts/form/faultsOf';
import { Form, TextField } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { bytes, counted } from '../parts/numbers';
import { importMail as words } from './words';

/** Drop mail files, say whose mailbox it is, and start. */
export function ImportMail({ user, mailboxes }: { user: User; mailboxes: readonly Mailbox[] }) {
  const [files, setFiles] = useState<File[]>([]);
  const [over, setOver] = useState(false);
  const [sent, setSent] = useState(0);
  const picker = useRef<HTMLInputElement>(null);
  const stop = useRef<(() => void) | null>(null);
  const listId = useId();
  const team = useTeam();
  const go = useNavigate();
  const refresh = useRefreshAll();
  const total = files.reduce((sum, file) => sum + file.size, 0);
  const form = useSentForm({
    values: { mailbox: user.role === 'admin' ? '' : user.email },
    faults: ({ mailbox }) => faultsOf('createImport', { mailbox: mailbox.trim() }),
    send: async ({ mailbox }) => {
      setSent(0);
      const run = await call('createImport', { body: { mailbox: mailbox.trim() } });
      let before = 0;
      for (const file of files) {
        const sending = upload(`/imports/${run.id}/files?name=${encodeURIComponent(file.webkitRelativePath || file.name)}`, file, (part) =>
          setSent(before + part),
        );
        stop.current = sending.stop;
        await sending.done;
        before += file.size;
      }
      return call('startImport', { id: run.id });
    },
    onDone: async (run) => {
      await refresh();
      await go(`/mailboxes/imports/${run.id}`);
    },
  });
  const mailbox = form.fields.watch('mailbox');
  const suggestions = [
    ...new Set([...mailboxes.map((item) => item.address), ...(team.data?.members.map((member) => member.email) ?? [])]),
  ].sort();
  const take = (list: FileList | null): void => setFiles(list ? [...list] : []);
  return (
    <section aria-label={words.importMail} className="max-w-3xl">
      <div
        className={clsx(
          'flex flex-wrap items-center gap-3 rounded-md border-2 border-dashed px-4 py-4',
          over ? 'border-spruce bg-raised' : 'border-line',
        )}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          take(event.dataTransfer.files);
        }}
      >
        <FileUp size={22} aria-hidden className="text-spruce" />
        <div className="min-w-0 grow">
          {files.length === 0 ? (
            <>
              <div className="font-medium">{words.dropMailHereMbox}</div>
              <div className="text-sm text-muted">{words.anImportChangesNothing}</div>
            </>
          ) : (
            <div className="truncate">
              <strong>{files.length === 1 ? files[0]?.name : counted(files.length, 'file')}</strong>{' '}
              <span className="text-muted">{bytes(total)}</span>
            </div>
          )}
        </div>
        <input
          ref={picker}
          type="file"
          multiple
          className="sr-only"
          aria-label={words.mailFiles}
          tabIndex={-1}
          onChange={(event) => take(event.target.files)}
        />
        <Button onClick={() => picker.current?.click()}>{files.length === 0 ? words.chooseFiles : words.chooseOthers}</Button>
      </div>
      {files.length > 0 && (
        <Form form={form} className="mt-3 flex flex-wrap items-end gap-3">
          <div className="w-80 max-w-full">
            <TextField
              form={form}
              name="mailbox"
              label={words.whichMailboxIsIt}
              hint={words.itsOwnerSeesEverything}
              type="email"
              required
              list={listId}
              className="font-mono"
              placeholder="name@our-domain.example"
            />
            <datalist id={listId}>
              {suggestions.map((suggestion) => (
                <option key={suggestion} value={suggestion} />
              ))}
            </datalist>
          </div>
          <Button kind="main" type="submit" className="mb-6" disabled={form.pending || !mailbox.includes('@')}>
            {form.pending ? words.sending : words.import(files.length === 1 ? words.thisFile : counted(files.length, 'file'))}
          </Button>
          {form.pending && (
            <Button className="mb-6" onClick={() => stop.current?.()}>
              {words.stop}
            </Button>
          )}
        </Form>
      )}
      {form.pending && total > 0 && <Progress label={words.sendingMail} done={sent} total={total} />}
      <Trouble error={form.error} />
    </section>
  );
}
