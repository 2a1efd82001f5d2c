import type { Rule } from '@fulvet/core';
import { useState } from 'react';
import { useTeam, useTeams } from '../../api/queries';
import { Button } from '../../parts/basics';
import { Ticks } from '../../parts/Ticks';
import { MailboxTicks } from '../../decision/SpanChoice';
import { common } from '../../parts/words';
import { scopeEditor as words } from './words';

type Scope = Rule['appliesTo'];

/** For whose mail a rule is: everyone’s, or that of some mailboxes, members and teams. */
export function ScopeEditor({ scope, onChange }: { scope: Scope; onChange: (scope: Scope) => void }) {
  const [open, setOpen] = useState(false);
  const members = useTeam().data?.members ?? [];
  const teams = useTeams().data?.teams ?? [];
  const { mailboxes, users, teams: chosen = [] } = scope;
  const number = mailboxes.length + users.length + chosen.length;
  return (
    <div className="mt-3">
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {number === 0 ? words.forEveryonesMail : words.onlyForMailboxesMembers(number)} …
      </Button>
      {open && (
        <div className="mt-2 grid gap-3 md:grid-cols-3">
          <MailboxTicks
            label={common.mailboxes}
            none={words.noneNamed}
            chosen={mailboxes}
            onChange={(next) => onChange({ ...scope, mailboxes: next })}
          />
          <Ticks
            label={common.members}
            none={words.noneNamed}
            options={members.map((member) => ({ value: member.email.toLowerCase(), shown: member.name }))}
            chosen={users}
            onChange={(next) => onChange({ ...scope, users: next })}
          />
          <Ticks
            label={common.teams}
            none={teams.length === 0 ? words.thereAreNoneYet : words.noneNamed}
            options={teams.map((team) => ({ value: team.name.toLowerCase(), shown: team.name }))}
            chosen={chosen}
            onChange={(next) => onChange({ ...scope, teams: next })}
          />
        </div>
      )}
    </div>
  );
}

/** Names one or several teams within a sentence. */
export function TeamChoice({ chosen, onChange }: { chosen: readonly string[]; onChange: (teams: string[]) => void }) {
  const teams = useTeams().data?.teams ?? [];
  if (teams.length === 0) return <span className="text-brick"> {words.thereIsNoTeam}</span>;
  return (
    <span className="inline-flex flex-wrap gap-2 px-1">
      {teams.map((team) => {
        const name = team.name.toLowerCase();
        return (
          <label key={team.id} className="inline-flex items-baseline gap-1">
            <input
              type="checkbox"
              checked={chosen.includes(name)}
              onChange={(event) => onChange(event.target.checked ? [...chosen, name] : chosen.filter((it) => it !== name))}
            />
            {team.name}
          </label>
        );
      })}
    </span>
  );
}
