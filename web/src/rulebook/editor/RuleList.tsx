import type { Rulebook, RuleStep } from '@fulvet/core';
import { ruleWords } from '@fulvet/core';
import { ChevronDown, ChevronUp, GripVertical } from 'lucide-react';
import { DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { useState } from 'react';
import type { KeyboardEvent, ReactNode } from 'react';
import { useLocation, useSearchParams } from 'react-router';
import type { Draft } from '../queries';
import { useFindings, useAddressLists, useRuleUse } from '../queries';
import { useKeepDraft } from '../useKeepDraft';
import { Button } from '../../parts/basics';
import { clsx } from '../../parts/clsx';
import { Toggle } from '../../parts/Toggle';
import { count } from '../../parts/numbers';
import { newRule } from './ruleFromAddress';
import type { AnyRule } from './anyRule';
import { RuleEditor } from './RuleEditor';
import { ruleFromAddress } from './ruleFromAddress';
import { common } from '../../parts/words';
import { ruleList as words } from './words';

/** The rules of a step in the draft: sentences in order, each with what it took. */
export function RuleList({ step, draft }: { step: RuleStep; draft: Draft }) {
  const rules = draft.document[step].rules as AnyRule[];
  const [params, setParams] = useSearchParams();
  const wanted = params.get('rule');
  // A rule that another page began is in the history of the browser, not in the address bar.
  const { state } = useLocation() as { state: { newRule?: AnyRule } | null };
  const [editing, setEditing] = useState<AnyRule | null>(() =>
    wanted === null ? (state?.newRule ?? null) : ruleFromAddress(step, wanted, params.get('does')),
  );
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const lists = useAddressLists();
  const names = new Map(lists.data?.lists.map((list) => [list.id, list.name]));
  const use = new Map(useRuleUse().data?.rules.map((rule) => [rule.rule, rule.took]));
  const most = Math.max(1, ...rules.map((rule) => use.get(rule.id) ?? 0));
  const keep = useKeepDraft();
  const changed = (next: AnyRule[], said: string) => ({
    document: { ...draft.document, [step]: { ...draft.document[step], rules: next } } as Rulebook,
    revision: draft.revision,
    said,
  });
  const put = (next: AnyRule[], said: string): void => keep.mutate(changed(next, said), { onSuccess: () => close() });
  const close = (): void => {
    setEditing(null);
    if (wanted !== null || state?.newRule) setParams({}, { replace: true, state: null });
  };
  const move = (from: number, to: number): void => {
    if (from < 0 || to < 0 || to >= rules.length || from === to) return;
    const next = [...rules];
    const [rule] = next.splice(from, 1);
    if (rule) next.splice(to, 0, rule);
    put(next, words.ruleMoved);
  };
  const isNew = editing !== null && !rules.some((rule) => rule.id === editing.id);
  return (
    <section aria-label={words.rules} className="mt-5">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-lg">{words.rulesInOrder}</h2>
        {!editing && <Button onClick={() => setEditing(newRule(step))}>{words.addARule}</Button>}
      </div>
      <p className="mb-2 text-sm text-muted">{ORDER_WORDS[step]}</p>
      {rules.length === 0 && !editing && <p className="border-y border-line py-3 text-muted">{words.noRulesYetThe}</p>}
      <DndContext
        sensors={sensors}
        onDragEnd={({ active, over }) => {
          const [from, to] = [active.id, over?.id].map((id) => rules.findIndex((rule) => rule.id === id));
          if (from !== undefined && to !== undefined) move(from, to);
        }}
      >
        <SortableContext items={rules.map((rule) => rule.id)} strategy={verticalListSortingStrategy}>
          <ol className={rules.length > 0 ? 'divide-y divide-line border-y border-line' : ''}>
            {rules.map((rule, at) =>
              editing?.id === rule.id ? (
                <li key={rule.id} className="py-2">
                  <RuleEditor
                    step={step}
                    rule={rule}
                    isNew={false}
                    onClose={close}
                    onKeep={(next) =>
                      keep.mutateAsync(
                        changed(
                          rules.map((item) => (item.id === rule.id ? next : item)),
                          words.ruleChanged,
                        ),
                      )
                    }
                  />
                </li>
              ) : (
                <SortableRule
                  key={rule.id}
                  id={rule.id}
                  aria-label={words.ruleAltWithThe(at + 1, rule.name || ruleWords(rule, names))}
                  off={!rule.on}
                  onKeyDown={(event) => {
                    if (event.target !== event.currentTarget) return;
                    if (event.altKey && event.key === 'ArrowUp') move(at, at - 1);
                    else if (event.altKey && event.key === 'ArrowDown') move(at, at + 1);
                    else if (event.key === 'Enter') setEditing(rule);
                    else return;
                    event.preventDefault();
                  }}
                >
                  <span className="tabular mt-px w-5 shrink-0 text-right text-muted">{at + 1}</span>
                  <div className="min-w-0 grow max-sm:basis-3/4">
                    <button
                      type="button"
                      className={clsx('text-left hover:underline', !rule.on && 'line-through')}
                      onClick={() => setEditing(rule)}
                    >
                      {ruleWords(rule, names)}
                    </button>
                    <span className="block text-sm text-muted">
                      {rule.name}
                      {rule.name && rule.note && ': '}
                      {rule.note}
                      {rule.appliesTo.mailboxes.length > 0 && words.onlyFor(rule.appliesTo.mailboxes.join(', '))}
                    </span>
                  </div>
                  <Took took={use.get(rule.id) ?? 0} most={most} />
                  <span className="flex shrink-0 gap-0.5 max-sm:w-full max-sm:justify-end">
                    <Button kind="quiet" className="px-1!" aria-label={words.moveUp} disabled={at === 0} onClick={() => move(at, at - 1)}>
                      <ChevronUp size={15} aria-hidden />
                    </Button>
                    <Button
                      kind="quiet"
                      className="px-1!"
                      aria-label={words.moveDown}
                      disabled={at === rules.length - 1}
                      onClick={() => move(at, at + 1)}
                    >
                      <ChevronDown size={15} aria-hidden />
                    </Button>
                    <span className="flex items-center px-1.5">
                      <Toggle
                        on={rule.on}
                        label={words.ruleIsOn(at + 1)}
                        onChange={(on) =>
                          put(
                            rules.map((item) => (item.id === rule.id ? { ...item, on } : item)),
                            on ? words.ruleSwitchedOn : words.ruleSwitchedOff,
                          )
                        }
                      />
                    </span>
                    <Button
                      kind="quiet"
                      className="text-brick"
                      onClick={() =>
                        put(
                          rules.filter((item) => item.id !== rule.id),
                          words.ruleRemoved,
                        )
                      }
                    >
                      {common.remove}
                    </Button>
                  </span>
                </SortableRule>
              ),
            )}
          </ol>
        </SortableContext>
      </DndContext>
      {isNew && editing && (
        <div className="mt-2">
          <RuleEditor
            step={step}
            rule={editing}
            isNew
            onClose={close}
            onKeep={(next) => keep.mutateAsync(changed([...rules, next], words.ruleAdded))}
          />
        </div>
      )}
      <Findings step={step} draft={draft} />
    </section>
  );
}

const ORDER_WORDS: Record<RuleStep, string> = {
  keepOut: words.askedBeforeTheSentences,
  takeIn: words.theFirstRuleThat,
  match: words.everyRuleThatApplies,
  create: words.askedAboutEachUnknown,
  share: words.theFirstRuleThatApplies,
};

/** What a rule in force took in 30 days, as a thin bar. */
function Took({ took, most }: { took: number; most: number }) {
  return (
    <span className="mt-0.5 w-14 shrink-0 text-right text-sm text-muted max-sm:hidden" title={words.emailsIn30Days(took)}>
      <span className="tabular">{took === 0 ? '—' : count(took)}</span>
      <span className="mt-0.5 block h-1 rounded-full bg-sunk">
        <span className="block h-full rounded-full bg-spruce/70" style={{ width: `${(took / most) * 100}%` }} />
      </span>
    </span>
  );
}

/** What is odd about the rules of this step. */
function Findings({ step, draft }: { step: RuleStep; draft: Draft }) {
  const found =
    useFindings(draft.revision).data?.findings.filter(
      (finding) => finding.step === step || (step === 'keepOut' && finding.step === null),
    ) ?? [];
  const keep = useKeepDraft();
  if (found.length === 0) return null;
  return (
    <ul aria-label={words.whatIsOdd} className="mt-3 space-y-1">
      {found.map((item) => (
        <li
          key={`${item.code}${item.rule ?? ''}`}
          className="flex flex-wrap items-center gap-x-3 border-l-4 border-ochre bg-raised px-3 py-1.5"
        >
          <span className="min-w-0 grow">{item.message}</span>
          {item.repair && (
            <Button
              disabled={keep.isPending}
              onClick={() => keep.mutate({ document: item.repair?.document, revision: draft.revision, said: words.corrected })}
            >
              {item.repair.label}
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** A rule in the list: dragged by its handle, or moved and opened by keyboard. */
function SortableRule({
  id,
  off,
  children,
  ...rest
}: {
  id: string;
  off: boolean;
  children: ReactNode;
  'aria-label': string;
  onKeyDown: (event: KeyboardEvent<HTMLLIElement>) => void;
}) {
  const { setNodeRef, setActivatorNodeRef, listeners, transform, transition, isDragging } = useSortable({ id });
  return (
    <li
      ref={setNodeRef}
      tabIndex={0}
      className={clsx(
        'group flex items-start gap-2 px-1 py-1.5 max-sm:flex-wrap',
        isDragging && 'relative z-10 bg-raised',
        off && 'text-muted',
      )}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      {...rest}
    >
      <span
        ref={setActivatorNodeRef}
        aria-hidden
        className="flex size-7 shrink-0 cursor-grab items-center justify-center text-muted"
        {...listeners}
      >
        <GripVertical size={16} />
      </span>
      {children}
    </li>
  );
}
