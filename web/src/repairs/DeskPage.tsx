import type { DeskCase, User } from '@fulvet/contract';
import { useCallback, useMemo, useState } from 'react';
import { useRefreshAll } from '../api/queries';
import { useDesk, useRepair } from './queries';
import { Empty, Purpose, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { clsx } from '../parts/clsx';
import { DayBars } from '../parts/DayBars';
import { useAddressBar } from '../parts/useAddressBar';
import { questionWords } from './deskWords';
import { Question } from './DeskQuestion';
import type { Answer } from './DeskQuestion';
import { deskPage as words } from './words';

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
  // The next question stands there at once. When the list is fetched again it tells by itself what is left; where the answer failed, the question
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
        <div>
          <h1 className="text-xl leading-tight">{words.sortingDesk}</h1>
          <Purpose>{words.emailThatWaitsFor}</Purpose>
        </div>
        <p className="tabular text-muted" role="status">
          {desk.data &&
            words.questionLeftAboutEmail(
              desk.data.left - desk.data.cases.filter((testCase) => answered.has(testCase.key)).length,
              desk.data.emails,
            )}
        </p>
        {user.role === 'admin' && (
          <span>
            <Choice
              label={words.whose}
              value={whose}
              options={[
                { value: 'all', label: words.ofAllMailboxes },
                { value: 'mine', label: words.ofMyMailboxes },
              ]}
              onChange={(value) => set({ whose: value })}
            />
          </span>
        )}
        {arriving.length > 0 && (
          <span className="ml-auto flex items-end gap-2 text-sm text-muted">
            <DayBars perDay={arriving.map((item) => item.emails)} width={110} height={22} />
            {words.aDay(perDay(arriving))}
          </span>
        )}
      </header>
      {desk.isPending && <Waiting what={words.loadingQuestions} />}
      <Trouble error={desk.error} />
      {desk.data && !current && <Empty title={words.nothingWaits}>{words.questionsAppearHereWhen}</Empty>}
      {current && (
        <div className="grid gap-x-8 gap-y-6 xl:grid-cols-[minmax(0,1fr)_minmax(0,26rem)_14rem]">
          <Question
            key={current.key}
            question={current}
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

const SHOWN_IN_QUEUE = 14;

function Queue({ cases }: { cases: readonly DeskCase[] }) {
  return (
    <aside aria-label={words.whatComesNext} className="text-sm max-xl:hidden">
      <h2 className="mb-1 text-muted">{words.then}</h2>
      <ol>
        {cases.slice(1, SHOWN_IN_QUEUE).map((testCase, at) => (
          <li key={testCase.key} className={clsx('flex gap-2 border-b border-line py-1', at === 0 && 'border-t')}>
            <span className="min-w-0 grow truncate">{testCase.subject ?? questionWords(testCase)}</span>
            <span className="tabular text-muted">{testCase.count}</span>
          </li>
        ))}
      </ol>
      {cases.length > SHOWN_IN_QUEUE && <p className="mt-1 text-muted">{words.andMore(cases.length - SHOWN_IN_QUEUE)}</p>}
    </aside>
  );
}
