import type { TemplateRow } from '@fulvet/contract';
import { useState } from 'react';
import { Trouble } from '../../parts/basics';
import { Modal } from '../../parts/Modal';
import { SearchList } from '../../parts/SearchList';
import type { SearchGroup } from '../../parts/SearchList';
import { common } from '../../parts/words';
import { useTemplatesFor } from './queries';
import { insertText as words, kindsMany } from './words';

/** What may be put into a draft; what fits the answered email stands first. */
export default function InsertText({
  outgoingId,
  onChoose,
  onClose,
}: {
  outgoingId: number;
  onChoose: (template: TemplateRow) => void;
  onClose: () => void;
}) {
  const found = useTemplatesFor(outgoingId);
  const [text, setText] = useState('');
  const parts = text.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = ({ name, folder, shortcut, subject, beginning, language }: TemplateRow): boolean => {
    const all = [name, folder, shortcut, subject, beginning, language].join(' ').toLowerCase();
    return parts.every((part) => all.includes(part));
  };
  const named = ({ name, shortcut }: TemplateRow): number =>
    parts.every((part) => `${name} ${shortcut}`.toLowerCase().includes(part)) ? 0 : 1;
  // Those whose name has the words come first; otherwise the order is that of the server.
  const list = (found.data?.templates ?? []).filter(fits).sort((first, second) => named(first) - named(second));
  const groups = [...new Set(list.map(({ kind }) => kind))].map((kind): SearchGroup => ({
    name: kindsMany[kind],
    choices: list
      .filter((template) => template.kind === kind)
      .map((template) => ({
        key: String(template.id),
        choose: () => onChoose(template),
        content: (
          <span className="flex min-w-0 items-baseline gap-2.5">
            <span className="shrink-0 font-medium">{template.name}</span>
            <span className="min-w-0 truncate text-sm text-muted">{template.subject || template.beginning}</span>
            <span className="ml-auto shrink-0 text-sm text-muted">
              {[template.shortcut && `;${template.shortcut}`, template.language, template.folder].filter(Boolean).join(' · ')}
            </span>
          </span>
        ),
      })),
  }));
  return (
    <Modal open onClose={onClose} title={words.title} wide>
      <Trouble error={found.error} />
      <SearchList
        label={words.find}
        placeholder={words.find}
        text={text}
        onText={setText}
        groups={groups}
        nothing={found.isPending ? common.looking : words.nothing}
      />
    </Modal>
  );
}
