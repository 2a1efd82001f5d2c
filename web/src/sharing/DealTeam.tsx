import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useState } from 'react';
import { useSharing } from './queries';
import { call } from '../api/call';
import { useTeam } from '../api/queries';
import { Button, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { Ticks } from '../parts/Ticks';

interface OnTeam {
  members: { id: number; name: string }[];
}

/** Colleagues who work on a deal beside its owner: what is shared with those on the record reaches them. */
export function DealTeam({ dealId, editable }: { dealId: number; editable: boolean }) {
  const found = useQuery(asked('getDealTeam', { id: dealId }));
  const [editing, setEditing] = useState(false);
  const members = found.data?.members ?? [];
  return (
    <section className="mt-4 border-t border-line pt-2" aria-label="Deal team">
      <h2 className="mb-1">Colleagues on it</h2>
      <p>
        {members.length > 0 ? members.map((member) => member.name).join(', ') : <span className="text-muted">its owner alone</span>}{' '}
        {editable && (
          <button type="button" className="text-sm text-spruce hover:underline" onClick={() => setEditing(true)}>
            change
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
    () => 'Saved. They see at once what those on the record see.',
  );
  return (
    <Modal open onClose={onClose} title="Colleagues on this deal">
      <Ticks
        label="Members"
        none="its owner alone"
        options={(team.data?.members ?? [])
          .filter((member) => member.active)
          .map((member) => ({ value: String(member.id), shown: member.name }))}
        chosen={chosen}
        onChange={setChosen}
      />
      <p className="mt-2 text-sm text-muted">
        They see the deal, its account and its people, and the mail that is shared with those on the record.
      </p>
      <Trouble error={save.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button kind="main" disabled={save.isPending} onClick={() => save.mutate(undefined, { onSuccess: onClose })}>
          Save
        </Button>
      </div>
    </Modal>
  );
}
