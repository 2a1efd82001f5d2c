import type { RecordKind, TeamMember } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Choice } from '../parts/Choice';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { counted } from '../parts/numbers';
import { KIND_LABELS } from '../parts/people';
import { handOver as words } from './words';

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
      notice(words.ownsMore(to.name, counted(ids.length, one.toLowerCase(), many.toLowerCase())), undo(step));
    },
    onError: (error) => notice(error.message),
  });
  return (
    <Choice
      label={words.giveThemAllTo}
      shown={words.giveAllOfS(owner?.name.split(' ')[0] ?? 'them')}
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
