import type { Action, RuleStep } from '@fulvet/core';
import type { AnyRule } from './anyRule';
import { useDeferredValue, useEffect, useRef, useState } from 'react';
import { membersOf } from '@fulvet/core';
import { useRuleCount } from '../queries';
import { Button, Field, TextInput, Trouble } from '../../parts/basics';
import { Choice } from '../../parts/Choice';
import { RecordPicker } from '../../parts/RecordPicker';
import { ConditionEditor } from './ConditionEditor';
import { AFTER_OPTIONS, SHOWN_OPTIONS } from '../defaultSentences';
import { RuleEffect } from './RuleEffect';
import { OwnerChoice } from './OwnerChoice';
import { ScopeEditor, TeamChoice } from './ScopeEditor';
import { ACTION_CHOICES } from './leafChoices';

/** A rule while it is being edited; what it takes of past mail, and what it would change, follows. */
export function RuleEditor({
  step,
  rule: given,
  isNew,
  onKeep,
  onClose,
  saving,
  error,
}: {
  step: RuleStep;
  rule: AnyRule;
  isNew: boolean;
  onKeep: (rule: AnyRule) => void;
  onClose: () => void;
  saving: boolean;
  error: unknown;
}) {
  const [rule, setRule] = useState(given);
  // It may open far below what was clicked, or on a page that has just been opened.
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    // It answers with a promise in some browsers, which is no way to end an effect.
    void form.current?.scrollIntoView({ block: 'nearest' });
  }, []);
  const asked = useDeferredValue(rule);
  const isEmpty = membersOf(rule.when)?.members.length === 0;
  // What cannot be read cannot be counted: it is not kept.
  const { isError: isBad } = useRuleCount(step, asked, !isEmpty);
  return (
    <form
      ref={form}
      aria-label={isNew ? 'New rule' : `Edit ${rule.name || 'the rule'}`}
      className="rounded-md border-2 border-spruce/40 bg-raised p-4"
      onSubmit={(event) => {
        event.preventDefault();
        onKeep(rule);
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape' && !event.defaultPrevented) onClose();
      }}
    >
      <ConditionEditor condition={rule.when} onChange={(when) => setRule({ ...rule, when })} />
      <p className="mt-3 leading-7">
        then <ActionEditor step={step} action={rule.then} onChange={(then) => setRule({ ...rule, then })} />
      </p>
      <div className="mt-4 grid gap-3 sm:grid-cols-2">
        <Field label="Name">
          <TextInput
            name="rule-name"
            value={rule.name}
            maxLength={120}
            placeholder="Lawyers in copy"
            onChange={(event) => setRule({ ...rule, name: event.target.value })}
          />
        </Field>
        <Field label="Why it exists">
          <TextInput
            name="rule-note"
            value={rule.note}
            maxLength={1000}
            onChange={(event) => setRule({ ...rule, note: event.target.value })}
          />
        </Field>
      </div>
      <ScopeEditor scope={rule.appliesTo} onChange={(appliesTo) => setRule({ ...rule, appliesTo })} />
      <RuleEffect step={step} rule={asked} isEmpty={isEmpty} />
      <Trouble error={error} />
      <div className="mt-3 flex gap-2">
        <Button kind="main" type="submit" disabled={saving || isEmpty || isBad}>
          {isNew ? 'Add to the draft' : 'Keep in the draft'}
        </Button>
        <Button onClick={onClose}>Cancel</Button>
        {isEmpty && <span className="self-center text-sm text-muted">A rule needs at least one condition.</span>}
      </div>
    </form>
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
        label="What happens"
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
          <Choice label="When" value={action.after} options={AFTER_OPTIONS} onChange={(after) => onChange({ ...action, after })} />
          {action.after === 'emails' && (
            <>
              {': '}
              <Choice
                label="How many emails"
                value={String(action.emails)}
                shown={`${action.emails} emails`}
                options={[2, 3, 4, 5, 10].map((value) => ({ value: String(value), label: `${value} emails` }))}
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
            label="Account"
            value={action.account ? 'yes' : 'no'}
            options={[
              { value: 'yes', label: 'with an account from the domain' },
              { value: 'no', label: 'without a new account' },
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
            label="What they see"
            value={action.existenceOnly ? 'existence' : 'content'}
            options={SHOWN_OPTIONS}
            onChange={(value) => onChange({ ...action, existenceOnly: value === 'existence' })}
          />
        </>
      )}
      {action.do === 'fileUnder' && (
        <>
          {' '}
          <RecordPicker label="Record to file under" onPick={(record) => onChange({ do: 'fileUnder', ...record })}>
            <button type="button" className="font-semibold text-spruce underline decoration-dotted decoration-2 underline-offset-4">
              {action.name || 'choose a record'}
            </button>
          </RecordPicker>
        </>
      )}
      .
    </>
  );
}
