import type { Action, Rule, RuleStop } from '@fulvet/core';
import { useDeferredValue, useState } from 'react';
import { useRuleCount } from '../queries';
import { EmailLine } from '../../emails/EmailLine';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { Button, Field, TextInput, Trouble } from '../../parts/basics';
import { Choice } from '../../parts/Choice';
import { count, counted } from '../../parts/numbers';
import { RecordPicker } from '../../parts/RecordPicker';
import { ConditionEditor } from './ConditionEditor';
import { AFTER_OPTIONS, SHOWN_OPTIONS } from '../defaultSentences';
import { OwnerChoice } from './OwnerChoice';
import { ScopeEditor, TeamChoice } from './ScopeEditor';
import { ACTION_CHOICES } from './leafChoices';

export type AnyRule = Rule<Action<RuleStop>>;

/** A rule while it is being edited; what it takes of past mail follows. */
export function RuleEditor({
  stop,
  rule: given,
  isNew,
  onKeep,
  onClose,
  saving,
  error,
}: {
  stop: RuleStop;
  rule: AnyRule;
  isNew: boolean;
  onKeep: (rule: AnyRule) => void;
  onClose: () => void;
  saving: boolean;
  error: unknown;
}) {
  const [rule, setRule] = useState(given);
  const asked = useDeferredValue(rule);
  const counting = useRuleCount(stop, asked, true);
  const docket = useDecisionPanel();
  return (
    <form
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
        then <ActionEditor stop={stop} action={rule.then} onChange={(then) => setRule({ ...rule, then })} />
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
      <div role="status" className="mt-4 rounded bg-sunk px-3 py-2">
        {counting.isError ? (
          <span className="text-brick">{counting.error.message}</span>
        ) : counting.data ? (
          <>
            <strong className="tabular">{counted(counting.data.took, 'past email')}</strong> of {count(counting.data.of)}
            {counting.data.first < counting.data.took && (
              <span>; on {count(counting.data.took - counting.data.first)} of them are decided by an earlier rule</span>
            )}
            .
            {counting.data.read < counting.data.total && (
              <span className="text-muted">
                {' '}
                So far: the newest {count(counting.data.read)} of {count(counting.data.total)} have been read, older ones follow.
              </span>
            )}
          </>
        ) : (
          'Counting …'
        )}
      </div>
      {counting.data && counting.data.examples.length > 0 && (
        <ul aria-label="The newest that it takes" className="mt-1">
          {counting.data.examples.slice(0, 5).map((email) => (
            <li key={email.id} className="h-9 max-sm:h-13">
              <EmailLine email={email} active={docket.openId === email.id} onOpen={() => docket.open(email.id)} />
            </li>
          ))}
        </ul>
      )}
      <Trouble error={error} />
      <div className="mt-3 flex gap-2">
        <Button kind="main" type="submit" disabled={saving || counting.isError}>
          {isNew ? 'Add to the draft' : 'Keep in the draft'}
        </Button>
        <Button onClick={onClose}>Cancel</Button>
      </div>
    </form>
  );
}

function ActionEditor({
  stop,
  action,
  onChange,
}: {
  stop: RuleStop;
  action: Action<RuleStop>;
  onChange: (action: Action<RuleStop>) => void;
}) {
  const choices = ACTION_CHOICES[stop] as { value: string; label: string; hint?: string; start: Action<RuleStop> }[];
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
