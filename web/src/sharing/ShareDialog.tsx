import type { EmailDetail, SharingChoiceRequest, User } from '@fulvet/contract';
import { SHARE_LEVELS } from '@fulvet/core';
import { useEffect, useState } from 'react';
import { useSharingChoices } from './queries';
import { stepOf } from './useSharing';
import { call } from '../api/call';
import { useRefreshAll, useTeam, useTeams } from '../api/queries';
import { Form, FormEnd, SelectField, TickField } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { Option } from '../parts/Select';
import { Ticks } from '../parts/Ticks';
import { useUndo } from '../parts/useUndo';
import { common } from '../parts/words';
import { shareDialog as words } from './words';

type Scope = SharingChoiceRequest['scope'];
type Who = 'rules' | 'owner' | 'record' | 'teams' | 'everyone' | 'seal' | 'people';

const LABELS: Record<Exclude<Who, 'rules'>, string> = {
  people: words.letSingleColleaguesRead,
  owner: words.onlyYouReadIt,
  record: words.ownersOfItsRecords,
  teams: common.teams,
  everyone: words.everyoneInTheWorkspace,
  seal: words.sealItNoOne,
};

const SAID: Partial<Record<Who, string>> = {
  seal: words.sealedNoOneElse,
  people: words.sharedTheyReadIt,
};

/** The owner says who sees an email, its conversation, or everything with the person or company in it. */
export function ShareDialog({ email, user, onClose }: { email: EmailDetail; user: User; onClose: () => void }) {
  const outsider =
    email.content?.participants.find(
      (participant) =>
        !participant.ours && participant.role !== 'sender' && participant.role !== 'replyTo' && participant.role !== 'claimed',
    )?.address ?? null;
  const domain = outsider?.slice(outsider.lastIndexOf('@') + 1) ?? null;
  const [teams, setTeams] = useState<string[]>([]);
  const [people, setPeople] = useState<string[]>([]);
  const choices = useSharingChoices(email.id);
  const team = useTeam();
  const allTeams = useTeams();
  const widest = choices.data?.widest ?? 'everyone';
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  const form = useSentForm({
    values: { who: 'people', scope: 'conversation', existenceOnly: false, always: true } as {
      who: Exclude<Who, 'rules'>;
      scope: Scope;
      existenceOnly: boolean;
      always: boolean;
    },
    send: (values): Promise<object> => {
      const ofMany = values.scope === 'person' || values.scope === 'domain';
      if (values.who === 'people')
        return call('addGrants', {
          body: { scope: values.scope === 'email' ? 'email' : 'conversation', emailId: email.id, to: people.map(Number) },
        });
      return call('addSharingChoice', {
        body: {
          does: values.who === 'seal' ? 'seal' : 'share',
          scope: values.scope,
          ...(ofMany ? { value: values.scope === 'person' ? outsider : domain } : { emailId: email.id }),
          ...(values.who === 'seal'
            ? {}
            : {
                level: values.who,
                teams: values.who === 'teams' ? teams : [],
                existenceOnly: values.existenceOnly && values.who !== 'owner',
              }),
          always: values.always,
        } as SharingChoiceRequest,
      });
    },
    onDone: async (answer, values) => {
      await refresh();
      notice(SAID[values.who] ?? words.yourChoiceIsSaved, undo(stepOf(answer)));
      onClose();
    },
  });
  const { who, scope } = form.fields.watch();
  const isWord = who !== 'people';
  const about = scope === 'person' || scope === 'domain';
  // Single colleagues are let read a conversation or an email, and no more.
  useEffect(() => {
    if (!isWord && about) form.fields.setValue('scope', 'conversation');
  }, [isWord, about, form.fields]);
  const scopes: { value: Scope; label: string }[] = [
    { value: 'conversation', label: words.thisConversationLaterEmails },
    { value: 'email', label: words.thisEmailAlone },
    ...(outsider ? [{ value: 'person' as const, label: words.everythingOfMineWith(outsider) }] : []),
    ...(domain ? [{ value: 'domain' as const, label: words.everythingOfMineWithForDomain(domain) }] : []),
  ];
  const ready = (who !== 'teams' || teams.length > 0) && (who !== 'people' || people.length > 0);
  return (
    <Modal open onClose={onClose} title={common.whoSeesIt}>
      <Form form={form}>
        <SelectField form={form} name="who" label={words.who}>
          {(Object.keys(LABELS) as Exclude<Who, 'rules'>[])
            .filter((key) => key === 'seal' || key === 'people' || SHARE_LEVELS.indexOf(key) <= SHARE_LEVELS.indexOf(widest))
            .map((keyValue) => (
              <Option key={keyValue} value={keyValue}>
                {LABELS[keyValue]}
              </Option>
            ))}
        </SelectField>
        <SelectField form={form} name="scope" label={words.ofWhat}>
          {scopes
            .filter((item) => isWord || item.value === 'email' || item.value === 'conversation')
            .map((item) => (
              <Option key={item.value} value={item.value}>
                {item.label}
              </Option>
            ))}
        </SelectField>
        {who === 'people' && (
          <Ticks
            label={words.colleagues}
            none={words.noOneYet}
            options={(team.data?.members ?? [])
              .filter((member) => member.active && member.id !== user.id)
              .map((member) => ({ value: String(member.id), shown: member.name }))}
            chosen={people}
            onChange={setPeople}
          />
        )}
        {who === 'teams' && (
          <Ticks
            label={common.teams}
            none={words.noneYet}
            options={(allTeams.data?.teams ?? []).map((item) => ({ value: item.name, shown: item.name }))}
            chosen={teams}
            onChange={setTeams}
          />
        )}
        {(who === 'record' || who === 'teams' || who === 'everyone') && (
          <TickField form={form} name="existenceOnly" label={words.onlyThatItExists} />
        )}
        {about && <TickField form={form} name="always" label={words.laterMailAsWell} />}
        <p className="text-sm text-muted">{who === 'seal' ? words.itLeavesEveryHistory : words.yourChoiceOverridesThe}</p>
        <FormEnd form={form} label={who === 'seal' ? words.seal : words.saveThisChoice} disabled={!ready} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
