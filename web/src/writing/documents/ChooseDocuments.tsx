import type { DocumentRow, Input } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Button, TextInput, Trouble, Waiting } from '../../parts/basics';
import { Modal } from '../../parts/Modal';
import { bytes } from '../../parts/numbers';
import { Option, Select } from '../../parts/Select';
import { common } from '../../parts/words';
import { useDocumentsToSend } from './queries';
import { chooseDocuments as words } from './words';

const DAYS = [7, 30, 90, 365];
const USUAL_DAYS = 90;

export type DocumentOrder = Input<'addDocuments'>['body'];

/** Documents that go along with an email, several in one step: attached, or as links. */
export default function ChooseDocuments({ onAdd, onClose }: { onAdd: (order: DocumentOrder) => Promise<void>; onClose: () => void }) {
  const found = useDocumentsToSend();
  const [text, setText] = useState('');
  const [chosen, setChosen] = useState<readonly number[]>([]);
  const [days, setDays] = useState(USUAL_DAYS);
  const add = useMutation({
    mutationFn: (how: DocumentOrder['how']) => onAdd({ documentIds: [...chosen], how, days }),
    onSuccess: onClose,
  });
  const parts = text.toLowerCase().split(/\s+/).filter(Boolean);
  const all = found.data?.documents ?? [];
  const list = all.filter(({ title, topic, current, language }) => {
    const said = [title, topic, current?.name, language].join(' ').toLowerCase();
    return parts.every((part) => said.includes(part));
  });
  const size = all.filter(({ id }) => chosen.includes(id)).reduce((sum, { current }) => sum + (current?.size ?? 0), 0);
  const isLinkable = found.data?.linkAddress != null;
  return (
    <Modal open onClose={onClose} title={words.title} wide>
      <Trouble error={found.error} />
      <TextInput
        autoFocus
        aria-label={words.find}
        placeholder={words.find}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {found.isPending ? (
        <Waiting what={common.loading} />
      ) : list.length === 0 ? (
        <p className="mt-2 text-muted">{all.length === 0 ? words.none : words.nothing}</p>
      ) : (
        <div className="mt-2 max-h-[42vh] overflow-y-auto">
          <Topics list={list} chosen={chosen} onChosen={setChosen} />
        </div>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-2 border-t border-line pt-3">
        <Button kind="main" disabled={chosen.length === 0 || add.isPending} onClick={() => add.mutate('files')}>
          {words.attach(chosen.length)}
        </Button>
        <Button disabled={chosen.length === 0 || !isLinkable || add.isPending} onClick={() => add.mutate('links')}>
          {words.insertLinks(chosen.length)}
        </Button>
        {isLinkable ? (
          <span className="flex items-center gap-1.5 text-sm text-muted">
            {words.linksAnswer}
            <Select aria-label={words.linksAnswer} fit="words" value={String(days)} onValue={(value) => setDays(Number(value))}>
              {DAYS.map((value) => (
                <Option key={value} value={String(value)}>
                  {words.days(value)}
                </Option>
              ))}
            </Select>
          </span>
        ) : (
          found.data && <span className="text-sm text-muted">{words.noAddress}</span>
        )}
        {chosen.length > 0 && <span className="ml-auto text-sm text-muted">{words.together(bytes(size))}</span>}
      </div>
      <Trouble error={add.error} />
    </Modal>
  );
}

function Topics({
  list,
  chosen,
  onChosen,
}: {
  list: readonly DocumentRow[];
  chosen: readonly number[];
  onChosen: (chosen: readonly number[]) => void;
}) {
  const set = (ids: readonly number[], isOn: boolean): void =>
    onChosen(isOn ? [...new Set([...chosen, ...ids])] : chosen.filter((id) => !ids.includes(id)));
  return [...new Set(list.map(({ topic }) => topic))].map((topic) => {
    const those = list.filter((document) => document.topic === topic);
    const ids = those.map(({ id }) => id);
    return (
      <fieldset key={topic} className="mb-3">
        <legend className="w-full border-b border-line pb-0.5 text-sm font-medium text-muted">
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              aria-label={words.allOf(topic || words.noTopic)}
              checked={ids.every((id) => chosen.includes(id))}
              onChange={(event) => set(ids, event.target.checked)}
            />
            {topic || words.noTopic}
          </label>
        </legend>
        {those.map(({ id, title, language, current }) => (
          <label key={id} className="flex min-h-8 items-center gap-2 hover:bg-sunk">
            <input type="checkbox" checked={chosen.includes(id)} onChange={(event) => set([id], event.target.checked)} />
            <span className="font-medium">{title}</span>
            <span className="min-w-0 truncate text-sm text-muted">{[current?.name, language].filter(Boolean).join(' · ')}</span>
            <span className="ml-auto text-sm whitespace-nowrap text-muted">{current && bytes(current.size)}</span>
          </label>
        ))}
      </fieldset>
    );
  });
}
