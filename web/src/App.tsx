import type { User } from '@fulvet/contract';
import { lazy, Suspense } from 'react';
import type { ComponentType } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { Navigate, Route, Routes, useLocation } from 'react-router';
import { useSession } from './api/queries';
import { Gate } from './team/entry/Gate';
import { Frame } from './frame/Frame';
import { EARLIER_PATHS, PAGES } from './frame/pages';
import type { PageId, PageShape } from './frame/pages';
import { Trouble, Waiting } from './parts/basics';
import { Faults } from './parts/Faults';
import { common } from './parts/words';
import { app as words } from './words';

type ShownPage = ComponentType<{ user: User }>;

const PolicyPage = lazy(() => import('./rulebook/PolicyPage'));
const step =
  (step: 'takeIn' | 'match' | 'create' | 'share'): ShownPage =>
  ({ user }) => <PolicyPage key={step} step={step} user={user} />;
const ConnectPage = lazy(() => import('./mailboxes/ConnectPage'));

const SHOWN: Record<PageId, ShownPage> = {
  home: lazy(() => import('./reports/home/HomePage')),
  mailboxes: lazy(() => import('./mailboxes/MailboxesPage')),
  keepOut: lazy(() => import('./rulebook/KeepOutPage')),
  takeIn: step('takeIn'),
  match: step('match'),
  create: step('create'),
  share: step('share'),
  records: () => <Navigate to="/records/account" replace />,
  desk: lazy(() => import('./repairs/DeskPage')),
  allMail: lazy(() => import('./emails/AllMailPage')),
  myMail: lazy(() => import('./histories/MyMailPage')),
  tasks: lazy(() => import('./agenda/TasksPage')),
  meetingTimes: lazy(() => import('./writing/booking/MeetingTimesPage')),
  outgoing: lazy(() => import('./writing/OutgoingPage')),
  templates: lazy(() => import('./writing/templates/TemplatesPage')),
  series: lazy(() => import('./writing/series/SeriesPage')),
  documents: lazy(() => import('./writing/documents/DocumentsPage')),
  unknownPeople: lazy(() => import('./records/UnknownPeoplePage')),
  sharing: lazy(() => import('./sharing/SharingPage')),
  undo: lazy(() => import('./workspace/UndoPage')),
  trials: lazy(() => import('./trials/TrialsPage')),
  tuning: lazy(() => import('./reports/TuningPage')),
  addressLists: lazy(() => import('./rulebook/AddressListsPage')),
  versions: lazy(() => import('./rulebook/VersionsPage')),
  duplicates: lazy(() => import('./records/DuplicatesPage')),
  whoWeAre: lazy(() => import('./rulebook/WhoWeArePage')),
  team: lazy(() => import('./team/TeamPage')),
  workspace: lazy(() => import('./workspace/WorkspacePage')),
  log: lazy(() => import('./workspace/LogPage')),
  account: lazy(() => import('./team/AccountPage')),
  search: lazy(() => import('./emails/SearchPage')),
  connectMailbox: ConnectPage,
  connectMailboxAgain: ConnectPage,
  connectMany: lazy(() => import('./mailboxes/ConnectManyPage')),
  mailImport: lazy(() => import('./mailboxes/ImportPage')),
  mailbox: lazy(() => import('./mailboxes/MailboxPage')),
  recordList: lazy(() => import('./records/RecordsPage')),
  recordsImport: lazy(() => import('./records/RecordsImportPage')),
  record: lazy(() => import('./histories/RecordPage')),
  domain: lazy(() => import('./histories/DomainPage')),
  recordSetup: lazy(() => import('./records/RecordSetupPage')),
  trial: lazy(() => import('./trials/TrialPage')),
};
const SignIn = lazy(() => import('./team/entry/SignIn').then((module) => ({ default: module.SignIn })));
const Join = lazy(() => import('./team/entry/Join').then((module) => ({ default: module.Join })));
const SetUp = lazy(() => import('./team/entry/SetUp').then((module) => ({ default: module.SetUp })));
const SecondFactor = lazy(() => import('./team/SecondFactor').then((module) => ({ default: module.SecondFactor })));

export function App() {
  const session = useSession();
  const client = useQueryClient();
  const { pathname, search } = useLocation();
  const invitation = pathname === '/join' ? new URLSearchParams(search).get('token') : null;
  if (session.isPending) return <Waiting what={common.opening} />;
  if (session.isError) {
    return (
      <main className="mx-auto max-w-md p-8">
        <Trouble error={session.error} />
      </main>
    );
  }
  const { user } = session.data;
  if (!session.data.setUp || !user)
    return (
      <Suspense fallback={<Waiting what={words.loading} />}>
        {!session.data.setUp ? <SetUp /> : invitation === null ? <SignIn session={session.data} /> : <Join token={invitation} />}
      </Suspense>
    );
  if (session.data.needs === 'second factor')
    return (
      <Gate title={words.setUpYourSecond}>
        <p className="mb-4 text-muted">{words.asksEveryMemberFor(session.data.workspace)}</p>
        <Suspense fallback={<Waiting what={words.loading} />}>
          <SecondFactor onDone={() => void client.invalidateQueries()} />
        </Suspense>
      </Gate>
    );
  return (
    <Frame user={user} workspace={session.data.workspace}>
      <Faults place={pathname}>
        <Suspense fallback={<Waiting what={words.loading} />}>
          <Routes>
            {(Object.entries(PAGES) as [PageId, PageShape][]).map(([id, page]) => (
              <Route key={id} path={page.path} element={<Guarded id={id} page={page} user={user} />} />
            ))}
            {EARLIER_PATHS.map(([earlier, now]) => (
              <Route key={earlier} path={`${earlier}/*`} element={<Moved earlier={earlier} now={now} />} />
            ))}
            <Route path="*" element={<Navigate to="/" replace />} />
          </Routes>
        </Suspense>
      </Faults>
    </Frame>
  );
}

function Guarded({ id, page, user }: { id: PageId; page: PageShape; user: User }) {
  const Shown = SHOWN[id];
  return page.guarded && !page.roles.includes(user.role) ? <Navigate to="/" replace /> : <Shown user={user} />;
}

function Moved({ earlier, now }: { earlier: string; now: string }) {
  const { pathname, search } = useLocation();
  return <Navigate to={`${now}${pathname.slice(earlier.length)}${search}`} replace />;
}
