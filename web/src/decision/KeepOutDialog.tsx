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
import { counted } from '../parts/numbers';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { keepOutDialog as words } from './words';

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
      notice(words.isKeptOutEmail(kept === 'domain' ? domain : address, result.changed), undo(result.undo));
    },
  });
  const { kind, effect } = form.fields.watch();
  const value = kind === 'domain' ? domain : address;
  const preview = useQuery(asked('previewKeepOut', { body: { kind, value, effect } }));
  const p = preview.data;
  return (
    <Modal open onClose={onClose} title={common.keepOut}>
      <Form form={form} className="space-y-4">
        <RadioField
          form={form}
          name="kind"
          legend={words.whatToKeepOut}
          isLegendHidden
          options={[
            {
              value: 'domain',
              label: filled(words.everyoneAtAndIts, { domain: <Address>{domain}</Address> }),
            },
            ...(isAddress
              ? [
                  {
                    value: 'address',
                    label: filled(words.only, { address: <Address>{address}</Address> }),
                  },
                ]
              : []),
          ]}
        />
        <RadioField
          form={form}
          name="effect"
          legend={words.ifTheEmailHas}
          options={[
            { value: 'ignore', label: words.ignoreThisParticipantThe },
            { value: 'keepOut', label: words.keepTheWholeEmail },
          ]}
        />
        <TextField form={form} name="note" label={words.noteForLaterReaders} placeholder={words.ourLawyers} />
        <div role="status" className="rounded bg-sunk px-3 py-2">
          {p ? (
            <>
              {filled(words.withWouldBeKept, {
                concerned: <strong className="tabular">{counted(p.concerned, 'email')}</strong>,
                p: p.value,
                tried: p.tried < p.concerned && <>{words.countedOverTheNewest(p.tried)} </>,
                wouldLeave: <strong className="tabular">{counted(p.wouldLeave, 'email')}</strong>,
                filedNow: p.filedNow > 0 && words.ofThemNowFiled(p.filedNow),
                records: p.records > 0 && words.recordWouldHaveNo(p.records),
              })}
              {p.already && <span className="block font-medium text-ochre">{words.itIsAlreadyOn}</span>}
              {p.warning && <span className="block font-medium text-ochre">{p.warning}</span>}
            </>
          ) : (
            words.countingTheAffectedEmails
          )}
        </div>
        <Trouble error={preview.error} />
        <FormEnd
          form={form}
          label={words.keepOut(value)}
          pending={words.decidingAgain}
          disabled={!p || p.already !== null}
          onCancel={onClose}
        />
      </Form>
    </Modal>
  );
}
