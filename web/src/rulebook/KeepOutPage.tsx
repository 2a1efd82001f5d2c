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
import { DecideAgain } from '../decision/DecideAgain';
import { DraftBar } from './DraftBar';
import { PilotPanel } from './PilotPanel';
import { LastDecided } from '../decision/LastDecided';
import { RuleList } from './editor/RuleList';
import { CLASS_LABELS } from './sentences/defaultSentences';
import { useSentences } from './sentences/useSentences';
import { StepColumns } from './StepColumns';
import { useRuleUse } from './queries';
import { VersionLink } from './VersionLink';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { keepOutPage as words } from './words';

const MACHINE = ['newsletter', 'notice', 'auto-reply', 'bounce', 'calendar'] as const;

/** The first step: what has no business in the records. */
export default function KeepOutPage({ user }: { user: User }) {
  const rulebook = useRulebook();
  const { draft, fixed, put, error } = useSentences(user.role === 'admin');
  if (rulebook.isPending) return <Waiting what={words.readingTheRulebook} />;
  if (rulebook.isError) return <Trouble error={rulebook.error} />;
  const document = draft?.document ?? rulebook.data.document;
  const admin = user.role === 'admin';
  const change = (keepOut: Partial<Rulebook['keepOut']>): void =>
    put(document, { ...document, keepOut: { ...document.keepOut, ...keepOut } });
  return (
    <Page
      title={common.keepOut}
      purpose={words.saysWhichEmailNever}
      aside={<VersionLink version={rulebook.data.version} admin={admin} />}
      wide
    >
      {admin && <PilotPanel />}
      {draft && <DraftBar draft={draft} />}
      <StepColumns beside={<LastDecided title={words.lastKeptOut} filter={{ outcome: 'kept out' }} />}>
        <Entries entries={document.keepOut.entries} admin={admin} />
        {admin && <Steps />}
        <div className="mt-8 space-y-3 border-y border-line py-4 text-lg leading-relaxed">
          <p>
            {filled(words.internalMailIs, {
              internalMail: (
                <Choice
                  label={words.internalMail}
                  value={document.keepOut.internal ? 'out' : 'in'}
                  disabled={fixed}
                  options={[
                    { value: 'out', label: words.isKeptOut },
                    { value: 'in', label: words.isLeftToIts },
                  ]}
                  onChange={(value) => change({ internal: value === 'out' })}
                />
              ),
            })}
          </p>
          <p>{words.machineMailThatIs}</p>
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
    <section aria-label={words.keptOutDomainsAnd}>
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="mr-4 text-lg">{words.domainsAndAddressesKept(entries.length)}</h2>
        {entries.length > 8 && (
          <TextInput
            aria-label={words.findAnEntry}
            placeholder={words.findAnEntry}
            className="w-48!"
            value={filter}
            onChange={(event) => setFilter(event.target.value)}
          />
        )}
        {admin && (
          <LineForm
            key={asked}
            className="w-80 max-w-full"
            label={words.domainOrAddressTo}
            button={words.keepOut}
            placeholder={words.domainOrAddress}
            isMono
            stays
            isReady={(text) => domainOrAddress(text).includes('.')}
            onSend={(text) => setDialog(domainOrAddress(text))}
          />
        )}
      </div>
      {admin && <p className="mb-2 text-sm text-muted">{words.anEntryAppliesAt}</p>}
      {entries.length === 0 ? (
        <Empty title={words.noDomainIsKept}>{words.addOneAboveOr}</Empty>
      ) : (
        <ul className="divide-y divide-line border-y border-line">
          {shown.map((entry) => (
            <li key={entry.id} className="flex flex-wrap items-center gap-x-3 gap-y-0.5 px-1 py-1.5">
              <span>
                {filled(words.whenAParticipantIs, {
                  kind: <span className="sr-only">{entry.kind}</span>,
                  exactlyAt: entry.kind === 'domain' ? (entry.exactly ? words.exactlyAt : words.at) : '',
                  entry: <Address className="font-medium">{entry.value}</Address>,
                  ignoreThat: entry.effect === 'ignore' ? words.ignoreThatParticipant : words.keepTheWholeEmail,
                })}
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
                  <span className="tabular text-sm whitespace-nowrap text-muted">{words.emailIn30Days(took(entry.id))}</span>
                  <Button kind="quiet" aria-label={words.allowAgain(entry.value)} onClick={() => setAllowing(entry)}>
                    {words.allowAgainMore}
                  </Button>
                </span>
              )}
            </li>
          ))}
          {shown.length === 0 && <li className="px-1 py-3 text-muted">{words.noEntryFits(filter)}</li>}
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
      notice(words.undoneEmailsChanged(result.changed));
    },
  });
  const open = steps.data?.steps.filter((step) => step.kind === 'keepOut' && !step.undone).slice(0, 5) ?? [];
  if (open.length === 0) return null;
  return (
    <section className="mt-5" aria-label={words.stepsThatCanBe}>
      <h2 className="mb-1 text-base">{words.doneLately}</h2>
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
              {common.undo}
            </Button>
          </li>
        ))}
      </ul>
      <Trouble error={undo.error} />
    </section>
  );
}
