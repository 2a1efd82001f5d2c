import type { User } from '@fulvet/contract';
import type { KeepOutEntry, Rulebook } from '@fulvet/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../api/call';
import { useRefreshAll, useRulebook, useUndoSteps } from '../api/queries';
import { AllowAgainDialog } from '../decision/AllowAgainDialog';
import { KeepOutDialog } from '../decision/KeepOutDialog';
import { Address, Button, Empty, Page, TextInput, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { LineForm } from '../parts/form/LineForm';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { count, counted } from '../parts/numbers';
import { DecideAgain } from '../decision/DecideAgain';
import { DraftBar } from './DraftBar';
import { PilotPanel } from './PilotPanel';
import { LastDecided } from '../decision/LastDecided';
import { RuleList } from './editor/RuleList';
import { CLASS_LABELS } from './defaultSentences';
import { useSentences } from './useSentences';
import { StepColumns } from './StepColumns';
import { useRuleUse } from './queries';
import { VersionLink } from './VersionLink';

const MACHINE = ['newsletter', 'notice', 'auto-reply', 'bounce', 'calendar'] as const;

/** The first step: what has no business in the records. */
export default function KeepOutPage({ user }: { user: User }) {
  const rulebook = useRulebook();
  const { draft, fixed, put, error } = useSentences(user.role === 'admin');
  if (rulebook.isPending) return <Waiting what="Reading the rulebook" />;
  if (rulebook.isError) return <Trouble error={rulebook.error} />;
  const document = draft?.document ?? rulebook.data.document;
  const admin = user.role === 'admin';
  const change = (keepOut: Partial<Rulebook['keepOut']>): void =>
    put(document, { ...document, keepOut: { ...document.keepOut, ...keepOut } });
  return (
    <Page
      title="Keep out"
      purpose="Says which email never reaches the records: private, internal and automatic mail."
      aside={<VersionLink version={rulebook.data.version} admin={admin} />}
      wide
    >
      {admin && <PilotPanel />}
      {draft && <DraftBar draft={draft} />}
      <StepColumns beside={<LastDecided title="Last kept out" filter={{ outcome: 'kept out' }} />}>
        <Entries entries={document.keepOut.entries} admin={admin} />
        {admin && <Steps />}
        <div className="mt-8 space-y-3 border-y border-line py-4 text-lg leading-relaxed">
          <p>
            Internal mail{' '}
            <Choice
              label="Internal mail"
              value={document.keepOut.internal ? 'out' : 'in'}
              disabled={fixed}
              options={[
                { value: 'out', label: 'is kept out' },
                { value: 'in', label: 'is left to its owners' },
              ]}
              onChange={(value) => change({ internal: value === 'out' })}
            />
            .
          </p>
          <p>Machine mail that is kept out:</p>
          <ul className="flex flex-wrap gap-x-5 gap-y-1 text-base">
            {MACHINE.map((value) => {
              const on = document.keepOut.machineMail.includes(value);
              return (
                <li key={value}>
                  <label className="flex items-center gap-1.5">
                    <input
                      type="checkbox"
                      className="accent-(--spruce)"
                      checked={on}
                      disabled={fixed}
                      onChange={() =>
                        change({
                          machineMail: on
                            ? document.keepOut.machineMail.filter((other) => other !== value)
                            : [...document.keepOut.machineMail, value],
                        })
                      }
                    />
                    {CLASS_LABELS[value]}
                  </label>
                </li>
              );
            })}
          </ul>
        </div>
        <Trouble error={error} />
        {draft && <RuleList step="keepOut" draft={draft} />}
        {admin && <DecideAgain />}
      </StepColumns>
    </Page>
  );
}

/** A domain or an address, however it was copied: out of a link, or with a name before it. */
const domainOrAddress = (text: string): string =>
  text
    .trim()
    .replace(/^.*<([^>]+)>.*$/, '$1')
    .replace(/^https?:\/\//, '')
    .replace(/[/?#].*$/, '')
    .replace(/^@/, '')
    .toLowerCase();

function Entries({ entries, admin }: { entries: readonly KeepOutEntry[]; admin: boolean }) {
  const [filter, setFilter] = useState('');
  /** How often something was asked about: the field is empty again after that. */
  const [asked, setAsked] = useState(0);
  const [dialog, setDialog] = useState<string | null>(null);
  const [allowing, setAllowing] = useState<KeepOutEntry | null>(null);
  const use = useRuleUse(admin);
  const took = (id: string): number => use.data?.rules.find(({ rule }) => rule === id)?.took ?? 0;
  const shown = entries.filter((entry) => `${entry.value} ${entry.note}`.toLowerCase().includes(filter.toLowerCase()));
  return (
    <section aria-label="Kept-out domains and addresses">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="mr-4 text-lg">{counted(entries.length, 'domain or address', 'domains and addresses')} kept out</h2>
        {entries.length > 8 && (
          <TextInput
            aria-label="Find an entry"
            placeholder="Find an entry"
            className="w-48!"
            value={filter}
            onChange={(event) => setFilter(event.target.value)}
          />
        )}
        {admin && (
          <LineForm
            key={asked}
            className="w-80 max-w-full"
            label="Domain or address to keep out"
            button="Keep out …"
            placeholder="domain or address"
            isMono
            stays
            isReady={(text) => domainOrAddress(text).includes('.')}
            onSend={(text) => setDialog(domainOrAddress(text))}
          />
        )}
      </div>
      {admin && (
        <p className="mb-2 text-sm text-muted">
          An entry applies at once, to new and past mail, after you have seen its effect. The rules below change by the draft.
        </p>
      )}
      {entries.length === 0 ? (
        <Empty title="No domain is kept out yet">
          Add one above, or from the decision of any email: you see how many emails it affects before it takes effect.
        </Empty>
      ) : (
        <ul className="divide-y divide-line border-y border-line">
          {shown.map((entry) => (
            <li key={entry.id} className="flex flex-wrap items-center gap-x-3 gap-y-0.5 px-1 py-1.5">
              <span>
                When a participant is <span className="sr-only">{entry.kind}</span>{' '}
                {entry.kind === 'domain' ? (entry.exactly ? 'exactly at ' : 'at ') : ''}
                <Address className="font-medium">{entry.value}</Address>,{' '}
                {entry.effect === 'ignore' ? 'ignore that participant' : 'keep the whole email out'}.
              </span>
              <span className="text-sm text-muted">
                {entry.note}
                {entry.addedBy && ` · ${entry.addedBy}`}
                {entry.addedAt && (
                  <>
                    {' · '}
                    <Moment at={entry.addedAt} />
                  </>
                )}
              </span>
              {admin && (
                <span className="ml-auto flex items-center gap-2">
                  <span className="tabular text-sm whitespace-nowrap text-muted">{counted(took(entry.id), 'email')} in 30 days</span>
                  <Button kind="quiet" aria-label={`Allow again … (${entry.value})`} onClick={() => setAllowing(entry)}>
                    Allow again …
                  </Button>
                </span>
              )}
            </li>
          ))}
          {shown.length === 0 && <li className="px-1 py-3 text-muted">No entry fits “{filter}”.</li>}
        </ul>
      )}
      {allowing && <AllowAgainDialog entry={allowing} onClose={() => setAllowing(null)} />}
      {dialog && (
        <KeepOutDialog
          address={dialog}
          onClose={() => {
            setDialog(null);
            setAsked(asked + 1);
          }}
        />
      )}
    </section>
  );
}

function Steps() {
  const steps = useUndoSteps(true);
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useMutation({
    mutationFn: (id: number) => call('undo', { id }),
    onSuccess: async (result) => {
      await refresh();
      notice(`Undone. ${count(result.changed)} emails changed.`);
    },
  });
  const open = steps.data?.steps.filter((step) => step.kind === 'keepOut' && !step.undone).slice(0, 5) ?? [];
  if (open.length === 0) return null;
  return (
    <section className="mt-5" aria-label="Steps that can be undone">
      <h2 className="mb-1 text-base">Done lately</h2>
      <ul>
        {open.map((step) => (
          <li key={step.id} className="flex items-center gap-3 py-0.5 text-sm">
            <span>
              {step.summary}{' '}
              <span className="text-muted">
                · {step.by} · {<Moment at={step.at} />}
              </span>
            </span>
            <Button kind="quiet" disabled={undo.isPending} onClick={() => undo.mutate(step.id)}>
              Undo
            </Button>
          </li>
        ))}
      </ul>
      <Trouble error={undo.error} />
    </section>
  );
}
