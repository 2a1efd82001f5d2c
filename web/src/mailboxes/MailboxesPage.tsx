import type { ImportRun, User } from '@fulvet/contract';
import { Link } from 'react-router';
import { useImports, useMailboxes } from '../api/queries';
import { Address, Empty, Page, Progress, Trouble } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { count } from '../parts/numbers';
import { ImportMail } from './ImportMail';

/** Whose mail is here, and the way to bring more. */
export default function MailboxesPage({ user }: { user: User }) {
  const mailboxes = useMailboxes();
  const canImport = user.role !== 'viewer';
  const imports = useImports(canImport);
  return (
    <Page title="Mailboxes" wide>
      {canImport && <ImportMail user={user} mailboxes={mailboxes.data?.mailboxes ?? []} />}
      <Trouble error={mailboxes.error} />
      <div className="mt-6 grid gap-8 lg:grid-cols-2">
        <section aria-label="Mailboxes">
          <h2 className="mb-1 text-lg">Mailboxes</h2>
          {mailboxes.data?.mailboxes.length === 0 && (
            <Empty title="No mailbox yet">Drop a mailbox file above, and say whose mailbox it is.</Empty>
          )}
          <ul className="divide-y divide-line border-y border-line">
            {mailboxes.data?.mailboxes.map((one) => (
              <li key={one.id}>
                <Link
                  to={`/register?mailbox=${encodeURIComponent(one.address)}`}
                  className="flex items-baseline gap-3 px-1 py-1.5 hover:bg-sunk"
                >
                  <span className="min-w-0 grow">
                    <Address>{one.address}</Address>
                    <span className="block text-sm text-muted">{one.owner}</span>
                  </span>
                  <span className="tabular whitespace-nowrap">{count(one.emails)} emails</span>
                  <span className="w-20 text-right text-sm whitespace-nowrap text-muted">{one.newest && <Moment at={one.newest} />}</span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
        {canImport && (
          <section aria-label="Imports">
            <h2 className="mb-1 text-lg">Imports</h2>
            <ul className="divide-y divide-line border-y border-line">
              {imports.data?.imports
                .filter((run) => run.state !== 'open')
                .map((run) => (
                  <ImportLine key={run.id} run={run} />
                ))}
            </ul>
            {imports.data?.imports.length === 0 && <p className="text-muted">None yet.</p>}
          </section>
        )}
      </div>
    </Page>
  );
}

function ImportLine({ run }: { run: ImportRun }) {
  const { counts } = run;
  const running = run.state === 'queued' || run.state === 'running';
  return (
    <li>
      <Link to={`/mailboxes/imports/${run.id}`} className="block px-1 py-1.5 hover:bg-sunk">
        <span className="flex items-baseline gap-3">
          <span className="min-w-0 grow truncate">
            {run.files[0] ?? 'no file'}
            {run.files.length > 1 && ` and ${run.files.length - 1} more`}
          </span>
          <span className="text-sm text-muted">{running ? (run.phase === 'deciding' ? 'deciding' : 'reading') : run.state}</span>
          <Moment at={run.createdAt} className="w-20 text-right text-sm text-muted" />
        </span>
        {running ? (
          <Progress
            label="Import"
            done={run.phase === 'deciding' ? counts.decided : run.readBytes}
            total={run.phase === 'deciding' ? counts.toDecide : run.totalBytes}
          />
        ) : (
          <span className="tabular block text-sm text-muted">
            {count(counts.new)} new, {count(counts.otherSighting)} seen elsewhere too, {count(counts.known)} already here
            {counts.unreadable > 0 && `, ${count(counts.unreadable)} unreadable`}
          </span>
        )}
      </Link>
    </li>
  );
}
