import { lazy, Suspense } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { Navigate, Route, Routes, useLocation } from 'react-router';
import { useSession } from './api/queries';
import { Gate } from './team/entry/Gate';
import { Join } from './team/entry/Join';
import { SetUp } from './team/entry/SetUp';
import { SignIn } from './team/entry/SignIn';
import { Frame } from './frame/Frame';
import { Trouble, Waiting } from './parts/basics';

const Arriving = lazy(() => import('./reports/ArrivingPage'));
const Register = lazy(() => import('./emails/RegisterPage'));
const SearchPage = lazy(() => import('./emails/SearchPage'));
const KeepOutPage = lazy(() => import('./rulebook/KeepOutPage'));
const PolicyPage = lazy(() => import('./rulebook/PolicyPage'));
const MailboxesPage = lazy(() => import('./mailboxes/MailboxesPage'));
const MailboxPage = lazy(() => import('./mailboxes/MailboxPage'));
const ConnectPage = lazy(() => import('./mailboxes/ConnectPage'));
const ConnectManyPage = lazy(() => import('./mailboxes/ConnectManyPage'));
const ImportPage = lazy(() => import('./mailboxes/ImportPage'));
const RecordsPage = lazy(() => import('./records/RecordsPage'));
const RecordPage = lazy(() => import('./histories/RecordPage'));
const RecordsImportPage = lazy(() => import('./records/RecordsImportPage'));
const TrialsPage = lazy(() => import('./trials/TrialsPage'));
const TrialPage = lazy(() => import('./trials/TrialPage'));
const KeptListsPage = lazy(() => import('./rulebook/KeptListsPage'));
const TuningPage = lazy(() => import('./reports/TuningPage'));
const WhoWeArePage = lazy(() => import('./rulebook/WhoWeArePage'));
const VersionsPage = lazy(() => import('./rulebook/VersionsPage'));
const DeskPage = lazy(() => import('./repairs/DeskPage'));
const MyMailPage = lazy(() => import('./histories/MyMailPage'));
const DuplicatesPage = lazy(() => import('./records/DuplicatesPage'));
const StrangersPage = lazy(() => import('./records/StrangersPage'));
const DomainPage = lazy(() => import('./histories/DomainPage'));
const RecordSetupPage = lazy(() => import('./records/RecordSetupPage'));
const TeamPage = lazy(() => import('./team/TeamPage'));
const SharingPage = lazy(() => import('./sharing/SharingPage'));
const AccountPage = lazy(() => import('./team/AccountPage'));
const WorkspacePage = lazy(() => import('./workspace/WorkspacePage'));
const UndoPage = lazy(() => import('./workspace/UndoPage'));
const LogPage = lazy(() => import('./workspace/LogPage'));
const SecondFactor = lazy(() => import('./team/SecondFactor').then((module) => ({ default: module.SecondFactor })));

export function App() {
  const session = useSession();
  const client = useQueryClient();
  const { pathname, search } = useLocation();
  const invitation = pathname === '/join' ? new URLSearchParams(search).get('token') : null;
  if (session.isPending) return <Waiting what="Opening" />;
  if (session.isError) {
    return (
      <main className="mx-auto max-w-md p-8">
        <Trouble error={session.error} />
      </main>
    );
  }
  if (!session.data.setUp) return <SetUp />;
  if (!session.data.user && invitation !== null) return <Join token={invitation} />;
  if (!session.data.user) return <SignIn session={session.data} />;
  if (session.data.needs === 'second factor')
    return (
      <Gate title="Set up your second factor first">
        <p className="mb-4 text-muted">{session.data.workspace} asks every member for one.</p>
        <Suspense fallback={<Waiting what="Loading" />}>
          <SecondFactor onDone={() => void client.invalidateQueries()} />
        </Suspense>
      </Gate>
    );
  return (
    <Frame user={session.data.user} workspace={session.data.workspace}>
      <Suspense fallback={<Waiting what="Loading" />}>
        <Routes>
          <Route index element={<Arriving user={session.data.user} />} />
          <Route path="register" element={<Register user={session.data.user} />} />
          <Route path="search" element={<SearchPage />} />
          <Route path="mailboxes" element={<MailboxesPage user={session.data.user} />} />
          <Route path="mailboxes/imports/:id" element={<ImportPage />} />
          <Route path="mailboxes/connect" element={<ConnectPage user={session.data.user} />} />
          <Route path="mailboxes/connect/:id" element={<ConnectPage user={session.data.user} />} />
          <Route path="mailboxes/many" element={<ConnectManyPage />} />
          <Route path="mailboxes/:id" element={<MailboxPage user={session.data.user} />} />
          <Route path="keep-out" element={<KeepOutPage user={session.data.user} />} />
          <Route path="take-in" element={<PolicyPage key="takeIn" stop="takeIn" user={session.data.user} />} />
          <Route path="match" element={<PolicyPage key="match" stop="match" user={session.data.user} />} />
          <Route path="create" element={<PolicyPage key="create" stop="create" user={session.data.user} />} />
          <Route path="share" element={<PolicyPage key="share" stop="share" user={session.data.user} />} />
          <Route path="histories" element={<Navigate to="/histories/account" replace />} />
          <Route path="histories/:kind" element={<RecordsPage user={session.data.user} />} />
          <Route path="histories/:kind/import" element={<RecordsImportPage />} />
          <Route path="histories/:kind/:id" element={<RecordPage user={session.data.user} />} />
          <Route path="domains/:domain" element={<DomainPage user={session.data.user} />} />
          <Route path="desk" element={<DeskPage user={session.data.user} />} />
          <Route path="my-mail" element={<MyMailPage user={session.data.user} />} />
          <Route path="duplicates/:kind" element={<DuplicatesPage />} />
          <Route path="strangers" element={<StrangersPage user={session.data.user} />} />
          <Route path="record-setup/:kind" element={<RecordSetupPage />} />
          <Route path="undo" element={<UndoPage />} />
          <Route path="trials" element={<TrialsPage />} />
          <Route path="trials/:id" element={<TrialPage />} />
          <Route path="kept-lists" element={<KeptListsPage />} />
          <Route path="tuning" element={<TuningPage />} />
          <Route path="who-we-are" element={session.data.user.role === 'admin' ? <WhoWeArePage /> : <Navigate to="/" replace />} />
          <Route path="versions" element={<VersionsPage />} />
          <Route path="sharing" element={<SharingPage user={session.data.user} />} />
          <Route path="account" element={<AccountPage user={session.data.user} />} />
          <Route path="workspace" element={session.data.user.role === 'admin' ? <WorkspacePage /> : <Navigate to="/" replace />} />
          <Route path="log" element={<LogPage user={session.data.user} />} />
          <Route path="team" element={<TeamPage user={session.data.user} />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
    </Frame>
  );
}
