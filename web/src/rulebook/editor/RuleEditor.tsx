import type { Action, RuleStep } from '@fulvet/core';
import type { AnyRule } from './anyRule';
import { useDeferredValue, useEffect, useMemo, useRef } from 'react';
import { useWatch } from 'react-hook-form';
import type { FieldValues } from 'react-hook-form';
import { Form } from '../../parts/form/Form';
import { useSentForm } from '../../parts/form/useSentForm';
import { membersOf } from '@fulvet/core';
import { useRuleCount } from '../queries';
import { Button, Field, TextInput, Trouble } from '../../parts/basics';
import { Choice } from '../../parts/Choice';
import { RecordPicker } from '../../parts/RecordPicker';
import { ConditionEditor } from './ConditionEditor';
import { AFTER_OPTIONS, SHOWN_OPTIONS } from '../sentences/defaultSentences';
import { RuleEffect } from './RuleEffect';
import { OwnerChoice } from './OwnerChoice';
import { ScopeEditor, TeamChoice } from './ScopeEditor';
import { ACTION_CHOICES } from './leafChoices';
import { common } from '../../parts/words';
import { ruleEditor as words } from './words';

type Sentence = Omit<AnyRule, 'name' | 'note'>;

/** What the form holds: two lines of text, and the sentence, whose parts are edited in place. */
interface RuleFields extends FieldValues {
  name: string;
  note: string;
  sentence: Sentence;
}

const ruleOf = ({ name, note, sentence }: RuleFields): AnyRule => ({ ...sentence, name, note });

/** A rule while it is being edited; what it takes of past mail, and what it would change, follows. */
export function RuleEditor({
  step,
  rule: given,
  isNew,
  onKeep,
  onClose,
}: {
  step: RuleStep;
  rule: AnyRule;
  isNew: boolean;
  onKeep: (rule: AnyRule) => Promise<unknown>;
  onClose: () => void;
}) {
  const { name: firstName, note: firstNote, ...firstSentence } = given;
  const form = useSentForm<unknown, RuleFields>({
    values: { name: firstName, note: firstNote, sentence: firstSentence },
    send: (values) => onKeep(ruleOf(values)),
    onDone: onClose,
  });
  const { register, control, setValue } = form.fields;
  const [name, note, sentence] = useWatch({ control, name: ['name', 'note', 'sentence'] });
  const rule = useMemo(() => ruleOf({ name, note, sentence }), [name, note, sentence]);
  const change = (part: Partial<Sentence>): void => setValue('sentence', { ...sentence, ...part }, { shouldDirty: true });
  // It may open far below what was clicked, or on a page that has just been opened.
  const top = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // It answers with a promise in some browsers, which is no way to end an effect.
    void top.current?.scrollIntoView({ block: 'nearest' });
  }, []);
  const asked = useDeferredValue(rule);
  const isEmpty = membersOf(rule.when)?.members.length === 0;
  // What cannot be read cannot be counted: it is not kept.
  const { isError: isBad } = useRuleCount(step, asked, !isEmpty);
  return (
    <div
      ref={top}
      className="rounded-md border-2 border-spruce/40 bg-raised p-4"
      onKeyDown={(event) => {
        if (event.key === 'Escape' && !event.defaultPrevented) onClose();
      }}
    >
      <Form form={form} className="" label={isNew ? words.newRule : words.edit(rule.name || words.theRule)}>
        <ConditionEditor condition={rule.when} onChange={(when) => change({ when })} />
        <p className="mt-3 leading-7">
          {words.then} <ActionEditor step={step} action={rule.then} onChange={(then) => change({ then })} />
        </p>
        <div className="mt-4 grid gap-3 sm:grid-cols-2">
          <Field label={common.name}>
            <TextInput maxLength={120} placeholder={words.lawyersInCopy} {...register('name')} />
          </Field>
          <Field label={words.whyItExists}>
            <TextInput maxLength={1000} {...register('note')} />
          </Field>
        </div>
        <ScopeEditor scope={rule.appliesTo} onChange={(appliesTo) => change({ appliesTo })} />
        <RuleEffect step={step} rule={asked} isEmpty={isEmpty} />
        <Trouble error={form.error} />
        <div className="mt-3 flex gap-2">
          <Button kind="main" type="submit" disabled={form.pending || isEmpty || isBad}>
            {isNew ? common.addToTheDraft : words.keepInTheDraft}
          </Button>
          <Button onClick={onClose}>{common.cancel}</Button>
          {isEmpty && <span className="self-center text-sm text-muted">{words.aRuleNeedsAt}</span>}
        </div>
      </Form>
    </div>
  );
}

function ActionEditor({
  step,
  action,
  onChange,
}: {
  step: RuleStep;
  action: Action<RuleStep>;
  onChange: (action: Action<RuleStep>) => void;
}) {
  const choices = ACTION_CHOICES[step] as { value: string; label: string; hint?: string; start: Action<RuleStep> }[];
  return (
    <>
      <Choice
        label={words.whatHappens}
        value={action.do}
        options={choices}
        onChange={(next) => {
          const start = choices.find((choice) => choice.value === next)?.start;
          if (start) onChange(start);
        }}
      />
      {(action.do === 'contact' || action.do === 'lead') && (
        <>
          {' '}
          <Choice label={words.when} value={action.after} options={AFTER_OPTIONS} onChange={(after) => onChange({ ...action, after })} />
          {action.after === 'emails' && (
            <>
              {': '}
              <Choice
                label={words.howManyEmails}
                value={String(action.emails)}
                shown={words.emails(action.emails)}
                options={[2, 3, 4, 5, 10].map((value) => ({ value: String(value), label: words.emailsForValue(value) }))}
                onChange={(value) => onChange({ ...action, emails: Number(value) })}
              />
            </>
          )}
          , <OwnerChoice value={action.owner} onChange={(owner) => onChange({ ...action, owner })} />
        </>
      )}
      {action.do === 'contact' && (
        <>
          ,{' '}
          <Choice
            label={common.account}
            value={action.account ? 'yes' : 'no'}
            options={[
              { value: 'yes', label: words.withAnAccountFrom },
              { value: 'no', label: words.withoutANewAccount },
            ]}
            onChange={(value) => onChange({ ...action, account: value === 'yes' })}
          />
        </>
      )}
      {action.do === 'teams' && <TeamChoice chosen={action.teams} onChange={(teams) => onChange({ ...action, teams })} />}
      {(action.do === 'record' || action.do === 'teams' || action.do === 'everyone') && (
        <>
          {' '}
          <Choice
            label={words.whatTheySee}
            value={action.existenceOnly ? 'existence' : 'content'}
            options={SHOWN_OPTIONS}
            onChange={(value) => onChange({ ...action, existenceOnly: value === 'existence' })}
          />
        </>
      )}
      {action.do === 'fileUnder' && (
        <>
          {' '}
          <RecordPicker label={words.recordToFileUnder} onPick={(record) => onChange({ do: 'fileUnder', ...record })}>
            <button type="button" className="font-semibold text-spruce underline decoration-dotted decoration-2 underline-offset-4">
              {action.name || words.chooseARecord}
            </button>
          </RecordPicker>
        </>
      )}
      .
    </>
  );
}
