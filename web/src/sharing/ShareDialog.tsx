import type { EmailDetail, OwnWordRequest, User } from '@fulvet/contract';
import { SHARE_LEVELS } from '@fulvet/core';
import { useState } from 'react';
import { useSharing, useWords } from './queries';
import { call } from '../api/call';
import { useTeam, useTeams } from '../api/queries';
import { Button, Field, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { Select } from '../parts/Select';
import { Ticks } from '../parts/Ticks';

type Scope = OwnWordRequest['scope'];
type Who = 'rules' | 'owner' | 'record' | 'teams' | 'everyone' | 'seal' | 'people';

const LABELS: Record<Exclude<Who, 'rules'>, string> = {
  people: 'Let single colleagues read it',
  owner: 'Nobody else reads it (administrators know that it exists)',
  record: 'Those who own its records, and the deal’s team',
  teams: 'Teams',
  everyone: 'Everyone in the workspace',
  seal: 'Seal it: nobody else learns that it exists',
};

/** The owner says who sees an email, its conversation, or everything with the person or company in it. */
export function ShareDialog({ email, user, onClose }: { email: EmailDetail; user: User; onClose: () => void }) {
  const outsider =
    email.content?.participants.find(
      (participant) =>
        !participant.ours && participant.role !== 'sender' && participant.role !== 'replyTo' && participant.role !== 'claimed',
    )?.address ?? null;
  const domain = outsider?.slice(outsider.lastIndexOf('@') + 1) ?? null;
  const [scope, setScope] = useState<Scope>('conversation');
  const [who, setWho] = useState<Exclude<Who, 'rules'>>('people');
  const [teams, setTeams] = useState<string[]>([]);
  const [people, setPeople] = useState<string[]>([]);
  const [existenceOnly, setExistenceOnly] = useState(false);
  const [always, setAlways] = useState(true);
  const words = useWords(email.id);
  const team = useTeam();
  const allTeams = useTeams();
  const widest = words.data?.widest ?? 'everyone';
  const isWord = who !== 'people';
  const about = scope === 'person' || scope === 'domain';
  const save = useSharing(
    () =>
      who === 'people'
        ? call('addGrants', { body: { scope: scope === 'email' ? 'email' : 'conversation', emailId: email.id, to: people.map(Number) } })
        : call('addOwnWord', {
            body: {
              does: who === 'seal' ? 'seal' : 'share',
              scope,
              ...(about ? { value: scope === 'person' ? outsider : domain } : { emailId: email.id }),
              ...(who === 'seal'
                ? {}
                : { level: who, teams: who === 'teams' ? teams : [], existenceOnly: existenceOnly && who !== 'owner' }),
              always,
            } as OwnWordRequest,
          }),
    () =>
      who === 'seal'
        ? 'Sealed. Nobody else learns that it exists.'
        : who === 'people'
          ? 'Shared. They read it from now on.'
          : 'Said. It is seen by that from now on.',
  );
  const scopes: { value: Scope; label: string }[] = [
    { value: 'conversation', label: 'This conversation, later emails too' },
    { value: 'email', label: 'This email alone' },
    ...(outsider ? [{ value: 'person' as const, label: `Everything of mine with ${outsider}` }] : []),
    ...(domain ? [{ value: 'domain' as const, label: `Everything of mine with ${domain}` }] : []),
  ];
  const ready = (who !== 'teams' || teams.length > 0) && (who !== 'people' || people.length > 0);
  return (
    <Modal open onClose={onClose} title="Who sees it">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate(undefined, { onSuccess: onClose });
        }}
      >
        <Field label="Who">
          <Select value={who} onChange={(event) => setWho(event.target.value as Exclude<Who, 'rules'>)}>
            {(Object.keys(LABELS) as Exclude<Who, 'rules'>[])
              .filter((key) => key === 'seal' || key === 'people' || SHARE_LEVELS.indexOf(key) <= SHARE_LEVELS.indexOf(widest))
              .map((keyValue) => (
                <option key={keyValue} value={keyValue}>
                  {LABELS[keyValue]}
                </option>
              ))}
          </Select>
        </Field>
        <Field label="Of what">
          <Select value={scope} onChange={(event) => setScope(event.target.value as Scope)}>
            {scopes
              .filter((item) => isWord || item.value === 'email' || item.value === 'conversation')
              .map((item) => (
                <option key={item.value} value={item.value}>
                  {item.label}
                </option>
              ))}
          </Select>
        </Field>
        {who === 'people' && (
          <Ticks
            label="Colleagues"
            none="nobody yet"
            options={(team.data?.members ?? [])
              .filter((member) => member.active && member.id !== user.id)
              .map((member) => ({ value: String(member.id), shown: member.name }))}
            chosen={people}
            onChange={setPeople}
          />
        )}
        {who === 'teams' && (
          <Ticks
            label="Teams"
            none="none yet"
            options={(allTeams.data?.teams ?? []).map((item) => ({ value: item.name, shown: item.name }))}
            chosen={teams}
            onChange={setTeams}
          />
        )}
        {(who === 'record' || who === 'teams' || who === 'everyone') && (
          <label className="flex items-baseline gap-2">
            <input type="checkbox" checked={existenceOnly} onChange={(event) => setExistenceOnly(event.target.checked)} />
            Only that it exists: when, which colleague, which company; no subject, no text, no names
          </label>
        )}
        {about && (
          <label className="flex items-baseline gap-2">
            <input type="checkbox" checked={always} onChange={(event) => setAlways(event.target.checked)} />
            Later mail as well
          </label>
        )}
        <p className="text-sm text-muted">
          {who === 'seal'
            ? 'It leaves every history, count and search of others, administrators included. You find it under My mail, and can unseal it under Sharing.'
            : 'Your word goes before the rules. You can take it back under Sharing.'}
        </p>
        <Trouble error={save.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="main" type="submit" disabled={save.isPending || !ready}>
            {who === 'seal' ? 'Seal' : 'Share so'}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
