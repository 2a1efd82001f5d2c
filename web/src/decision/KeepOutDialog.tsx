import type { KeepOutRequest } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useRefreshAll } from '../api/queries';
import { Address, Trouble } from '../parts/basics';
import { Form, FormEnd, RadioField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { count, counted } from '../parts/numbers';

/** Keeps out a domain or an address: its effect in numbers first, undo after. */
export function KeepOutDialog({ address, onClose }: { address: string; onClose: () => void }) {
  const domain = address.slice(address.lastIndexOf('@') + 1);
  const isAddress = address.includes('@');
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  const form = useBodyForm('keepOut', {
    values: { kind: 'domain', effect: 'ignore', note: '' } as Pick<KeepOutRequest, 'kind' | 'effect'> & { note: string },
    input: (values) => ({ body: { ...values, value: values.kind === 'domain' ? domain : address } }),
    onDone: async (result, { kind: kept }) => {
      await refresh();
      onClose();
      notice(`${kept === 'domain' ? domain : address} is kept out. ${counted(result.changed, 'email')} changed.`, undo(result.undo));
    },
  });
  const { kind, effect } = form.fields.watch();
  const value = kind === 'domain' ? domain : address;
  const preview = useQuery(asked('previewKeepOut', { body: { kind, value, effect } }));
  const p = preview.data;
  return (
    <Modal open onClose={onClose} title="Keep out">
      <Form form={form} className="space-y-4">
        <RadioField
          form={form}
          name="kind"
          legend="What to keep out"
          isLegendHidden
          options={[
            {
              value: 'domain',
              label: (
                <>
                  Everyone at <Address>{domain}</Address> and its sub-domains
                </>
              ),
            },
            ...(isAddress
              ? [
                  {
                    value: 'address',
                    label: (
                      <>
                        Only <Address>{address}</Address>
                      </>
                    ),
                  },
                ]
              : []),
          ]}
        />
        <RadioField
          form={form}
          name="effect"
          legend="If the email has other external people"
          options={[
            { value: 'ignore', label: 'Ignore this participant. The email stays for the others.' },
            { value: 'keepOut', label: 'Keep the whole email out.' },
          ]}
        />
        <TextField form={form} name="note" label="Note for later readers" placeholder="Our lawyers" />
        <div role="status" className="rounded bg-sunk px-3 py-2">
          {p ? (
            <>
              <strong className="tabular">{counted(p.concerned, 'email')}</strong> with {p.value}.{' '}
              {p.tried < p.concerned && <>Counted over the newest {count(p.tried)}: </>}
              <strong className="tabular">{counted(p.wouldLeave, 'email')}</strong> would be kept out
              {p.filedNow > 0 && `, ${p.filedNow} of them now filed`}
              {p.records > 0 && `; ${counted(p.records, 'record')} would have no email left`}.
              {p.already && <span className="block font-medium text-ochre">It is already on the list.</span>}
              {p.warning && <span className="block font-medium text-ochre">{p.warning}</span>}
            </>
          ) : (
            'Counting the affected emails …'
          )}
        </div>
        <Trouble error={preview.error} />
        <FormEnd
          form={form}
          label={`Keep out ${value}`}
          pending="Deciding again …"
          disabled={!p || p.already !== null}
          onCancel={onClose}
        />
      </Form>
    </Modal>
  );
}
