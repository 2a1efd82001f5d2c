import type { RecordTest } from '@fulvet/core';
import { useRecordSetup } from '../../api/queries';
import { Choice } from '../../parts/Choice';
import { ownOpenLeaf as words } from './words';

type OpenTest = Extract<RecordTest, { field: 'ownOpen' }>;

/** A condition on records of a kind that the workspace defines, such as an open case. */
export function OwnOpenLeaf({ test, onChange }: { test: OpenTest; onChange: (test: OpenTest) => void }) {
  const kinds = useRecordSetup().data?.kinds ?? [];
  if (kinds.length === 0) return <span className="text-muted">{words.noKinds}</span>;
  return (
    <>
      <Choice
        label={words.openOrClosed}
        value={test.is ? 'open' : 'closed'}
        options={[
          { value: 'open', label: words.open },
          { value: 'closed', label: words.closed },
        ]}
        onChange={(value) => onChange({ ...test, is: value === 'open' })}
      />{' '}
      {words.ofTheKind}{' '}
      <Choice
        label={words.whichKind}
        value={test.kind}
        options={[
          ...(kinds.some(({ key }) => key === test.kind) ? [] : [{ value: test.kind, label: words.chooseAKind }]),
          ...kinds.map(({ key, singular }) => ({ value: key, label: singular })),
        ]}
        onChange={(kind) => onChange({ ...test, kind })}
      />
    </>
  );
}
