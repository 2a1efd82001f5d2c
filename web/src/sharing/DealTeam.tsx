import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useState } from 'react';
import { useSharing } from './useSharing';
import { call } from '../api/call';
import { useTeam } from '../api/queries';
import { useController } from 'react-hook-form';
import { Trouble } from '../parts/basics';
import { Form, FormEnd } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { Modal } from '../parts/Modal';
import { Ticks } from '../parts/Ticks';
import { common } from '../parts/words';
import { dealTeam as words } from './words';

interface OnTeam {
  members: { id: number; name: string }[];
}

/** Colleagues who work on a deal beside its owner: what is shared with those on the record reaches them. */
export function DealTeam({ dealId, editable }: { dealId: number; editable: boolean }) {
  const found = useQuery(asked('getDealTeam', { id: dealId }));
  const [editing, setEditing] = useState(false);
  const members = found.data?.members ?? [];
  return (
    <section className="mt-4 border-t border-line pt-2" aria-label={words.dealTeam}>
      <h2 className="mb-1">{words.colleaguesOnIt}</h2>
      <p>
        {members.length > 0 ? members.map((member) => member.name).join(', ') : <span className="text-muted">{words.itsOwnerAlone}</span>}{' '}
        {editable && (
          <button type="button" className="text-sm text-spruce hover:underline" onClick={() => setEditing(true)}>
            {words.change}
          </button>
        )}
      </p>
      <Trouble error={found.error} />
      {editing && <Edit dealId={dealId} members={members} onClose={() => setEditing(false)} />}
    </section>
  );
}

function Edit({ dealId, members, onClose }: { dealId: number; members: OnTeam['members']; onClose: () => void }) {
  const team = useTeam();
  const save = useSharing(
    (chosen: readonly string[]) => call('setDealTeam', { id: dealId, body: { members: chosen.map(Number) } }),
    () => words.savedTheySeeAt,
  );
  const form = useSentForm({
    values: { members: members.map((member) => String(member.id)) },
    send: (values) => save.mutateAsync(values.members),
    onDone: onClose,
  });
  const { field } = useController({ control: form.fields.control, name: 'members' });
  return (
    <Modal open onClose={onClose} title={words.colleaguesOnThisDeal}>
      <Form form={form}>
        <Ticks
          label={common.members}
          none={words.itsOwnerAlone}
          options={(team.data?.members ?? [])
            .filter((member) => member.active)
            .map((member) => ({ value: String(member.id), shown: member.name }))}
          chosen={field.value}
          onChange={field.onChange}
        />
        <p className="text-sm text-muted">{words.theySeeTheDeal}</p>
        <FormEnd form={form} label={common.save} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
