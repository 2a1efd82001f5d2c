import type { DeskCase, RepairRequest, TeamMember, User } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { call } from '../api/call';
import { useEmail, useRefreshAll, useTeam } from '../api/queries';
import { useDesk, useRepair } from './queries';
import { Attachments } from '../emails/Attachments';
import { BodyText } from '../emails/BodyText';
import { isTyping } from '../parts/isTyping';
import { useDocket } from '../parts/useDocket';
import { Button, Empty, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { clsx } from '../parts/clsx';
import { DayBars } from '../parts/DayBars';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { nameOf, recordPath } from '../parts/people';
import { useAddressBar } from '../parts/useAddressBar';
import { FileDialog } from './FileDialog';
import { StartDialog } from './StartDialog';
import { addToDraft } from '../rulebook/addToDraft';
import { questionWords, reachWords } from './deskWords';

/** Where people decide what waits: one question at a time, the answer that settles most first. */
export default function DeskPage({ user }: { user: User }) {
  const [params, set] = useAddressBar();
  const whose = user.role === 'admin' && params.get('whose') !== 'mine' ? 'all' : 'mine';
  const desk = useDesk(whose);
  const [answered, setAnswered] = useState<ReadonlySet<string>>(new Set());
  const [skipped, setSkipped] = useState<readonly string[]>([]);
  const [failed, setFailed] = useState<{ key: string; error: unknown } | null>(null);
  const { mutateAsync: repair } = useRepair({ quietly: true });
  const refresh = useRefreshAll();
  // The next question stands there at once. When the list is fetched anew it tells by itself what is left; where the answer failed, the question
  // comes back and says why.
  const settle = useCallback(
    async (item: DeskCase, what: Answer): Promise<void> => {
      setFailed(null);
      setAnswered((all) => new Set([...all, item.key]));
      try {
        await repair({ emails: item.emails.slice(0, 500), reach: 'conversation', ...what });
        await refresh();
      } catch (error) {
        setFailed({ key: item.key, error });
        setSkipped((all) => all.filter((key) => key !== item.key));
      } finally {
        setAnswered((all) => new Set([...all].filter((key) => key !== item.key)));
      }
    },
    [repair, refresh],
  );
  const cases = useMemo(() => {
    const place = (item: DeskCase): number => (item.key === failed?.key ? 0 : skipped.includes(item.key) ? 2 : 1);
    return (desk.data?.cases ?? []).filter((testCase) => !answered.has(testCase.key)).sort((first, second) => place(first) - place(second));
  }, [desk.data, answered, skipped, failed]);
  const [current] = cases;
  const arriving = desk.data?.arriving ?? [];
  return (
    <div className="px-4 pt-4 pb-16 sm:px-6">
      <header className="mb-4 flex flex-wrap items-end gap-x-6 gap-y-2">
        <h1 className="text-xl leading-tight">Sorting desk</h1>
        <p className="tabular text-muted" role="status">
          {desk.data &&
            `${counted(desk.data.left - desk.data.cases.filter((testCase) => answered.has(testCase.key)).length, 'question')} left, about ${counted(desk.data.emails, 'email')}`}
        </p>
        {user.role === 'admin' && (
          <span>
            <Choice
              label="Whose"
              value={whose}
              options={[
                { value: 'all', label: 'of all mailboxes' },
                { value: 'mine', label: 'of my mailboxes' },
              ]}
              onChange={(value) => set({ whose: value })}
            />
          </span>
        )}
        {arriving.length > 0 && (
          <span className="ml-auto flex items-end gap-2 text-sm text-muted">
            <DayBars perDay={arriving.map((item) => item.emails)} width={110} height={22} />
            {perDay(arriving)} a day
          </span>
        )}
      </header>
      {desk.isPending && <Waiting what="Gathering questions" />}
      <Trouble error={desk.error} />
      {desk.data && !current && (
        <Empty title="Nothing waits">
          Questions appear here when the rules cannot tell a deal or an account for sure, or when a rule asks. What is answered here is
          never asked again.
        </Empty>
      )}
      {current && (
        <div className="grid gap-x-8 gap-y-6 xl:grid-cols-[minmax(0,1fr)_minmax(0,26rem)_14rem]">
          <Question
            key={current.key}
            one={current}
            user={user}
            error={failed?.key === current.key ? failed.error : null}
            onAnswer={settle}
            onPassed={() => setAnswered((all) => new Set([...all, current.key]))}
            onSkip={() => setSkipped((all) => [...all.filter((key) => key !== current.key), current.key])}
          />
          <Queue cases={cases} />
        </div>
      )}
    </div>
  );
}

function perDay(arriving: readonly { emails: number }[]): string {
  const mean = arriving.reduce((sum, item) => sum + item.emails, 0) / arriving.length;
  return mean >= 10 ? Math.round(mean).toString() : mean.toFixed(1);
}

type Answer = Omit<RepairRequest, 'emails' | 'reach'>;

function Question({
  one,
  user,
  error,
  onAnswer,
  onPassed,
  onSkip,
}: {
  one: DeskCase;
  user: User;
  /** Why the answer that was given failed. */
  error: unknown;
  onAnswer: (item: DeskCase, what: Answer) => Promise<void>;
  onPassed: () => void;
  onSkip: () => void;
}) {
  const [always, setAlways] = useState(false);
  const [dialog, setDialog] = useState<'file' | 'start' | null>(null);
  const docket = useDocket();
  const [first = 0] = one.emails;
  const isPerson = one.about === 'person';
  const answer = useCallback((what: Answer) => void onAnswer(one, what), [onAnswer, one]);
  const rule = useAlways(user);
  const choose = useCallback(
    (at: number) => {
      const candidate = one.candidates[at];
      if (!candidate) return;
      if (isPerson && (one.kind === 'contact' || one.kind === 'lead') && one.domain !== null)
        return answer({ secondAddresses: [{ kind: one.kind, id: candidate.id, address: one.domain }] });
      answer({ file: [{ kind: one.kind, id: candidate.id }] });
      if (always) rule(one, candidate);
    },
    [answer, always, one, rule, isPerson],
  );
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      // While a docket is open, the keys are about the email in it.
      if (docket.openId !== null || isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (document.querySelector('[role=dialog]')) return;
      const key = event.key.toLowerCase();
      if (/^[1-9]$/.test(key)) choose(Number(key) - 1);
      else if (key === '0' && !isPerson) answer(noneOf(one));
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
  }, [choose, answer, onSkip, one, isPerson, docket, first]);
  return (
    <>
      <EmailBeside id={first} />
      <section aria-label="The question" className="min-w-0 xl:order-none">
        <h2 className="text-lg leading-snug">{questionWords(one)}</h2>
        <p className="mt-1 text-muted">
          {reachWords(one)}
          {one.passedBy && <strong className="ml-1 font-semibold text-ochre">{one.passedBy} passed it to you.</strong>}
        </p>
        <ol className="mt-3 space-y-1.5">
          {one.candidates.slice(0, 9).map((candidate, at) => (
            <li key={candidate.id}>
              <button
                type="button"
                className="flex w-full gap-3 rounded border border-line bg-raised px-3 py-2 text-left hover:border-spruce"
                onClick={() => choose(at)}
              >
                <kbd className="mt-0.5 h-fit rounded border border-line bg-sunk px-1.5 font-mono text-sm">{at + 1}</kbd>
                <span className="min-w-0 grow">
                  <span className="block font-medium break-words">{candidate.name}</span>
                  <span className="block text-sm break-words text-muted">{candidate.detail}</span>
                  {candidate.why.length > 0 && <span className="block text-sm break-words text-muted">{candidate.why.join(' · ')}</span>}
                </span>
                {candidate.score !== null && <span className="tabular text-sm text-muted">{candidate.score.toFixed(2)}</span>}
              </button>
            </li>
          ))}
        </ol>
        <div className="mt-3 flex flex-wrap gap-1.5">
          {!isPerson && one.about !== 'hold' && (
            <Button onClick={() => answer(noneOf(one))}>
              {one.about === 'deal' ? 'No deal' : one.about === 'account' ? 'No account' : 'None'} <K>0</K>
            </Button>
          )}
          <Button onClick={() => setDialog('file')}>
            Another … <K>F</K>
          </Button>
          <Button onClick={() => setDialog('start')}>
            {isPerson ? 'Start a record …' : 'Start records …'} <K>N</K>
          </Button>
          <Button onClick={() => answer({ settle: true })}>
            {isPerson ? 'Nobody to keep' : 'Leave it as it stands'} <K>L</K>
          </Button>
        </div>
        <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1.5 border-t border-line pt-3 text-sm">
          {user.role === 'admin' && !isPerson && one.candidates.length > 0 && (
            <label className="flex items-center gap-1.5">
              <input type="checkbox" checked={always} onChange={(event) => setAlways(event.target.checked)} /> Always so <K>A</K>
              {always && <span className="text-muted">a rule goes into the draft</span>}
            </label>
          )}
          <Button kind="quiet" onClick={onSkip}>
            Skip <K>K</K>
          </Button>
          <Pass one={one} user={user} onPassed={onPassed} />
          <Button kind="quiet" onClick={() => docket.open(first)}>
            Docket <K>D</K>
          </Button>
        </div>
        <Trouble error={error} />
      </section>
      {dialog === 'file' && <FileDialog emails={one.emails} onClose={() => setDialog(null)} />}
      {dialog === 'start' && <StartDialog emails={one.emails} onClose={() => setDialog(null)} />}
    </>
  );
}

function noneOf(item: DeskCase): Answer {
  if (item.about === 'deal' || item.about === 'account') return { takeOff: [{ kind: item.about, id: null }] };
  return { settle: true };
}

function K({ children }: { children: string }) {
  return <kbd className="ml-0.5 font-mono text-xs text-muted">{children}</kbd>;
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
          name: `${who} under ${candidate.name}`,
          note: 'Always so, from the sorting desk.',
          when: { fact: 'participant', which: 'any', test: { is: 'address', value: who } },
          then: { do: 'fileUnder', kind: item.kind, id: candidate.id, name: candidate.name },
        });
        notice(`The draft has a rule now: mail with ${who} goes under ${candidate.name}.`);
      };
      put().catch((error: unknown) => notice(error instanceof Error ? error.message : 'The rule could not be put into the draft.'));
    },
    [notice, user.role],
  );
}

function Pass({ one, user, onPassed }: { one: DeskCase; user: User; onPassed: () => void }) {
  const team = useTeam();
  const notice = useNotice();
  const refresh = useRefreshAll();
  const pass = useMutation({
    mutationFn: (to: TeamMember) => call('passCase', { body: { emails: one.emails, to: to.id } }),
    onSuccess: async (_, to) => {
      onPassed();
      await refresh();
      notice(`Passed to ${to.name}.`);
    },
    onError: (error) => notice(error.message),
  });
  const others = (team.data?.members ?? []).filter((member) => member.id !== user.id && member.role !== 'viewer');
  if (others.length === 0) return null;
  return (
    <Choice
      label="Pass to"
      shown="Pass to …"
      value=""
      options={others.map((member) => ({ value: String(member.id), label: member.name, hint: member.email }))}
      onChange={(id) => {
        const to = others.find((member) => String(member.id) === id);
        if (to) pass.mutate(to);
      }}
    />
  );
}

/** The newest of the emails that the question is about. */
function EmailBeside({ id }: { id: number }) {
  const email = useEmail(id);
  if (email.isPending) return <Waiting what="Reading" />;
  if (email.isError) return <Trouble error={email.error} />;
  const { data } = email;
  const { content } = data;
  return (
    <article
      aria-label="The email"
      className="order-last min-w-0 self-start rounded-md border border-line bg-raised px-4 py-3 xl:order-first"
    >
      {content ? (
        <>
          <h3 className="text-lg leading-snug break-words">{content.subject || '(no subject)'}</h3>
          <p className="mb-3 text-sm break-words text-muted">
            {content.participants
              .filter((participant) => participant.role === 'from')
              .map(nameOf)
              .join(', ')}{' '}
            to{' '}
            {content.participants
              .filter((participant) => participant.role === 'to' || participant.role === 'cc')
              .slice(0, 6)
              .map(nameOf)
              .join(', ')}{' '}
            · <Moment at={data.at} />
          </p>
          <BodyText parts={content.parts} />
          <Attachments emailId={id} list={content.attachments} />
        </>
      ) : (
        <p className="text-muted italic">
          Not yours to read: who uses {data.sightings.map((sighting) => sighting.mailbox).join(', ')} decides about it.
        </p>
      )}
      {data.filings.length > 0 && (
        <p className="mt-3 border-t border-line pt-2 text-sm text-muted">
          Stands under{' '}
          {data.filings.map((filing, at) => (
            <span key={`${filing.kind}${filing.id}`}>
              {at > 0 && ', '}
              <Link className="text-spruce hover:underline" to={recordPath(filing.kind, filing.id)}>
                {filing.name}
              </Link>
            </span>
          ))}
        </p>
      )}
    </article>
  );
}

const SHOWN_IN_QUEUE = 14;

function Queue({ cases }: { cases: readonly DeskCase[] }) {
  return (
    <aside aria-label="What comes next" className="text-sm max-xl:hidden">
      <h2 className="mb-1 text-muted">Then</h2>
      <ol>
        {cases.slice(1, SHOWN_IN_QUEUE).map((testCase, at) => (
          <li key={testCase.key} className={clsx('flex gap-2 border-b border-line py-1', at === 0 && 'border-t')}>
            <span className="min-w-0 grow truncate">{testCase.subject ?? questionWords(testCase)}</span>
            <span className="tabular text-muted">{testCase.count}</span>
          </li>
        ))}
      </ol>
      {cases.length > SHOWN_IN_QUEUE && <p className="mt-1 text-muted">and {cases.length - SHOWN_IN_QUEUE} more</p>}
    </aside>
  );
}
