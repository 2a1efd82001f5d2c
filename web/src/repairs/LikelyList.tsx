import type { LikelyRecord } from '@fulvet/contract';
import { useDeferredValue, useState } from 'react';
import { KIND_LABELS } from '../parts/people';
import { SearchList } from '../parts/SearchList';
import { useLikely } from './queries';
import { common } from '../parts/words';
import { likelyList as words } from './words';

/** A search for the record that an email belongs under: likely ones are listed before anything is typed, with why. */
export function LikelyList({
  emailId,
  without = [],
  onPick,
}: {
  emailId: number;
  /** Records that are not offered, as `kind:id`. */
  without?: readonly string[];
  onPick: (record: LikelyRecord) => void;
}) {
  const [text, setText] = useState('');
  const asked = useDeferredValue(text.trim());
  const found = useLikely(emailId, asked);
  const choices = (found.data?.records ?? [])
    .filter((record) => !without.includes(`${record.kind}:${record.id}`))
    .map((record) => ({ key: `${record.kind}${record.id}`, choose: () => onPick(record), content: <Likely record={record} /> }));
  const looking = found.isPending || found.isFetching;
  return (
    <SearchList
      label={words.findARecord}
      placeholder={words.nameAddressCode}
      listLabel={common.records}
      text={text}
      onText={setText}
      groups={[{ choices }]}
      nothing={looking ? common.looking : asked ? words.noRecordHasThis : words.noRecordIsLikely}
    />
  );
}

function Likely({ record }: { record: LikelyRecord }) {
  return (
    <>
      <span className="flex gap-2">
        <span className="w-14 shrink-0 text-sm text-muted">{KIND_LABELS[record.kind].one}</span>
        <span className="min-w-0 truncate font-medium">{record.name}</span>
        <span className="ml-auto min-w-0 truncate text-sm text-muted">{record.detail}</span>
      </span>
      {record.why.length > 0 && <span className="block truncate pl-16 text-sm text-muted">{record.why.join(' · ')}</span>}
    </>
  );
}
