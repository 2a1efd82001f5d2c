import type { User } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useAudit } from './queries';
import { queryOf } from '../api/client';
import { call } from '../api/call';
import { useTeam } from '../api/queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Button, Empty, Field, Page, Trouble } from '../parts/basics';
import { exactMoment, Moment } from '../parts/Moment';
import { Option, Select } from '../parts/Select';
import { TypedFilter } from '../parts/TypedFilter';
import { useAddressBar } from '../parts/useAddressBar';
import { DatePicker } from '../parts/DatePicker';
import { common } from '../parts/words';
import { logPage as texts } from './words';

/** What was done with mail and settings, the latest first: one's own and what concerns one; for administrators all of the workspace. */
export default function LogPage({ user }: { user: User }) {
  const [params, set] = useAddressBar();
  const query = {
    ...(params.get('kind') ? { kind: params.get('kind') ?? '' } : {}),
    ...(params.get('text') ? { text: params.get('text') ?? '' } : {}),
    ...(params.get('member') ? { member: Number(params.get('member')) } : {}),
    ...(params.get('from') ? { from: params.get('from') ?? '' } : {}),
    ...(params.get('until') ? { until: params.get('until') ?? '' } : {}),
  };
  const log = useAudit(query);
  const team = useTeam();
  const docket = useDecisionPanel();
  const check = useMutation({ mutationFn: () => call('checkAudit') });
  const pages = log.data?.pages ?? [];
  const entries = pages.flatMap((page) => page.entries);
  return (
    <Page
      purpose={texts.whoDidExportedOr}
      title={user.role === 'admin' ? texts.logOfTheWorkspace : texts.logYoursAndWhat}
      wide
      aside={
        <span className="flex flex-wrap items-center gap-2">
          {user.role === 'admin' && (
            <Button disabled={check.isPending} onClick={() => check.mutate()}>
              {check.isPending ? texts.computing : texts.proveThatNothingWas}
            </Button>
          )}
          <a className="text-spruce hover:underline" href={`/api/v1/export/audit${queryOf(query)}`} download>
            {texts.exportAsJsonLines}
          </a>
        </span>
      }
    >
      {check.data && (
        <p
          role="status"
          className={`mb-3 rounded border px-3 py-2 ${check.data.intact ? 'border-moss/50 text-moss' : 'border-brick/50 text-brick'}`}
        >
          {check.data.intact ? texts.allEntriesAreAs(check.data.entries) : texts.theLogIsNot(check.data.broken.slice(0, 3).join(' '))}
        </p>
      )}
      <div className="mb-3 grid gap-3 sm:grid-cols-2 lg:grid-cols-5">
        <div>
          <span className="mb-1 block text-sm font-medium">{common.words}</span>
          <TypedFilter
            label={texts.wordsInTheLog}
            name="text"
            value={params.get('text') ?? ''}
            onSet={(_, text) => set({ text })}
            placeholder="any"
          />
        </div>
        <Field label={texts.what}>
          <Select value={params.get('kind') ?? ''} onValue={(value) => set({ kind: value })}>
            <Option value="">{texts.everything}</Option>
            {pages[0]?.kinds.map((kind) => (
              <Option value={kind} key={kind}>
                {kind}
              </Option>
            ))}
          </Select>
        </Field>
        <Field label={texts.whoDidItOr}>
          <Select value={params.get('member') ?? ''} onValue={(value) => set({ member: value })}>
            <Option value="">{texts.anyone}</Option>
            {team.data?.members.map((member) => (
              <Option key={member.id} value={member.id}>
                {member.name}
              </Option>
            ))}
          </Select>
        </Field>
        <div>
          <span className="mb-1 block text-sm font-medium">{common.from}</span>
          <DatePicker label={common.from} value={params.get('from') ?? ''} onValue={(value) => set({ from: value })} />
        </div>
        <div>
          <span className="mb-1 block text-sm font-medium">{common.until}</span>
          <DatePicker label={common.until} value={params.get('until') ?? ''} onValue={(value) => set({ until: value })} />
        </div>
      </div>
      <Trouble error={log.error ?? check.error} />
      {log.data && entries.length === 0 && <Empty title={texts.nothingOfThatKind}>{common.removeAFilterTo}</Empty>}
      <ul className="divide-y divide-line border-y border-line empty:hidden" aria-label={texts.entries}>
        {entries.map((entry) => (
          <li key={entry.hash} className="grid items-baseline gap-x-3 px-1 py-1.5 sm:grid-cols-[6rem_8rem_11rem_1fr]">
            <span className="text-muted" title={exactMoment(entry.at)}>
              <Moment at={entry.at} />
            </span>
            <span className="text-sm">{entry.kind}</span>
            <span className="font-medium">{entry.actor || texts.someone}</span>
            <span className="min-w-0 break-words">
              {entry.about}
              {entry.emailId !== null && (
                <>
                  {' '}
                  <button type="button" className="text-spruce hover:underline" onClick={() => docket.open(entry.emailId ?? 0)}>
                    {texts.which}
                  </button>
                </>
              )}
              {entry.subject && entry.subject !== entry.actor && <span className="text-muted"> {texts.concerns(entry.subject)}</span>}
            </span>
          </li>
        ))}
      </ul>
      {log.hasNextPage && (
        <Button className="mt-3" disabled={log.isFetchingNextPage} onClick={() => void log.fetchNextPage()}>
          {texts.earlierEntries}
        </Button>
      )}
    </Page>
  );
}
