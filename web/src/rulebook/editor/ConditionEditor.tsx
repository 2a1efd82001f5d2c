import type { Condition, Leaf } from '@fulvet/core';
import { membersOf } from '@fulvet/core';
import { Plus, X } from 'lucide-react';
import { Choice } from '../../parts/Choice';
import { FACTS, GROUPS, groupOf } from './leafChoices';
import { LeafEditor } from './LeafEditor';
import { conditionEditor as words } from './words';

/** A condition: facts as lines, groups as indented blocks, to any depth. */
export function ConditionEditor({
  condition,
  onChange,
  depth = 0,
}: {
  condition: Condition;
  onChange: (condition: Condition) => void;
  depth?: number;
}) {
  const group = membersOf(condition) ?? { how: 'all' as const, members: [condition] };
  const put = (members: Condition[]): void => onChange(groupOf(group.how, members));
  return (
    <div className={depth > 0 ? 'border-l-2 border-line pl-3' : ''}>
      <p>
        {depth === 0 ? words.when : ''}
        <Choice label={words.howManyOfThem} value={group.how} options={GROUPS} onChange={(how) => onChange(groupOf(how, group.members))} />:
      </p>
      <ul className="mt-1 space-y-1.5">
        {group.members.map((member, at) => (
          <li key={at} className="flex items-start gap-2">
            <div className="min-w-0 grow leading-7">
              {membersOf(member) ? (
                <ConditionEditor
                  condition={member}
                  depth={depth + 1}
                  onChange={(next) => put(group.members.map((memberCondition, index) => (index === at ? next : memberCondition)))}
                />
              ) : (
                <LeafEditor
                  leaf={member as Leaf}
                  onChange={(next) => put(group.members.map((memberCondition, index) => (index === at ? next : memberCondition)))}
                />
              )}
            </div>
            <button
              type="button"
              aria-label={words.removeThisCondition}
              className="mt-1 rounded p-1 text-muted hover:bg-sunk hover:text-brick"
              onClick={() => put(group.members.filter((_, index) => index !== at))}
            >
              <X size={14} aria-hidden />
            </button>
          </li>
        ))}
        <li className="flex items-center gap-1.5 text-sm">
          <Plus size={14} aria-hidden className="text-muted" />
          <Choice
            label={words.addACondition}
            value=""
            shown={words.addACondition}
            options={[...FACTS, { value: 'group', label: words.aGroupOfConditions }]}
            onChange={(fact) => {
              const start = FACTS.find((item) => item.value === fact)?.start;
              put([...group.members, start ?? { any: [{ fact: 'participant', which: 'any', test: { is: 'unknown' } }] }]);
            }}
          />
        </li>
      </ul>
    </div>
  );
}
