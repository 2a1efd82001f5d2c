import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useState } from 'react';
import { useSharing } from './useSharing';
import { call } from '../api/call';
import { useTeam } from '../api/queries';
import { Button, Trouble } from '../parts/basics';
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
  const [chosen, setChosen] = useState(members.map((member) => String(member.id)));
  const save = useSharing(
    () => call('setDealTeam', { id: dealId, body: { members: chosen.map(Number) } }),
    () => words.savedTheySeeAt,
  );
  return (
    <Modal open onClose={onClose} title={words.colleaguesOnThisDeal}>
      <Ticks
        label={common.members}
        none={words.itsOwnerAlone}
        options={(team.data?.members ?? [])
          .filter((member) => member.active)
          .map((member) => ({ value: String(member.id), shown: member.name }))}
        chosen={chosen}
        onChange={setChosen}
      />
      <p className="mt-2 text-sm text-muted">{words.theySeeTheDeal}</p>
      <Trouble error={save.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>{common.cancel}</Button>
        <Button kind="main" disabled={save.isPending} onClick={() => save.mutate(undefined, { onSuccess: onClose })}>
          {common.save}
        </Button>
      </div>
    </Modal>
  );
}
