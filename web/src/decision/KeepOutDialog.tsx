import type { KeepOutRequest } from '@fulvet/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Address, Button, Field, TextInput, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { count, counted } from '../parts/numbers';

/** Keeps out a domain or an address: its effect in numbers first, undo after. */
export function KeepOutDialog({ address, onClose }: { address: string; onClose: () => void }) {
  const domain = address.slice(address.lastIndexOf('@') + 1);
  const isAddress = address.includes('@');
  const [kind, setKind] = useState<'domain' | 'address'>('domain');
  const [effect, setEffect] = useState<'disregard' | 'keepOut'>('disregard');
  const [note, setNote] = useState('');
  const refresh = useRefreshAll();
  const notice = useNotice();
  const request: KeepOutRequest = { kind, value: kind === 'domain' ? domain : address, effect, note };
  const preview = useQuery({
    queryKey: ['keep-out-preview', kind, request.value, effect],
    queryFn: ({ signal }) => call('previewKeepOut', { body: { kind, value: request.value, effect } }, signal),
  });
  const undo = useUndo();
  const keepOut = useMutation({
    mutationFn: () => call('keepOut', { body: request }),
    onSuccess: async (result) => {
      await refresh();
      onClose();
      notice(`${request.value} is kept out. ${counted(result.changed, 'email')} changed.`, undo(result.undo));
    },
  });
  const p = preview.data;
  return (
    <Modal open onClose={onClose} title="Keep out">
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault();
          keepOut.mutate();
        }}
      >
        <fieldset className="space-y-1.5">
          <legend className="sr-only">What to keep out</legend>
          <Radio name="kind" checked={kind === 'domain'} onChange={() => setKind('domain')}>
            Everybody at <Address>{domain}</Address> and its sub-domains
          </Radio>
          {isAddress && (
            <Radio name="kind" checked={kind === 'address'} onChange={() => setKind('address')}>
              Only <Address>{address}</Address>
            </Radio>
          )}
        </fieldset>
        <fieldset className="space-y-1.5">
          <legend className="mb-1 text-sm font-medium">When others take part in the email</legend>
          <Radio name="effect" checked={effect === 'disregard'} onChange={() => setEffect('disregard')}>
            disregard this participant; the email stays for the others
          </Radio>
          <Radio name="effect" checked={effect === 'keepOut'} onChange={() => setEffect('keepOut')}>
            keep the whole email out
          </Radio>
        </fieldset>
        <Field label="Why (for whoever reads this later)">
          <TextInput value={note} onChange={(event) => setNote(event.target.value)} placeholder="Our lawyers" maxLength={500} />
        </Field>
        <div role="status" className="rounded bg-sunk px-3 py-2">
          {p ? (
            <>
              <strong className="tabular">{counted(p.concerned, 'email')}</strong> with {p.value}.{' '}
              {p.tried < p.concerned && <>Tried on the newest {count(p.tried)}: </>}
              <strong className="tabular">{counted(p.wouldLeave, 'email')}</strong> would be kept out
              {p.filedNow > 0 && `, ${p.filedNow} of them filed now`}
              {p.records > 0 && `; ${counted(p.records, 'record')} would have no email left`}.
              {p.already && <span className="block font-medium text-ochre">It is on the list already.</span>}
              {p.warning && <span className="block font-medium text-ochre">{p.warning}</span>}
            </>
          ) : (
            'Counting the emails concerned …'
          )}
        </div>
        <Trouble error={keepOut.error ?? preview.error} />
        <div className="flex gap-2">
          <Button kind="main" type="submit" disabled={!p || p.already !== null || keepOut.isPending}>
            {keepOut.isPending ? 'Deciding again …' : `Keep out ${request.value}`}
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </form>
    </Modal>
  );
}

function Radio({ children, ...rest }: { name: string; checked: boolean; onChange: () => void; children: React.ReactNode }) {
  return (
    <label className="flex items-baseline gap-2">
      <input type="radio" className="translate-y-0.5 accent-(--spruce)" {...rest} />
      <span className="min-w-0">{children}</span>
    </label>
  );
}
