import type { DocketEntry, EmailDetail, User } from '@fulvet/contract';
import { X } from 'lucide-react';
import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { useEmail } from '../api/queries';
import { EmailTasks } from '../agenda/EmailTasks';
import { Attachments } from '../emails/Attachments';
import { besideMeetings, Meetings } from '../emails/Meetings';
import { Measure } from '../emails/Measure';
import { BodyText } from '../emails/BodyText';
import { Filings } from '../emails/Filings';
import { HtmlBody } from '../emails/HtmlBody';
import { KeepOutDialog } from '../decision/KeepOutDialog';
import { Address, Button, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { ENDS, waitsFor, whyInOneSentence } from './whyInOneSentence';
import { clsx } from '../parts/clsx';
import { exactMoment } from '../parts/Moment';
import { OUTCOME_LABELS, OutcomeMark } from '../parts/OutcomeMark';
import { recordPath } from '../parts/people';
import { STEPS } from '../parts/steps';
import { RepairBar } from '../repairs/RepairBar';
import { AnswerButtons } from '../writing/WriteButtons';
import { AskAccess } from '../sharing/AskAccess';
import { WhoSees } from '../sharing/WhoSees';
import { Explained } from '../decision/Explained';
import { ROLE_LABELS, Facts } from './EmailFacts';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { decisionPanel as phrases } from './panel/words';

/** The record of how one email was decided, at the right edge, with the email under it. Esc closes it. */
export default function DecisionPanel({ id, user, onClose }: { id: number; user: User; onClose: () => void }) {
  const email = useEmail(id);
  const panel = useRef<HTMLElement>(null);
  // In the same turn as the panel comes and goes, so that a key pressed right after is not lost.
  useLayoutEffect(() => {
    const before = document.activeElement;
    panel.current?.focus();
    return () => {
      if (before instanceof HTMLElement) before.focus();
    };
  }, []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.key === 'Escape' && !document.querySelector('[role=dialog]')) onClose();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [onClose]);
  return (
    <aside
      ref={panel}
      tabIndex={-1}
      aria-label={common.decision}
      className="fixed inset-y-0 right-0 z-20 flex w-full max-w-[30rem] flex-col overflow-y-auto border-l border-line bg-raised shadow-2xl outline-none"
    >
      <div className="sticky top-0 z-10 flex items-center justify-between border-b border-line bg-raised px-4 py-2">
        <h2 className="text-lg">{common.decision}</h2>
        <Button kind="quiet" aria-label={phrases.closeTheDecision} onClick={onClose}>
          <X size={18} />
        </Button>
      </div>
      {email.isPending && <Waiting what={common.reading} />}
      {email.isError && (
        <div className="px-4">
          <Trouble error={email.error} />
        </div>
      )}
      {email.data && <Decision key={id} email={email.data} user={user} />}
    </aside>
  );
}

function Decision({ email, user }: { email: EmailDetail; user: User }) {
  const [keepOut, setKeepOut] = useState<string | null>(null);
  const { content } = email;
  const outsider = content?.participants.find(
    (participant) => !participant.ours && participant.role !== 'sender' && participant.role !== 'replyTo' && participant.role !== 'claimed',
  );
  const keepable = outsider?.address ?? email.externalDomains[0] ?? null;
  const canKeepOut = user.role === 'admin' && keepable !== null;
  return (
    <div className="px-4 pt-3 pb-10">
      <div className="mb-1 flex items-center gap-2 text-sm">
        <OutcomeMark outcome={email.outcome} label={false} />
        <strong>{OUTCOME_LABELS[email.outcome ?? 'undecided']}</strong>
        <span className="text-muted">
          · {email.direction ?? ''} · {exactMoment(email.at)}
        </span>
      </div>
      <h3 className="text-lg leading-snug break-words">
        {content ? content.subject || common.noSubject : email.outcome === 'kept out' ? phrases.keptOutItsText : phrases.youMayNotRead}
      </h3>
      {!content && email.outcome !== 'kept out' && !email.owned && (
        <>
          <p className="mt-1 text-muted">{phrases.youSeeThatIt(user.role === 'admin', email.sightings[0]?.owner ?? phrases.itsOwner)}</p>
          <AskAccess about={{ scope: 'email', emailId: email.id }} label={phrases.askToReadIt} />
        </>
      )}
      {email.senderCheck === 'failed' && content && <p className="mt-1 text-ochre">{phrases.theServerThatReceived}</p>}
      {content?.participants.some((participant) => participant.role === 'claimed') && (
        <p className="mt-1 text-ochre">{phrases.itWasForwardedNothing}</p>
      )}
      {email.externalDomains.length > 0 && !content && (
        <p className="mt-1">{filled(phrases.with, { externalDomains: <Address>{email.externalDomains.join(', ')}</Address> })}</p>
      )}
      {content && <Content email={email} />}
      {content && user.role !== 'viewer' && <AnswerButtons emailId={email.id} />}
      {content && user.role !== 'viewer' && <EmailTasks email={email} />}
      <section className="mt-4 border-t border-line pt-3" aria-label={phrases.whereItIsFiled}>
        <h3 className="mb-1.5">{phrases.filedUnder}</h3>
        {email.filings.length > 0 ? <Filings filings={email.filings} /> : <p className="text-muted">{phrases.noRecord}</p>}
        {email.questions.map((question, at) => (
          <div key={at} className="mt-3 rounded border border-ochre/50 px-3 py-2">
            <span className="font-medium text-ochre">{waitsFor(question)}</span>
            <ul>
              {question.candidates.map((candidate) => (
                <li key={candidate.id}>
                  <Link className="text-spruce hover:underline" to={recordPath(question.kind, candidate.id)}>
                    {candidate.name}
                  </Link>
                </li>
              ))}
            </ul>
          </div>
        ))}
        <RepairBar email={email} user={user} />
        <WhoSees email={email} user={user} />
      </section>
      <section className="mt-4 border-t border-line pt-3" aria-label={phrases.why}>
        <h3>{phrases.why}</h3>
        {email.docket.length > 0 && <p className="mt-0.5 font-medium break-words">{whyInOneSentence(email)}</p>}
        <Steps docket={email.docket} />
        {email.docket.length > 0 && <Explained email={email} />}
        {canKeepOut && (
          <div className="mt-3">
            <Button onClick={() => setKeepOut(keepable)}>{phrases.keepOut(keepable.slice(keepable.lastIndexOf('@') + 1))}</Button>{' '}
            <MakeRule address={keepable} />
          </div>
        )}
      </section>
      <Facts email={email} />
      {keepOut && <KeepOutDialog address={keepOut} onClose={() => setKeepOut(null)} />}
    </div>
  );
}

/** Begins a rule at a step, with who this email is with filled in. */
function MakeRule({ address }: { address: string }) {
  const go = useNavigate();
  const domain = address.slice(address.lastIndexOf('@') + 1);
  return (
    <span className="inline-block">
      <Choice
        label={phrases.createARuleAt}
        value=""
        shown={phrases.createARule}
        options={STEPS.map(({ path, title }) => ({ value: path, label: title, hint: phrases.aRuleAtAbout(title, domain) }))}
        onChange={(path) => void go(`${path}?rule=${encodeURIComponent(domain)}`)}
      />
    </span>
  );
}

/** People who are ignored are named in the reasons; the rule that ignores them did not let the email through. */
const letsThrough = ({ step, verdict, because }: DocketEntry): boolean =>
  !(step === 'keepOut' && verdict === 'Let through' && because.some((reason) => reason.includes(' is ignored')));

/** The five steps in a column, what each decided, by which rule, on what evidence. */
function Steps({ docket }: { docket: readonly DocketEntry[] }) {
  if (docket.length === 0) return <p className="mt-4 text-muted">{phrases.thisEmailHasNot}</p>;
  return (
    <ol className="mt-4" aria-label={phrases.theFiveSteps}>
      {docket.map((entry, at) => (
        <li key={entry.step} className="relative pb-3 pl-6">
          {at < docket.length - 1 && <span aria-hidden className="absolute top-3 bottom-0 left-[6px] w-1 bg-spruce/25" />}
          <span
            aria-hidden
            className={clsx(
              'absolute top-1 left-[2px] size-3 rounded-full border-2 bg-raised',
              ENDS.has(entry.verdict) ? 'border-brick' : 'border-spruce',
            )}
          />
          <div className="flex flex-wrap items-baseline gap-x-2">
            <span className="font-head font-semibold">{entry.title}</span>
            <span>{entry.verdict}</span>
          </div>
          {entry.ruleText && letsThrough(entry) && <div className="text-sm text-muted">{phrases.by(entry.ruleText)}</div>}
          {entry.because.length > 0 && (
            <ul className="mt-0.5 text-sm break-words">
              {entry.because.map((value) => (
                <li key={value}>{value}</li>
              ))}
            </ul>
          )}
        </li>
      ))}
    </ol>
  );
}

/** Longer texts are shown in part first, in characters: where the email is filed, and why, stays in sight. */
const MUCH_TEXT = 500;

function Content({ email }: { email: EmailDetail }) {
  const { content } = email;
  const [html, setHtml] = useState(false);
  const isLong = (content?.parts ?? []).reduce((sum, part) => sum + part.text.length, 0) > MUCH_TEXT;
  const [whole, setWhole] = useState(!isLong);
  if (!content) return null;
  const lines = (['from', 'claimed', 'sender', 'replyTo', 'to', 'cc', 'bcc'] as const)
    .map((role) => ({ role, people: content.participants.filter((participant) => participant.role === role) }))
    .filter((line) => line.people.length > 0);
  return (
    <section className="mt-2" aria-label={common.theEmail}>
      <dl className="mb-3 grid grid-cols-[5.25rem_1fr] gap-y-0.5 text-sm">
        {lines.map((line) => (
          <div key={line.role} className="contents">
            <dt className="text-muted">{ROLE_LABELS[line.role]}</dt>
            <dd className="min-w-0 break-words">
              {line.people.slice(0, 12).map((person) => (
                <span key={person.address} className="mr-2 inline-block max-w-full">
                  {person.name && <span className={person.ours ? 'text-muted' : 'font-medium'}>{person.name} </span>}
                  <Address className="text-muted">{person.address}</Address>
                </span>
              ))}
              {line.people.length > 12 && <span className="text-muted">{phrases.andMore(line.people.length - 12)}</span>}
            </dd>
          </div>
        ))}
      </dl>
      {content.hasHtml && (
        <div className="mb-2 flex gap-1" role="group" aria-label={phrases.showAs}>
          <Button aria-pressed={!html} kind={html ? 'quiet' : 'plain'} onClick={() => setHtml(false)}>
            {phrases.text}
          </Button>
          <Button aria-pressed={html} kind={html ? 'plain' : 'quiet'} onClick={() => setHtml(true)}>
            {phrases.asSent}
          </Button>
        </div>
      )}
      {html ? (
        <HtmlBody emailId={email.id} />
      ) : (
        <div className={clsx(!whole && 'max-h-52 overflow-hidden [mask-image:linear-gradient(black_75%,transparent)]')}>
          <BodyText parts={content.parts} />
        </div>
      )}
      {!html && isLong && (
        <Button kind="quiet" aria-expanded={whole} onClick={() => setWhole(!whole)}>
          {whole ? phrases.showLess : phrases.showTheWholeText}
        </Button>
      )}
      <Meetings emailId={email.id} meetings={content.meetings} attachments={content.attachments} people={content.participants} />
      {email.measure && <Measure measure={email.measure} />}
      <Attachments emailId={email.id} list={besideMeetings(content.attachments, content.meetings)} />
    </section>
  );
}
