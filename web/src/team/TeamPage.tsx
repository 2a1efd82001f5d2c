import type { Role, TeamMember, User } from '@fulvet/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { useSharing } from '../sharing/useSharing';
import { call } from '../api/call';
import { useTeam } from '../api/queries';
import { OutsideAddresses } from '../mailboxes/OutsideAddresses';
import { Address, Page, Together, Trouble } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { Invitations } from './Invitations';
import { Teams } from './Teams';
import { ROLE_OPTIONS, Leave, SetPassword, AddMember } from './MemberDialogs';
import { common } from '../parts/words';
import { teamPage as words } from './words';

/** Who is on the team, in which teams, and who is asked to join. */
export default function TeamPage({ user }: { user: User }) {
  const team = useTeam();
  const admin = user.role === 'admin';
  return (
    <Page
      purpose={words.whoWorksWithFulvet}
      title={words.team}
      wide
      aside={
        admin ? (
          <Link className="text-spruce hover:underline" to="/workspace">
            {words.workspaceSettings}
          </Link>
        ) : undefined
      }
    >
      <Together className="grid gap-10 lg:grid-cols-2">
        <section aria-label={words.team}>
          <h2 className="mb-1 text-lg">{common.members}</h2>
          <Trouble error={team.error} />
          <ul className="divide-y divide-line border-y border-line">
            {team.data?.members.map((member) => (
              <Member key={member.id} member={member} user={user} members={team.data.members} />
            ))}
          </ul>
          {admin && <AddMember />}
        </section>
        <div>
          {admin && <Invitations />}
          <Teams members={team.data?.members ?? []} admin={admin} />
          {admin && <OutsideAddresses />}
        </div>
      </Together>
    </Page>
  );
}

function Member({ member, user, members }: { member: TeamMember; user: User; members: readonly TeamMember[] }) {
  const [open, setOpen] = useState<'password' | 'leave' | null>(null);
  const admin = user.role === 'admin';
  const change = useSharing(
    (role: Role) => call('changeMember', { id: member.id, body: { role } }),
    (role) => words.isFromNowOn(member.name, role),
  );
  const act = useSharing(
    (what: 'activateMember' | 'resetSecondFactor') => call(what, { id: member.id }),
    (what) => (what === 'activateMember' ? words.maySignInAgain(member.name) : words.nowSignsInWith(member.name)),
  );
  return (
    <li className={`px-1 py-1.5 ${member.active ? '' : 'text-muted'}`}>
      <div className="flex flex-wrap items-baseline gap-x-3">
        <span className="min-w-0 grow basis-40">
          {member.name} {!member.active && <span className="text-sm">{words.hasLeft}</span>}
          <Address className="block text-muted">{member.email}</Address>
        </span>
        {admin && member.active ? (
          <Choice label={words.roleOf(member.name)} value={member.role} options={ROLE_OPTIONS} onChange={(role) => change.mutate(role)} />
        ) : (
          <span className="text-sm">{member.role}</span>
        )}
        {admin && (
          <Choice
            label={words.moreAbout(member.name)}
            value=""
            shown="more"
            options={
              member.active
                ? [
                    {
                      value: 'password',
                      label: member.hasPassword ? words.setANewPassword : words.letSignIn,
                      hint: words.theyAreNotifiedAnd,
                    },
                    ...(member.secondFactor ? [{ value: 'factor', label: words.removeALostSecond, hint: words.theyAreNotified }] : []),
                    ...(member.id === user.id ? [] : [{ value: 'leave', label: words.leavesTheTeam, hint: words.endsAllAccessAnd }]),
                  ]
                : [{ value: 'activate', label: words.activateMemberAgain, hint: words.mailboxesAndRecordsStay }]
            }
            onChange={(verb) => {
              if (verb === 'password' || verb === 'leave') setOpen(verb);
              else act.mutate(verb === 'activate' ? 'activateMember' : 'resetSecondFactor');
            }}
          />
        )}
      </div>
      {open === 'password' && <SetPassword member={member} onDone={() => setOpen(null)} />}
      {open === 'leave' && <Leave member={member} user={user} members={members} onClose={() => setOpen(null)} />}
      <Trouble error={change.error ?? act.error} />
    </li>
  );
}
