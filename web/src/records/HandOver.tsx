import type { RecordKind, TeamMember } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Choice } from '../parts/Choice';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { counted } from '../parts/numbers';
import { KIND_LABELS } from '../parts/people';

/** Gives all records of one owner to someone else, as when a colleague leaves. */
export function HandOver({ kind, from, members }: { kind: RecordKind; from: number; members: readonly TeamMember[] }) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  const owner = members.find((member) => member.id === from);
  const give = useMutation({
    mutationFn: (to: TeamMember) => call('handOver', { kind, body: { from, to: to.id } }),
    onSuccess: async ({ ids, undo: step }, to) => {
      await refresh();
      const { one, many } = KIND_LABELS[kind];
      notice(`${to.name} owns ${counted(ids.length, one.toLowerCase(), many.toLowerCase())} more.`, undo(step));
    },
    onError: (error) => notice(error.message),
  });
  return (
    <Choice
      label="Give them all to"
      shown={`Give all of ${owner?.name.split(' ')[0] ?? 'them'}’s to …`}
      value=""
      options={members
        .filter((member) => member.id !== from && member.role !== 'viewer')
        .map((member) => ({ value: String(member.id), label: member.name }))}
      onChange={(id) => {
        const to = members.find((member) => String(member.id) === id);
        if (to) give.mutate(to);
      }}
    />
  );
}
