import type { FilledTemplate, Template, TemplateRow } from '@fulvet/contract';
import { closeHistory } from '@tiptap/pm/history';
import type { Editor } from '@tiptap/react';
import { useCallback, useState } from 'react';
import { call } from '../../api/call';
import { useNotice } from '../../parts/Notices';
import type { OfferedLink } from '../booking/OfferTimes';
import type { DocumentOrder } from '../documents/ChooseDocuments';
import { chooseDocuments as documentWords } from '../documents/words';
import type { Draft } from '../useDraft';
import { useTemplatesFor } from './queries';
import { insertText as words } from './words';

/** A shortcut before the cursor, after the beginning of a line or a space: `;terms`. */
const SHORTCUT = /(?:^|\s);([\w-]{1,30})$/;

export interface Insert {
  /** Puts a text in at the cursor, in one step of undo. */
  insert: (template: Pick<Template, 'id' | 'kind'>, range?: { from: number; to: number }) => Promise<void>;
  /** Puts documents along with the email: as files, or as links at the cursor. */
  addDocuments: (order: DocumentOrder) => Promise<void>;
  /** Puts links in at the cursor, each on a line of its own. */
  insertLinks: (links: readonly OfferedLink[]) => void;
  /** Puts in the text block whose shortcut stands before the cursor. @returns whether there is one */
  expand: (editor: Editor) => boolean;
  onEditor: (editor: Editor) => void;
  error: Error | null;
}

/** Puts kept texts into a draft, filled for its recipient. The subject is set where there is none; else it is asked about. */
export function useInsert({ content, change, flush, addDocuments, stored }: Draft): Insert {
  const notice = useNotice();
  const [editor, setEditor] = useState<Editor | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const templates: readonly TemplateRow[] = useTemplatesFor(stored.id).data?.templates ?? [];
  const attachInForce = async (documents: FilledTemplate['documents']): Promise<void> => {
    const inForce = documents.filter(({ isInForce }) => isInForce);
    if (inForce.length > 0) await addDocuments({ documentIds: inForce.map(({ id }) => id), how: 'files' });
    const missing = documents.filter(({ isInForce }) => !isInForce);
    if (missing.length > 0) notice(words.notInForce(missing.map(({ title }) => title).join(', ')));
  };
  const addAll: Insert['addDocuments'] = async (order) => {
    const links = await addDocuments(order);
    if (order.how === 'files') return notice(documentWords.attached(order.documentIds.length));
    insertLinks(links.map(({ title, url }) => ({ words: title, url })));
  };
  const insertLinks: Insert['insertLinks'] = (links) => {
    const anchors = links.map(({ words: text, url }) => ({ type: 'text', text, marks: [{ type: 'link', attrs: { href: url } }] }));
    editor
      ?.chain()
      .focus()
      .command(({ tr }) => Boolean(closeHistory(tr)))
      .insertContent([
        ...anchors.flatMap((anchor, at) => (at === 0 ? [anchor] : [{ type: 'hardBreak' }, anchor])),
        // What is typed next is no part of the link.
        { type: 'text', text: ' ' },
      ])
      .run();
  };
  const insert: Insert['insert'] = async ({ id }, range) => {
    try {
      // Filled for whom it is written to by now.
      await flush();
      const { subject, html, empty, documents } = await call('fillTemplate', { id, body: { outgoingId: stored.id } });
      // A step of undo of its own, even right after typing.
      const chain = editor
        ?.chain()
        .focus()
        .command(({ tr }) => Boolean(closeHistory(tr)));
      (range ? chain?.deleteRange(range) : chain)?.insertContent(html).run();
      setError(null);
      await attachInForce(documents);
      if (empty.length > 0) notice(words.fill(empty.map(({ label }) => label).join(', ')));
      if (subject === '' || subject === content.subject) return;
      if (content.subject.trim() === '') change({ subject });
      else notice(words.subjectIs(subject), { label: words.replaceSubject, run: () => change({ subject }) });
    } catch (failure) {
      setError(failure as Error);
    }
  };
  const expand: Insert['expand'] = (current) => {
    const { $from, from, empty } = current.state.selection;
    if (!empty) return false;
    const before = $from.parent.textBetween(0, $from.parentOffset, undefined, '\ufffc');
    const shortcut = SHORTCUT.exec(before)?.[1];
    const block =
      shortcut && templates.find((template) => template.kind === 'block' && template.shortcut.toLowerCase() === shortcut.toLowerCase());
    if (!block) return false;
    void insert(block, { from: from - shortcut.length - 1, to: from });
    return true;
  };
  return { insert, addDocuments: addAll, insertLinks, expand, onEditor: useCallback((made) => setEditor(made), []), error };
}
