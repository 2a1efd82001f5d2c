import type { RecordDetail, RecordKind } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Trouble } from '../parts/basics';
import { useNotice } from '../parts/Notices';
import type { PickedRecord } from '../parts/RecordPicker';
import { RecordPicker } from '../parts/RecordPicker';
import { useUndo } from '../parts/useUndo';
import { fieldOf, peopleOn } from './partsOfRecord';
import { useCreating } from './useCreating';
import { addBeside as words } from './words';

/** People and deals are added to an account, and a person to deals, by what one types of them; what is not there yet is created. */
export function AddBeside({ record }: { record: RecordDetail }) {
  if (record.kind === 'account') return <OfAccount record={record} />;
  return record.kind === 'contact' || record.kind === 'lead' ? <OfPerson record={record} /> : null;
}

function OfAccount({ record }: { record: RecordDetail }) {
  const link = useLinking((picked) => call('editRecord', { ...picked, body: { values: { account: record.name } } }));
  const account = { account: record.name };
  const person = useCreating('contact', done, account);
  const deal = useCreating('deal', done, account);
  return (
    <p className="mt-2 flex flex-wrap gap-x-3">
      <Add label={words.addAPerson} only="contact" creating={person} onPick={link.mutate} />
      <Add label={words.addADeal} only="deal" creating={deal} onPick={link.mutate} />
      <Trouble error={link.error} />
    </p>
  );
}

function OfPerson({ record }: { record: RecordDetail }) {
  const { kind, id } = record;
  const join = useLinking(async (picked) => {
    const { people } = await call('getRecord', picked);
    const those = peopleOn(people);
    const isOn = those.some((it) => it.kind === kind && it.id === id);
    if (isOn || (kind !== 'contact' && kind !== 'lead')) return { undo: null };
    return call('setDealPeople', { id: picked.id, body: { people: [...those, { kind, id, role: '' }] } });
  });
  const account = fieldOf(record, 'account');
  const [address = ''] = fieldOf(record, 'emails').split(';');
  const creating = useCreating('deal', done, { ...(account ? { account } : {}), ...(address ? { people: address } : {}) });
  return (
    <p className="mt-2">
      <Add label={words.addToADeal} only="deal" creating={creating} onPick={join.mutate} />
      <Trouble error={join.error} />
    </p>
  );
}

const done = (): undefined => undefined;

function useLinking(work: (picked: PickedRecord) => Promise<{ undo: number | null }>) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  return useMutation({
    mutationFn: work,
    onSuccess: async (answer, picked) => {
      await refresh();
      notice(words.added(picked.name), undo(answer.undo));
    },
  });
}

function Add({
  label,
  ...picker
}: {
  label: string;
  only: RecordKind;
  creating: (text: string) => readonly { label: string; choose: () => void }[];
  onPick: (picked: PickedRecord) => void;
}) {
  return (
    <RecordPicker label={label} {...picker}>
      <button type="button" className="text-spruce hover:underline">
        {label}
      </button>
    </RecordPicker>
  );
}
