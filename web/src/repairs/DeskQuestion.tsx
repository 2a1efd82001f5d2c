import type { DeskCase, RepairRequest, TeamMember, User } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { Fragment, useCallback, useEffect, useState } from 'react';
import { call } from '../api/call';
import { useRefreshAll, useTeam } from '../api/queries';
import { isTyping } from '../parts/isTyping';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Button, Trouble } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { momentText } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { FileDialog } from './FileDialog';
import { StartDialog } from './StartDialog';
import { addToDraft } from '../rulebook/addToDraft';
import { questionWords, reachWords } from './deskWords';
import { EmailBeside } from './EmailBeside';
import { common } from '../parts/words';
import { deskQuestion as texts } from './words';

export type Answer = Omit<RepairRequest, 'emails' | 'reach'>;

export function Question({
  question,
  user,
  error,
  onAnswer,
  onPassed,
  onSkip,
}: {
  question: DeskCase;
  user: User;
  /** Why the answer that was given failed. */
  error: unknown;
  onAnswer: (item: DeskCase, what: Answer) => Promise<void>;
  onPassed: () => void;
  onSkip: () => void;
}) {
  const [always, setAlways] = useState(false);
  const [dialog, setDialog] = useState<'file' | 'start' | null>(null);
  const docket = useDecisionPanel();
  const [first = 0] = question.emails;
  const isPerson = question.about === 'person';
  const answer = useCallback((what: Answer) => void onAnswer(question, what), [onAnswer, question]);
  const same = sameOfAll(question.candidates.map((candidate) => candidate.detail.split(PART)));
  const rule = useAlways(user);
  const choose = useCallback(
    (at: number) => {
      const candidate = question.candidates[at];
      if (!candidate) return;
      if (isPerson && (question.kind === 'contact' || question.kind === 'lead') && question.domain !== null)
        return answer({ secondAddresses: [{ kind: question.kind, id: candidate.id, address: question.domain }] });
      answer({ file: [{ kind: question.kind, id: candidate.id }] });
      if (always) rule(question, candidate);
    },
    [answer, always, question, rule, isPerson],
  );
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      // While a decision is open, the keys are about the email in it.
      if (docket.openId !== null || isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (document.querySelector('[role=dialog]')) return;
      const key = event.key.toLowerCase();
      if (/^[1-9]$/.test(key)) choose(Number(key) - 1);
      else if (key === '0' && !isPerson) answer(noneOf(question));
      else if (key === 'l') answer({ settle: true });
      else if (key === 'f') setDialog('file');
      else if (key === 'n') setDialog('start');
      else if (key === 'k') onSkip();
      else if (key === 'a' && !isPerson) setAlways((before) => !before);
      else if (key === 'd') docket.open(first);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [choose, answer, onSkip, question, isPerson, docket, first]);
  return (
    <>
      <EmailBeside id={first} />
      <section aria-label={texts.theQuestion} className="min-w-0 xl:order-none">
        <h2 className="text-lg leading-snug">{questionWords(question)}</h2>
        <p className="mt-1 text-muted">
          {reachWords(question)}
          {question.passedBy && <strong className="ml-1 font-semibold text-ochre">{texts.passedItToYou(question.passedBy)}</strong>}
        </p>
        <ol className="mt-3 space-y-1.5">
          {question.candidates.slice(0, 9).map((candidate, at) => (
            <li key={candidate.id}>
              <button
                type="button"
                className="flex w-full gap-3 rounded border border-line bg-raised px-3 py-2 text-left hover:border-spruce"
                onClick={() => choose(at)}
              >
                <kbd className="mt-0.5 h-fit rounded border border-line bg-sunk px-1.5 font-mono text-sm max-sm:hidden">{at + 1}</kbd>
                <span className="min-w-0 grow">
                  <span className="block font-medium break-words">{candidate.name}</span>
                  <Detail parts={candidate.detail.split(PART)} same={same} />
                  {candidate.why.length > 0 && <span className="block text-sm break-words text-muted">{candidate.why.join(' · ')}</span>}
                </span>
                {candidate.score !== null && (
                  <span className="tabular text-sm whitespace-nowrap text-muted">{texts.fits(Math.round(candidate.score * 100))}</span>
                )}
              </button>
            </li>
          ))}
        </ol>
        <div className="mt-3 flex flex-wrap gap-1.5">
          {!isPerson && question.about !== 'hold' && (
            <Button onClick={() => answer(noneOf(question))}>
              {question.about === 'deal' ? texts.noDeal : question.about === 'account' ? texts.noAccount : texts.none} <K>0</K>
            </Button>
          )}
          <Button onClick={() => setDialog('file')}>
            {texts.anotherRecord} <K>F</K>
          </Button>
          <Button onClick={() => setDialog('start')}>
            {isPerson ? texts.createARecord : texts.createRecords} <K>N</K>
          </Button>
          <Button onClick={() => answer({ settle: true })}>
            {isPerson ? texts.createNoRecord : texts.leaveItUnchanged} <K>L</K>
          </Button>
        </div>
        <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1.5 border-t border-line pt-3 text-sm">
          {user.role === 'admin' && !isPerson && question.candidates.length > 0 && (
            <label className="flex items-center gap-1.5">
              <input type="checkbox" checked={always} onChange={(event) => setAlways(event.target.checked)} /> {texts.addARuleThat}{' '}
              <K>{texts.a}</K>
              {always && <span className="text-muted">{texts.toTheDraft}</span>}
            </label>
          )}
          <Button kind="quiet" onClick={onSkip}>
            {texts.skip} <K>K</K>
          </Button>
          <Pass question={question} user={user} onPassed={onPassed} />
          <Button kind="quiet" onClick={() => docket.open(first)}>
            {common.decision} <K>D</K>
          </Button>
        </div>
        <Trouble error={error} />
      </section>
      {dialog === 'file' && <FileDialog emails={question.emails} onClose={() => setDialog(null)} />}
      {dialog === 'start' && <StartDialog emails={question.emails} onClose={() => setDialog(null)} />}
    </>
  );
}

const PART = ' · ';

/** A detail with its date as dates are shown everywhere. */
const inWords = (part: string): string => part.replace(/\d{4}-\d{2}-\d{2}/, (day) => momentText(new Date(`${day}T12:00:00`), Date.now()));

/** What all candidates have in common: it does not tell them apart. */
function sameOfAll(details: readonly (readonly string[])[]): ReadonlySet<string> {
  const [first = [], ...others] = details;
  return new Set(others.length === 0 ? [] : first.filter((part) => others.every((parts) => parts.includes(part))));
}

/** What is known of a candidate. Where there are several, what differs between them stands out. */
function Detail({ parts, same }: { parts: readonly string[]; same: ReadonlySet<string> }) {
  return (
    <span className="block text-sm break-words text-muted">
      {parts.map((part, at) => (
        <Fragment key={part}>
          {at > 0 && PART}
          {same.size > 0 && !same.has(part) ? <strong className="font-medium text-ink">{inWords(part)}</strong> : inWords(part)}
        </Fragment>
      ))}
    </span>
  );
}

function noneOf(item: DeskCase): Answer {
  if (item.about === 'deal' || item.about === 'account') return { takeOff: [{ kind: item.about, id: null }] };
  return { settle: true };
}

function K({ children }: { children: string }) {
  return <kbd className="ml-0.5 font-mono text-xs text-muted max-sm:hidden">{children}</kbd>;
}

/** Puts a rule into the draft that answers alike from now on, for mail with this person. */
function useAlways(user: User): (item: DeskCase, candidate: DeskCase['candidates'][number]) => void {
  const notice = useNotice();
  return useCallback(
    (item, candidate) => {
      if (user.role !== 'admin' || !item.from) return;
      const who = item.from.address;
      const put = async (): Promise<void> => {
        await addToDraft('match', {
          name: texts.ruleName(who, candidate.name),
          note: texts.alwaysFromTheSorting,
          when: { fact: 'participant', which: 'any', test: { is: 'address', value: who } },
          then: { do: 'fileUnder', kind: item.kind, id: candidate.id, name: candidate.name },
        });
        notice(texts.addedToTheDraft(who, candidate.name));
      };
      put().catch((error: unknown) => notice(error instanceof Error ? error.message : texts.theRuleCouldNot));
    },
    [notice, user.role],
  );
}

function Pass({ question, user, onPassed }: { question: DeskCase; user: User; onPassed: () => void }) {
  const team = useTeam();
  const notice = useNotice();
  const refresh = useRefreshAll();
  const pass = useMutation({
    mutationFn: (to: TeamMember) => call('passCase', { body: { emails: question.emails, to: to.id } }),
    onSuccess: async (_, to) => {
      onPassed();
      await refresh();
      notice(texts.passedTo(to.name));
    },
    onError: (error) => notice(error.message),
  });
  const others = (team.data?.members ?? []).filter((member) => member.id !== user.id && member.role !== 'viewer');
  if (others.length === 0) return null;
  return (
    <Choice
      label={texts.passTo}
      shown={texts.passToSomeone}
      value=""
      options={others.map((member) => ({ value: String(member.id), label: member.name, hint: member.email }))}
      onChange={(id) => {
        const to = others.find((member) => String(member.id) === id);
        if (to) pass.mutate(to);
      }}
    />
  );
}
